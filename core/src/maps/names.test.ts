import { describe, expect, it } from 'vitest';
import { classifyNames } from './classifyName.ts';
import { splitNames } from './nameWords.ts';

describe('names as words and marks', () => {
  it.each<[string, string[], string[]]>([
    ['t/Hull_BaseColor_4k.png', ['hull', 'base', 'color'], ['4k']],
    ['t/hull_0512.png', ['hull'], ['0512']],
    ['t/hull_5120.png', ['hull', '5120'], []],
    ['t/hull_v02_copy.png', ['hull'], ['v02', 'copy']],
    ['t/hull (2).png', ['hull'], ['(2)']],
    ['t/hull.1001.exr', ['hull'], ['1001']],
    ['t/1001_hull.exr', ['hull'], ['1001']],
    ['t/hull.<UDIM>.exr', ['hull'], ['<udim>']],
    ['t/hull_u1_v2.exr', ['hull'], ['u1 v2']],
    ['t/HullColor2K.png', ['hull', 'color'], ['2k']],
    ['t/hull_sRGB.png', ['hull'], ['srgb']],
    ['t/hull_1024x512.png', ['hull'], ['1024x512']],
    ['t/hull_16bit_linear.tif', ['hull'], ['16bit', 'linear']],
    // A mark that is the whole name is its name.
    ['t/copy.png', ['copy'], []],
    ['t/crate_07.png', ['crate', '07'], []],
  ])('%s', (path, words, marks) => {
    const [found] = splitNames([path]);
    expect([...found.words]).toEqual(words);
    expect([...found.marks]).toEqual(marks);
  });

  it('that differ in numbers which count parts keep them', () => {
    expect(splitNames(['part_511.png', 'part_512.png']).map(({ words }) => words)).toEqual([
      ['part', '511'],
      ['part', '512'],
    ]);
    expect(splitNames(['part_256.png', 'part_512.png']).map(({ words }) => words)).toEqual([
      ['part'],
      ['part'],
    ]);
    expect(splitNames(['hull_511.png', 'part_512.png'])[1].words).toEqual(['part']);
  });

  it('that end in a number of bits behind a channel lose it, unless it counts parts', () => {
    expect(splitNames(['hull_height16.png'])[0]).toEqual({ words: ['hull', 'height'], marks: ['16'] });
    expect(splitNames(['hull_16.png'])[0].words).toEqual(['hull', '16']);
    expect(splitNames(['hull_height_7.png'])[0].words).toEqual(['hull', 'height', '7']);
    expect(splitNames(['hull_color_8.png', 'hull_color_9.png']).map(({ words }) => words)).toEqual([
      ['hull', 'color', '8'],
      ['hull', 'color', '9'],
    ]);
  });
});

