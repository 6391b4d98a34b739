import { describe, expect, it } from 'vitest';
import { mendAsset } from '../../inspect.ts';
import type { MapUse, Material } from '../../scene/material.ts';
import { testMaterial } from '../../test/assets.ts';
import { look, mended, type Paint } from '../../test/sets.ts';

const hues: Paint = (x, y) => [200 - x, 90 + y, 40];

describe('what a classic material has for want of slots', () => {
  const greys: Paint = (x, y) => Array(3).fill((x * 3 + y) & 255);
  const twos: Paint = (x) => Array(3).fill(x < 20 ? 0 : 255);
  const bumps: Paint = (x, y) => [128 + ((x * 13) % 40) - 20, 128 + ((y * 17) % 40) - 20, 250];
  const classic = (workflow: Material['workflow'], maps: Record<string, string>) =>
    Object.assign(testMaterial('Hull', maps), { workflow, exponent: workflow === 'legacy' ? 30 : null });
  const after = (material: Material, paints: Record<string, Paint>) => {
    const paths = Object.keys(paints);
    const { source, files, known } = look({ materials: [material], paths, paints });
    const { state, findings } = mendAsset(source, files, 'safe', known);
    const [{ workflow, exponent, channels }] = state.materials;
    const reads = Object.entries(channels).map(([channel, { map }]) =>
      [channel, map?.image.replace('parcel:', ''), map?.component, ...(map?.invert ? ['inverted'] : [])].join(
        ' ',
      ),
    );
    const left = findings.filter(({ severity }) => severity !== 'note').map(({ code }) => code);
    return { workflow, exponent, reads: reads.sort(), left };
  };
  const names = (suffixes: readonly string[]) => suffixes.map((suffix) => `hull_${suffix}.png`);

  it.each([
    ['basecolor', 'metallic', 'roughness', 'normal'],
    ['col', 'met', 'rgh', 'nrm'],
  ])('is put where its names say, in the model that they are of: %s, %s, %s, %s', (...suffixes) => {
    const [base, metal, rough, normal] = names(suffixes);
    const maps = { baseColor: base, specularColor: metal, glossiness: rough, bump: normal };
    const paints = { [base]: hues, [metal]: twos, [rough]: greys, [normal]: bumps };
    expect(after(classic('specGloss', maps), paints)).toEqual({
      workflow: 'metalRough',
      exponent: null,
      reads: [
        `baseColor ${base} rgb`,
        `metalness ${metal} r`,
        `normal ${normal} rgb`,
        `roughness ${rough} r`,
      ],
      left: [],
    });
  });

  it('of a short name is known by two others of its set, and not by one', () => {
    const [base, metal, rough] = names(['col', 'met', 'rgh']);
    const paints = { [base]: hues, [metal]: twos, [rough]: greys };
    const three = classic('specGloss', { baseColor: base, specularColor: metal, glossiness: rough });
    expect(after(three, paints)).toMatchObject({ workflow: 'metalRough', left: [] });
    const two = classic('specGloss', { baseColor: base, specularColor: metal });
    expect(after(two, { [base]: hues, [metal]: twos })).toMatchObject({ workflow: 'specGloss' });
  });

  it('keeps its exponent where it has no other roughness, and its model beside true gloss', () => {
    const [base, metal, normal] = names(['basecolor', 'metallic', 'normal']);
    const maps = { baseColor: base, specularColor: metal, normal };
    const { workflow, exponent } = after(classic('legacy', maps), {
      [base]: hues,
      [metal]: twos,
      [normal]: bumps,
    });
    expect([workflow, exponent]).toEqual(['metalRough', 30]);
    const [diffuse, specular, rough] = names(['diffuse', 'specular', 'roughness']);
    const glossy = classic('specGloss', { baseColor: diffuse, specularColor: specular, glossiness: rough });
    const told = after(glossy, { [diffuse]: hues, [specular]: hues, [rough]: greys });
    expect([told.workflow, told.reads]).toEqual([
      'specGloss',
      [`baseColor ${diffuse} rgb`, `glossiness ${rough} r inverted`, `specularColor ${specular} rgb`],
    ]);
  });

  it('is roughness too where metalness of its set lies in the parcel', () => {
    const [base, metal, rough] = names(['basecolor', 'metallic', 'roughness']);
    const material = classic('legacy', { baseColor: base, glossiness: rough });
    expect(after(material, { [base]: hues, [metal]: twos, [rough]: greys }).reads).toEqual([
      `baseColor ${base} rgb`,
      `metalness ${metal} r`,
      `roughness ${rough} r`,
    ]);
  });

  it('is roughness too beside metalness that it reads of another set', () => {
    const [base, rough] = names(['basecolor', 'roughness']);
    const other = 'trim_metallic.png';
    const material = classic('legacy', { baseColor: base, metalness: other, glossiness: rough });
    expect(after(material, { [base]: hues, [other]: twos, [rough]: greys }).reads).toContain(
      `roughness ${rough} r`,
    );
  });

  it('leaves the model as it is where no metalness comes of it', () => {
    const [base, occlusion] = names(['basecolor', 'occlusion']);
    const material = classic('legacy', { baseColor: base, specularColor: occlusion });
    const { workflow, reads } = after(material, { [base]: hues, [occlusion]: greys });
    expect([workflow, reads]).toEqual(['legacy', [`baseColor ${base} rgb`, `occlusion ${occlusion} r`]]);
  });

  it('is left to a person where a short name stands alone', () => {
    const [base, metal] = names(['basecolor', 'met']);
    const { reads, left } = after(classic('legacy', { baseColor: base, specularColor: metal }), {
      [base]: hues,
      [metal]: twos,
    });
    expect(reads).toContain(`specularColor ${metal} rgb`);
    expect(left).toEqual(['slot.contradiction']);
  });
});