describe('words of names', () => {
  const read = (...names: string[]) =>
    classifyNames(names).map(({ set, readings, confidence, helper }) => [
      set,
      readings
        .map(
          ({ component, channel, invert, normalY }) =>
            `${component} ${channel}${invert ? ' inverted' : ''}${normalY ? ` ${normalY}` : ''}`,
        )
        .join(', '),
      confidence,
      helper,
    ]);

  it.each<[string, string, string, number]>([
    ['hull_basecolor', 'hull', 'rgb baseColor', 0.95],
    ['hull base color', 'hull', 'rgb baseColor', 0.95],
    ['hull_roughness', 'hull', 'r roughness', 0.95],
    ['hullroughness', 'hull', 'r roughness', 0.8],
    ['roughnesshull', 'hull', 'r roughness', 0.8],
    ['hull_normal_opengl', 'hull', 'rgb normal Y+', 0.95],
    ['hull_normal_dx', 'hull', 'rgb normal Y-', 0.95],
    ['hull_metallic_roughness', 'hull', 'g roughness, b metalness', 0.95],
    ['hull_metallic_glossiness', 'hull', 'r metalness, a glossiness', 0.95],
    ['hull_normal_height', 'hull', 'rgb normal, a height', 0.95],
    ['hull_basecolor_opacity', 'hull', 'rgb baseColor, a opacity', 0.95],
    ['hull_occlusion_roughness_metallic', 'hull', 'r occlusion, g roughness, b metalness', 0.95],
    ['hull_orm', 'hull', 'r occlusion, g roughness, b metalness', 0.95],
    ['hull_packed_mask_orm', 'hull', 'r occlusion, g roughness, b metalness', 0.95],
    ['hull_o_r_m', 'hull', 'r occlusion, g roughness, b metalness', 0.95],
    ['hull_ao_r_m', 'hull', 'r occlusion, g roughness, b metalness', 0.95],
    ['hull_height_roughness', 'hull', 'r height, g roughness', 0.5],
  ])('%s', (name, set, readings, confidence) => {
    expect(read(`t/${name}.png`)).toEqual([[set, readings, confidence, false]]);
  });

  it.each([
    ['hull_albedoalpha', 'boat_albedo', 'rgb baseColor, a opacity'],
    ['hull_normalheight', 'boat_normal', 'rgb normal, a height'],
    ['hull_normalmap', 'boat_normal', 'rgb normal'],
    ['hull_metallicroughness', 'boat_metallic', 'g roughness, b metalness'],
    ['hull_ベースカラー', 'boat_カラー', 'rgb baseColor'],
  ])('%s is read as a whole beside %s', (name, beside, readings) => {
    expect(read(`t/${name}.png`, `t/${beside}.png`)[0]).toEqual(['hull', readings, 0.95, false]);
  });

  it('in an order belong to the thing where others of its names hold them', () => {
    const roof = ['color', 'normal', 'gls', 'ao', 'hgt'].map((word) => `t/roof_metal_${word}.png`);
    const readings = ['rgb baseColor', 'rgb normal', 'r glossiness', 'r occlusion', 'r height'];
    expect(read(...roof).map(([set, reading]) => [set, reading])).toEqual(
      readings.map((reading) => ['roof metal', reading]),
    );
    // Beside another roof, whose maps would be siblings of `roof`.
    const other = ['t/roof_color.png', 't/roof_normal.png', 't/roof_gls.png'];
    expect(read(...roof, ...other).map(([set]) => set)).toEqual([
      ...Array(5).fill('roof metal'),
      ...Array(3).fill('roof'),
    ]);
    expect(read('t/roof_color.png', 't/roof_metal_rough.png')[1].slice(0, 2)).toEqual([
      'roof',
      'g roughness, b metalness',
    ]);
    // Inputs as OpenPBR calls them.
    const open = ['base_color', 'base_metalness', 'specular_roughness'].map((word) => `t/net_${word}.png`);
    expect(read(...open).map(([set]) => set)).toEqual(['net', 'net', 'net']);
    const wood = ['color', 'metalness', 'roughness'].map((word) => `t/wood_base_${word}.png`);
    expect(read(...wood).map(([set]) => set)).toEqual(Array(3).fill('wood base'));
    const stand = ['albedo', 'rough', 'ao', 'metalRough'].map((word) => `t/${word}_mask_stand.png`);
    expect(read(...stand).map(([set, reading]) => [set, reading])).toEqual([
      ['mask stand', 'rgb baseColor'],
      ['mask stand', 'r roughness'],
      ['mask stand', 'r occlusion'],
      ['mask stand', 'g roughness, b metalness'],
    ]);
  });

  it('that spell an order stay one where other things have a map for its last word alone', () => {
    const others = ['boat', 'mast', 'sail', 'lamp'].map((thing) => `t/${thing}_Roughness.png`);
    expect(read('t/crate_MetallicRoughness.png', 't/crate_Color.png', ...others)[0].slice(0, 2)).toEqual([
      'crate',
      'g roughness, b metalness',
    ]);
    const before = ['boat', 'mast', 'sail'].map((thing) => `t/Albedo_${thing}.png`);
    expect(read('t/AlbedoTransparency_net.png', 't/Rough_net.png', ...before)[0].slice(0, 2)).toEqual([
      'net',
      'rgb baseColor, a opacity',
    ]);
  });

  it('that are helpers feed no channel', () => {
    for (const name of [
      'hull_world_normal',
      'hull_normal_os',
      'hull_curvature',
      'hull_position',
      'hull_thumbnail',
    ]) {
      const [[set, readings, , helper]] = read(`${name}.png`);
      expect([name, set, readings, helper]).toEqual([name, 'hull', '', true]);
    }
  });

  it('in pairs of letters need siblings, letters alone the letters beside them', () => {
    expect(read('hull_mr.png')[0]).toEqual(['hull mr', '', 0, false]);
    expect(read('hull_mr.png', 'hull_basecolor.png')[0][1]).toBe('g roughness, b metalness');
    expect(read('hull_m.png', 'hull_r.png', 'hull_n.png').map(([, readings]) => readings)).toEqual([
      'r metalness',
      'r roughness',
      'rgb normal',
    ]);
    expect(read('hull_d.png', 'hull_n.png', 'hull_s.png').map(([, readings]) => readings)).toEqual([
      'rgb baseColor',
      'rgb normal',
      'rgb specularColor',
    ]);
    expect(read('hull_b.png', 'hull_d.png')[0][1]).toBe('r bump');
    expect(read('hull_c.png', 'hull_d.png')[1][1]).toBe('r height');
  });

  it('have letters before them where three and a normal do, and no word ends them', () => {
    const sets = (...names: string[]) => read(...names).map(([set, readings]) => `${set}: ${readings}`);
    expect(sets('D_hull.png', 'N_hull.png', 'R_hull.png')).toEqual([
      'hull: rgb baseColor',
      'hull: rgb normal',
      'hull: r roughness',
    ]);
    // Variants by letter, two alone, and colours of three things.
    expect(sets('a_hull.png', 'b_hull.png', 'c_hull.png')).toEqual(['a hull: ', 'b hull: ', 'c hull: ']);
    expect(sets('d_hull.png', 'n_hull.png')).toEqual(['d hull: ', 'n hull: ']);
    expect(sets('n_hull_color.png', 'm_hull_color.png', 'r_hull_color.png')).toEqual([
      'n hull: rgb baseColor',
      'm hull: rgb baseColor',
      'r hull: rgb baseColor',
    ]);
    // A thing that is called like a channel says none behind letters that do; a word for a map does.
    expect(sets('D_metal.png', 'N_metal.png', 'R_metal.png')).toEqual([
      'metal: rgb baseColor',
      'metal: rgb normal',
      'metal: r roughness',
    ]);
    expect(sets('D_metallic.png', 'N_metallic.png')[0]).toContain('metalness');
    // `ro` alone may be two letters for two channels.
    expect(sets('hull_co.png', 'hull_no.png', 'hull_ro.png')[2]).toBe('hull: r roughness');
    expect(sets('hull_no.png', 'hull_me.png')).toEqual(['hull no: ', 'hull me: ']);
  });

  it('lose numbers that count the channels of a thing, and keep those of things', () => {
    const sets = (...names: string[]) => read(...names).map(([set]) => set);
    expect(sets('hull_1_color.png', 'hull_2_normal.png', 'hull_3_rough.png')).toEqual(Array(3).fill('hull'));
    expect(sets('01/hull_01.png', '02/hull_02.png')).toEqual(['hull 01', 'hull 02']);
    const folders = ['01_albedo/hull_01.png', '02_normal/hull_02.png', '03_rough/hull_03.png'];
    expect(read(...folders).map(([set, readings]) => `${set}: ${readings}`)).toEqual([
      'hull: rgb baseColor',
      'hull: rgb normal',
      'hull: r roughness',
    ]);
    expect(sets('hull_1_color.png', 'hull_2_normal.png')).toEqual(['hull 1', 'hull 2']);
    expect(sets('hull_1_color.png', 'hull_2_color.png', 'hull_3_normal.png')).toEqual([
      'hull 1',
      'hull 2',
      'hull 3',
    ]);
    const whole = ['color', 'normal', 'rough'].flatMap((word) => [
      `hull_1_${word}.png`,
      `hull_2_${word}.png`,
    ]);
    expect(new Set(sets(...whole))).toEqual(new Set(['hull 1', 'hull 2']));
  });

  it('lie in folders of channels, which tell more than they do', () => {
    const told = (...names: string[]) => read(...names).map(([set, readings]) => `${set}: ${readings}`);
    expect(told('BaseColor/metal.png', 'Normal/metal.png', 'Roughness/metal.png')).toEqual([
      'metal: rgb baseColor',
      'metal: rgb normal',
      'metal: r roughness',
    ]);
    // Folders of things that are called like channels.
    expect(told('Metal/normal.png', 'Glow/normal.png')).toEqual([': rgb normal', ': rgb normal']);
  });

  it('take house words first', () => {
    const [found] = classifyNames(['hull_glim.png'], { house: { glim: 'emission' } });
    expect(found.readings).toEqual([{ channel: 'emission', component: 'rgb', invert: false, normalY: null }]);
    expect(found.telling).toBe('glim');
  });

  it('tell the set apart from words that only say that it is an image', () => {
    expect(read('hull_roughness_map.png')[0][0]).toBe('hull');
    expect(read('tex_hull_roughness.png')[0][0]).toBe('hull');
    expect(read('hull_mast_roughness.png')[0][0]).toBe('hull mast');
  });
});