describe('one image in many slots', () => {
  const wired = (maps: Record<string, string | object>, paint: Paint) => {
    const material = testMaterial('Leaf', maps as Parameters<typeof testMaterial>[1]);
    const { findings } = look({ materials: [material], paths: ['leaf.png'], paints: { 'leaf.png': paint } });
    return findings
      .filter(({ code }) => code === 'slot.pixels')
      .map(({ severity, target, safe, mend, choices }) => [
        severity,
        target.channel,
        safe,
        mend?.kind === 'adjustSlots' ? mend.change : choices?.map(({ id }) => id),
      ]);
  };
  const red = { image: 'leaf.png', component: 'r' };

  it('has its coverage in the alpha, or none where that is full', () => {
    const maps = { baseColor: 'leaf.png', opacity: red };
    expect(wired(maps, (x, y) => [...hues(x, y), x < 30 ? 0 : 255])).toEqual([
      ['warning', 'opacity', true, { component: 'a', invert: false }],
    ]);
    for (const full of [hues, (x: number, y: number) => [...hues(x, y), 255]])
      expect(wired(maps, full)).toEqual([['warning', 'opacity', false, ['clear']]]);
    expect(wired({ ...maps, opacity: { ...red, component: 'a' } }, (x, y) => [...hues(x, y), x * 4])).toEqual(
      [],
    );
  });

  it('is no relief and no roughness where it is colourful, and all of it shines where it is wired so', () => {
    expect(wired({ baseColor: 'leaf.png', bump: red }, hues)).toEqual([
      ['warning', 'bump', false, ['clear']],
    ]);
    const everywhere = { baseColor: 'leaf.png', specularColor: 'leaf.png', emission: 'leaf.png' };
    expect(wired(everywhere, hues)).toEqual([['note', 'emission', false, ['clear']]]);
    expect(wired({ baseColor: 'leaf.png', emission: 'leaf.png' }, hues)).toEqual([]);
    // A scalar that is called so may have a tinge of colour.
    const tinged = testMaterial('Hull', { baseColor: 'hull_color.png', roughness: 'hull_roughness.png' });
    const paths = ['hull_color.png', 'hull_roughness.png'];
    const paints = Object.fromEntries(paths.map((path) => [path, hues]));
    expect(
      look({ materials: [tinged], paths, paints }).findings.filter(({ step }) => step === 'slots'),
    ).toEqual([]);
    // As exporters do that know one slot for both.
    const both = { roughness: { ...red, component: 'g' }, metalness: { ...red, component: 'b' } };
    expect(
      wired({ baseColor: 'leaf.png', ...both }, hues).map(([severity, channel]) => [severity, channel]),
    ).toEqual([
      ['warning', 'roughness'],
      ['warning', 'metalness'],
    ]);
    expect(wired(both, hues)).toEqual([]);
    expect(wired({ baseColor: 'leaf.png', roughness: { ...red, component: 'luminance' } }, hues)).toEqual([]);
    // What is packed is colourful, and feeds scalars alone.
    const packed = { roughness: red, metalness: { ...red, component: 'b' } };
    expect(wired(packed, hues)).toEqual([]);
  });
});

describe('what its name says of how it is read', () => {
  const grains: Paint = (x, y) => Array(3).fill((x * 3 + y) & 255);
  const found = (
    channel: 'glossiness' | 'roughness' | 'normal',
    path: string,
    change: Partial<MapUse>,
    from: 'file' | 'hand' = 'file',
  ) => {
    const material = testMaterial('Hull', { [channel]: path });
    if (channel === 'glossiness') material.workflow = 'specGloss';
    Object.assign(material.channels[channel]?.map ?? {}, change);
    Object.assign(material.channels[channel]?.source ?? {}, { from });
    const paint: Paint = channel === 'normal' ? () => [128, 128, 255] : grains;
    return look({ materials: [material], paths: [path], paints: { [path]: paint } })
      .findings.filter(({ code }) => code === 'slot.glossAsRoughness' || code === 'normal.direction')
      .map(({ safe, message, mend }) => [message, safe, mend?.kind === 'adjustSlots' && mend.change]);
  };

  it('is told where glossiness or roughness is read inverted', () => {
    const read = (word: string) =>
      `hull_${word}.png feeds ${word} of Hull inverted, but its name says ${word} as it is.`;
    expect(found('glossiness', 'hull_glossiness.png', { invert: true })).toEqual([
      [read('glossiness'), true, { invert: false }],
    ]);
    // By a negative gain, as files write it; on purpose, it seems.
    expect(found('roughness', 'hull_roughness.png', { gain: -1, offset: 1 })).toEqual([
      [read('roughness'), false, { invert: true }],
    ]);
    expect(found('roughness', 'hull_roughness.png', { invert: true }, 'hand')).toEqual([]);
    expect(found('roughness', 'hull_roughness.png', {})).toEqual([]);
    expect(found('roughness', 'hull_glossiness.png', { invert: true })).toEqual([]);
  });

  it('is believed of a normal’s direction where slopes say nothing', () => {
    const path = 'hull_normal_dx.png';
    expect(found('normal', path, { normalY: 'Y+' })).toEqual([
      [`${path} is read as Y+, but is called Y-.`, true, { normalY: 'Y-' }],
    ]);
    expect(found('normal', path, { normalY: 'Y-' })).toEqual([]);
    expect(found('normal', path, { normalY: 'Y+' }, 'hand')).toEqual([]);
    expect(found('normal', 'hull_normal.png', { normalY: 'Y-' })).toEqual([]);
  });
});