describe('two channels in one name', () => {
  const read = (name: string) => {
    const [{ readings, confidence }] = classifyNames([`${name}.png`]);
    return [readings.map(({ component, channel }) => `${component} ${channel}`).join(', '), confidence];
  };

  it.each([
    ['hull_metallicRoughness', 'g roughness, b metalness', 0.95],
    ['hull_metallic_smoothness', 'r metalness, a glossiness', 0.95],
    ['hull_occlusion_roughness_metallic', 'r occlusion, g roughness, b metalness', 0.95],
    ['hull_basecolor_opacity', 'rgb baseColor, a opacity', 0.95],
    ['hull_albedo_transparency', 'rgb baseColor, a opacity', 0.95],
    ['hull_specular_glossiness', 'rgb specularColor, a glossiness', 0.95],
    ['hull_normal_height', 'rgb normal, a height', 0.95],
  ])('%s', (name, readings, confidence) => {
    expect(read(name)).toEqual([readings, confidence]);
  });
});

describe('names beside each other in one folder', () => {
  const setsOf = (...names: string[]) =>
    Object.fromEntries(
      classifyNames(names).map(({ path, set, readings, helper }) => [
        path,
        helper ? 'helper' : `${set}: ${readings.map(({ channel }) => channel).join() || '?'}`,
      ]),
    );

  it('`pipe_n` beside `pipe` is its normal, and no other letter tells as much', () => {
    expect(setsOf('pipe.png', 'pipe_n.png')).toEqual({
      'pipe.png': 'pipe: baseColor',
      'pipe_n.png': 'pipe: normal',
    });
    expect(setsOf('pipe.png', 'pipe_s.png')['pipe_s.png']).toBe('pipe: ?');
    expect(setsOf('hull.png', 'pipe_n.png')['pipe_n.png']).toBe('pipe: ?');
    expect(setsOf('a/pipe.png', 'b/pipe_n.png')['b/pipe_n.png']).toBe('pipe: ?');
  });

  it('the one that says nothing beside bare words for channels is their base colour', () => {
    expect(setsOf('leaf.png', 'leaf.dds', 'norm.png', 'spec.png')).toEqual({
      'leaf.png': 'leaf: baseColor',
      'leaf.dds': 'leaf: baseColor',
      'norm.png': 'leaf: normal',
      'spec.png': 'leaf: specularColor',
    });
    // Where there is a colour, where two say nothing, or where other things lie, it may be anything.
    expect(setsOf('leaf.png', 'diffuse.png', 'normal.png')['leaf.png']).toBe('leaf: ?');
    expect(setsOf('leaf.png', 'bark.png', 'normal.png')['leaf.png']).toBe('leaf: ?');
    expect(setsOf('leaf.png', 'normal.png', 'bark_rough.png')['leaf.png']).toBe('leaf: ?');
    expect(setsOf('leaf.png', 'rough.png')['leaf.png']).toBe('leaf: ?');
    expect(setsOf('leaf.png', 'curvature.png', 'normal.png')).toMatchObject({
      'leaf.png': 'leaf: baseColor',
      'curvature.png': 'helper',
    });
  });

  it('a word for a channel that others have as their thing is one', () => {
    expect(setsOf('base_diffuse.png', 'base_normal.png', 'base_wear.png')['base_wear.png']).toBe('base: ?');
    expect(setsOf('base_wear.png', 'hull_normal.png')['base_wear.png']).toBe('wear: baseColor');
  });

  it('several masks in one image are no channel, and a skin is a colour', () => {
    expect(setsOf('diffus.png', 'masks.png', 'normal.png')).toEqual({
      'diffus.png': ': baseColor',
      'masks.png': 'helper',
      'normal.png': ': normal',
    });
    expect(setsOf('masks.png')).toEqual({ 'masks.png': 'masks: ?' });
    expect(setsOf('skin1.png', 'norms1.png', 'skin2.png', 'norms2.png')).toEqual({
      'skin1.png': '1: baseColor',
      'norms1.png': '1: normal',
      'skin2.png': '2: baseColor',
      'norms2.png': '2: normal',
    });
    expect(setsOf('skin_color.png', 'skin_normal.png')['skin_color.png']).toBe('skin: baseColor');
  });
});