describe('an image that feeds another slot besides', () => {
  const grains: Paint = (x, y) => Array(3).fill((x * 3 + y) & 255);
  const smooth: Paint = (x, y) => [...hues(x, y), 80 + x];
  const told = (use: Partial<MapUse>, paint: Paint, more: readonly string[], taken = 'nothing.png') => {
    const material = testMaterial('Hull', { baseColor: 'hull_albedo.png', roughness: 'hull_albedo.png' });
    Object.assign(material.channels.roughness?.map ?? {}, use);
    const other = testMaterial('Deck', { roughness: taken });
    const paints = { 'hull_albedo.png': paint, ...Object.fromEntries(more.map((path) => [path, grains])) };
    return look({ materials: [material, other], paths: ['hull_albedo.png', ...more], paints })
      .findings.filter(
        ({ code, subject }) => /^slot\.(contradiction|pixels)/.test(code) && subject === 'Hull',
      )
      .map(({ code, safe, mend }) => [
        code,
        safe,
        mend?.kind === 'assignSlots' &&
          mend.assignments.map(({ channel, image, component, invert }) => [
            channel,
            image,
            component,
            invert,
          ]),
      ]);
  };

  it('gives way to the one of its set that nothing reads', () => {
    const rough = ['roughness', 'hull_roughness.png', 'r', false];
    const gloss = ['roughness', 'hull_gloss.png', 'r', true];
    expect(told({}, hues, ['hull_roughness.png'])).toEqual([['slot.contradiction', true, [rough]]]);
    expect(told({}, hues, ['hull_gloss.png'])).toEqual([['slot.contradiction', true, [gloss]]]);
    // Smoothness may ride in the alpha; where there is none it cannot.
    const alpha: Partial<MapUse> = { component: 'a', invert: true };
    expect(told(alpha, smooth, ['hull_roughness.png'])).toEqual([['slot.contradiction', false, [rough]]]);
    expect(told(alpha, hues, ['hull_roughness.png'])).toEqual([['slot.contradiction', true, [rough]]]);
  });

  it.each([
    ['specularColor', 'hull_specular.png'],
    ['emission', 'hull_emissive.png'],
  ] as const)('gives way in colours, too: %s', (channel, own) => {
    const maps = { baseColor: 'hull_albedo.png', [channel]: 'hull_albedo.png' };
    const paths = ['hull_albedo.png', own];
    const paints = { 'hull_albedo.png': hues, [own]: hues };
    const found = look({ materials: [testMaterial('Hull', maps)], paths, paints }).findings;
    const told = found.filter(
      ({ code, target }) => code === 'slot.contradiction' && target.channel === channel,
    );
    expect(
      told.map(({ safe, mend }) => [
        safe,
        mend?.kind === 'assignSlots' && mend.assignments.map(({ image, space }) => [image, space]),
      ]),
    ).toEqual([[true, [[own, 'srgb_rec709_scene']]]]);
  });

  it('is asked about or left alone where there is none, or another reads it', () => {
    expect(told({}, hues, [])).toEqual([['slot.pixels', false, false]]);
    expect(told({ component: 'a', invert: true }, smooth, [])).toEqual([]);
    expect(told({}, hues, ['hull_roughness.png'], 'hull_roughness.png')).toEqual([
      ['slot.pixels', false, false],
    ]);
  });

  it('fills the base colour too where its alpha alone is read', () => {
    const material = testMaterial('Hull', { opacity: 'hull_albedo.png' });
    Object.assign(material.channels.opacity?.map ?? {}, { component: 'a' });
    expect(
      mended({ materials: [material], paths: ['hull_albedo.png'], paints: { 'hull_albedo.png': smooth } }),
    ).toEqual(['Hull opacity: hull_albedo.png', 'Hull baseColor: hull_albedo.png']);
  });
});

describe('an order in a name that is not the one of the format', () => {
  const name = 'ao_met_rough_pad.png';
  const told = (format: 'gltf' | 'fbx', red: number) => {
    const pad = testMaterial('Pad', {
      roughness: { image: name, component: 'g' },
      metalness: { image: name, component: 'b' },
    });
    const paints = { [name]: (x: number, y: number) => [red + (x % 3), 60 + x + y, (y * 7) % 200] };
    const { findings } = look({ materials: [pad], paths: [name], paints, source: { format } });
    return findings.filter(({ code }) => code === 'slot.packedWhole').map(({ safe }) => safe);
  };

  it('is never taken for it unasked, and not at all where what it calls occlusion is black', () => {
    expect(told('gltf', 120)).toEqual([false]);
    expect(told('gltf', 0)).toEqual([]);
    expect(told('fbx', 120)).toEqual([true]);
  });
});
