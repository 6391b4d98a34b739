import { describe, expect, it } from 'vitest';
import type { ParcelImage } from '../../asset/asset.ts';
import { replay } from '../../edits/log.ts';
import { mendAsset } from '../../inspect.ts';
import { lookAtPixels } from '../../maps/pixelFacts.ts';
import type { Material } from '../../scene/material.ts';
import { testMaterial, testSource, testState } from '../../test/assets.ts';
import { bare, type Case, files, look, mended, type Paint, parcel, readings, SIZE } from '../../test/sets.ts';

describe('every set finds its material', () => {
  it.each<[string, string[], string[], Record<string, string>]>([
    ['equal names', ['Hull', 'Deck'], files('hull', 'deck'), { Hull: 'hull', Deck: 'deck' }],
    [
      'decorated names',
      ['M_Hull', 'M_Deck'],
      files('T_Hull', 'T_Deck'),
      { M_Hull: 'T_Hull', M_Deck: 'T_Deck' },
    ],
    [
      'contained names',
      ['Mast', 'Mast_Rope', 'Rope'],
      files('mast', 'mast_rope', 'rope'),
      { Mast: 'mast', Mast_Rope: 'mast_rope', Rope: 'rope' },
    ],
    [
      'numbers',
      ['part_001', 'part_002', 'part_010'],
      files('part_001', 'part_002', 'part_010'),
      { part_001: 'part_001', part_002: 'part_002', part_010: 'part_010' },
    ],
    [
      'folders',
      ['Hull', 'Deck'],
      ['hull/albedo.png', 'hull/normal.png', 'deck/albedo.png', 'deck/normal.png'],
      { Hull: 'hull/', Deck: 'deck/' },
    ],
    [
      'the only pair left',
      ['Hull', 'Material.001'],
      files('hull', 'zinc'),
      { Hull: 'hull', 'Material.001': 'zinc' },
    ],
    ['the only pair there is', ['Mast'], files('mast_rope'), { Mast: 'mast_rope' }],
    [
      'what is said twice',
      ['Door', 'Glass', 'Handle'],
      files('door_door', 'door_glass', 'door_handle'),
      { Door: 'door_door', Glass: 'door_glass', Handle: 'door_handle' },
    ],
  ])('by %s', (_, names, paths, expected) => {
    const found = mended({ materials: bare(...names), paths });
    expect(found).toHaveLength(paths.length);
    for (const line of found) {
      const [slot, path] = line.split(': ');
      const name = slot.slice(0, slot.lastIndexOf(' '));
      expect(path.startsWith(`${expected[name]}_`) || path.startsWith(expected[name]), line).toBe(true);
      // `mast_` is also the beginning of `mast_rope_`: the channel must follow at once.
      expect(path.slice(expected[name].length).replace(/^[_/]/, ''), line).toMatch(
        /^(color|albedo|normal)\.png$/,
      );
    }
  });

  it('leaves an image of another thing alone', () => {
    expect(mended({ materials: bare('Mast'), paths: files('mast_rope', 'rope') })).toEqual([]);
  });

  it('takes parts for the name of a material that has none', () => {
    const nodes = [
      { name: 'hull', kind: 'mesh', parent: -1, polygons: 4, materials: ['Material.001'] },
      { name: 'deck', kind: 'mesh', parent: -1, polygons: 4, materials: ['Material.002'] },
    ];
    expect(
      mended({
        materials: bare('Material.001', 'Material.002'),
        paths: files('deck', 'hull'),
        source: { nodes },
      }),
    ).toContain('Material.001 baseColor: hull_color.png');
  });

  it('settles an empty slot by the set that the others read', () => {
    const material = testMaterial('Paint', { normal: 'hull_normal.png' });
    expect(mended({ materials: [material], paths: files('hull', 'deck') })).toContain(
      'Paint baseColor: hull_color.png',
    );
  });
});

describe('images on common ground', () => {
  const commons = { source: { home: 'quay/hull', commons: ['', 'shared'] } };
  const own = ['quay/hull/tex_color.png', 'quay/hull/tex_normal.png'];

  it('are taken where a name ties them to the model, and are no rivals of its own elsewhere', () => {
    const at = (paths: string[], name: string) => mended({ materials: bare(name), paths, ...commons });
    expect(at(['shared/rope_color.png', 'shared/rope_normal.png'], 'Rope')).toEqual([
      'Rope baseColor: shared/rope_color.png',
      'Rope normal: shared/rope_normal.png',
    ]);
    const photo = ['overview_color.png', 'overview_normal.png'];
    expect(at([...own, ...photo], 'Material')).toEqual([
      'Material baseColor: quay/hull/tex_color.png',
      'Material normal: quay/hull/tex_normal.png',
    ]);
    expect(at(photo, 'Material')).toEqual([]);
    const { findings } = look({ materials: bare('Material'), paths: photo, ...commons });
    expect(findings.filter(({ code }) => /^(map|set)/.test(code))).toEqual([]);
  });
});

describe('what was written and lost', () => {
  const written = (set: string): Material =>
    testMaterial('Paint', { baseColor: `${set}_color.png`, normal: `${set}_normal.png` });
  it.each([
    ['another version', 'hull_v1', 'hull_v2'],
    ['another resolution', 'hull_4k', 'hull_1k'],
    ['another folder', 'old/hull', 'new/maps/hull'],
    ['a renamed set', 'tmp_hull', 'hull'],
  ])('is found under one shift: %s', (_, from, to) => {
    const missing = [`${from}_color.png`, `${from}_normal.png`];
    expect(mended({ materials: [written(from)], missing, paths: files(to) })).toEqual([
      `Paint baseColor: ${to}_color.png`,
      `Paint normal: ${to}_normal.png`,
    ]);
  });

  it('is found under other words for the channels', () => {
    const missing = ['hull_color.png', 'hull_normal.png'];
    expect(
      mended({ materials: [written('hull')], missing, paths: ['hull_alb.png', 'hull_nrm.png'] }),
    ).toEqual(['Paint baseColor: hull_alb.png', 'Paint normal: hull_nrm.png']);
  });

  it('brings along what reads the same file, where two materials wrote one path for two files', () => {
    const net = (name: string) =>
      testMaterial(name, {
        baseColor: 'D:/tex/albedo.png',
        opacity: { image: 'D:/tex/albedo.png', component: 'a' },
        roughness: 'D:/tex/rough.png',
      });
    const paths = ['cork', 'netting'].flatMap((name) => [`t/${name}/albedo.png`, `t/${name}/rough.png`]);
    const missing = ['D:/tex/albedo.png', 'D:/tex/rough.png'];
    expect(mended({ materials: [net('Cork'), net('Netting')], missing, paths })).toEqual([
      'Cork baseColor: t/cork/albedo.png',
      'Cork opacity: t/cork/albedo.png',
      'Cork roughness: t/cork/rough.png',
      'Netting baseColor: t/netting/albedo.png',
      'Netting opacity: t/netting/albedo.png',
      'Netting roughness: t/netting/rough.png',
    ]);
  });

  it('leaves alone what would have to read the file in another way', () => {
    const material = testMaterial('Paint', {
      baseColor: 'hull_color.png',
      roughness: 'hull_rough.png',
      coatRoughness: 'hull_rough.png',
    });
    const paths = ['hull_color.png', 'hull_gloss.png'];
    expect(mended({ materials: [material], missing: ['hull_rough.png'], paths })).toEqual([
      'Paint baseColor: hull_color.png',
      'Paint roughness: hull_gloss.png',
      'Paint coatRoughness: missing',
    ]);
  });

  it('reads gloss for a lost roughness, inverted', () => {
    const material = testMaterial('Paint', { baseColor: 'hull_color.png', roughness: 'hull_rough.png' });
    const {
      source,
      files: all,
      known: existing,
    } = look({
      materials: [material],
      missing: ['hull_rough.png'],
      paths: ['hull_color.png', 'hull_gloss.png'],
    });
    const [{ channels }] = mendAsset(source, all, 'safe', existing).state.materials;
    expect(channels.roughness?.map).toMatchObject({ invert: true, component: 'r' });
  });
});

describe('doubts are asked once', () => {
  const rivals: Case = {
    materials: bare('Hull'),
    paths: ['dry/hull_color.png', 'dry/hull_normal.png', 'wet/hull_color.png', 'wet/hull_normal.png'],
  };

  it('asks one question for a whole set, and its answer settles every channel', () => {
    const { findings, source, files: all } = look(rivals);
    const questions = findings.filter(({ severity }) => severity !== 'note');
    expect(questions.map(({ code, subject, mend }) => [code, subject, mend])).toEqual([
      ['set.ambiguous', 'Hull', null],
    ]);
    const [question] = questions;
    expect(question.choices?.map(({ images }) => images)).toEqual([
      rivals.paths.slice(0, 2),
      rivals.paths.slice(2),
    ]);
    const wet = question.choices?.[1].edits ?? [];
    expect(readings(replay(source, wet, all).state)).toEqual([
      'Hull baseColor: wet/hull_color.png',
      'Hull normal: wet/hull_normal.png',
    ]);
    expect(mended(rivals)).toEqual([]);
    expect(mendAsset(source, all, 'all').state.materials[0].channels).toEqual({});
  });

  it('asks the same where the written images are lost, and says nothing twice', () => {
    const material = testMaterial('Hull', { baseColor: 'x/hull_color.png', normal: 'x/hull_normal.png' });
    const { findings } = look({
      ...rivals,
      materials: [material],
      missing: ['x/hull_color.png', 'x/hull_normal.png'],
    });
    expect(
      findings.filter(({ severity }) => severity !== 'note').map(({ code, severity }) => [code, severity]),
    ).toEqual([['set.ambiguous', 'error']]);
  });

  it('takes equal files for no rivals', () => {
    const { source, files: all } = look(rivals);
    const copies = all.map((file) => ({ ...file, sha256: file.path.includes('color') ? 'c' : 'n' }));
    expect(readings(mendAsset(source, copies, 'safe').state)).toHaveLength(2);
  });

  it('takes one image at two sizes for no rivals, and the larger of them', () => {
    const small: Paint = (x, y) => [
      Math.round(120 + 100 * Math.sin(x / 9)),
      Math.round(120 + 100 * Math.cos(y / 11)),
      60,
    ];
    const paths = ['1k/hull_color.png', '4k/hull_color.png'];
    const { files: all, facts } = parcel(paths, { [paths[0]]: small });
    const [low, high] = all;
    const big: number[] = [];
    for (let y = 0; y < 2 * SIZE; y += 1)
      for (let x = 0; x < 2 * SIZE; x += 1) big.push(...small(x / 2, y / 2));
    facts.set(
      high.sha256,
      lookAtPixels({ width: 2 * SIZE, height: 2 * SIZE, components: 3, data: Uint8Array.from(big) }),
    );
    const state = testState(bare('Hull'));
    const source = { ...testSource(state), facesPerMaterial: { Hull: 3 } };
    const twice = [
      low,
      {
        ...high,
        info: { ...(high.info as NonNullable<ParcelImage['info']>), width: 2 * SIZE, height: 2 * SIZE },
      },
    ];
    expect(readings(mendAsset(source, twice, 'safe', { facts }).state)).toEqual([
      'Hull baseColor: 4k/hull_color.png',
    ]);
  });

  it('remembers an answer for parcels of the same source, and for no other', () => {
    const answers = [{ source: 'quay tools', material: 'hull', set: 'hull', folder: 'wet' }];
    const again = { ...rivals, source: { generator: 'quay tools' }, knowledge: { answers } };
    expect(mended(again)).toEqual(['Hull baseColor: wet/hull_color.png', 'Hull normal: wet/hull_normal.png']);
    expect(mended({ ...again, source: { generator: 'other tools' } })).toEqual([]);
    // Another material of that source: the folder is evidence among rivals.
    const deck = {
      ...again,
      materials: bare('Deck'),
      paths: rivals.paths.map((path) => path.replace('hull', 'deck')),
    };
    expect(mended(deck)).toContain('Deck baseColor: wet/deck_color.png');
  });

  it('asks about silent names instead of guessing', () => {
    const { findings } = look({
      materials: bare('Material.001', 'Material.002'),
      paths: files('zinc', 'lead'),
    });
    expect(findings.filter(({ code }) => code === 'set.ambiguous')).toHaveLength(2);
  });

  it('says so when maps lie about and a material has none', () => {
    const { findings } = look({ materials: bare('Chrome'), paths: [...files('hull'), ...files('deck')] });
    expect(findings.filter(({ severity }) => severity !== 'note').map(({ code }) => code)).toContain(
      'set.ambiguous',
    );
  });

  it('leaves to other models beside it what nothing ties to this one', () => {
    const of: Case = { materials: bare('Chrome'), paths: files('hull') };
    expect(mended({ ...of, source: { modelsAtHome: 2 } })).toEqual([]);
    expect(
      look({ ...of, source: { modelsAtHome: 2 } }).findings.filter(({ severity }) => severity !== 'note'),
    ).toEqual([]);
    expect(mended(of)).toHaveLength(2);
  });

  it('takes a word of two letters for no packed order', () => {
    const skin = testMaterial('Skin', { baseColor: 'wal67ar.jpg' });
    expect(
      look({ materials: [skin], paths: ['wal67ar.jpg', 'wal69ar.jpg'] }).findings.filter(
        ({ code }) => code === 'slot.candidate',
      ),
    ).toEqual([]);
  });

  it('lets one image feed the channels that a file states, whatever it is called after', () => {
    const packed = { image: 'hull_roughness.jpg' };
    const hull = testMaterial('Hull', {
      roughness: { ...packed, component: 'g' },
      metalness: { ...packed, component: 'b' },
      occlusion: { ...packed, component: 'r' },
    });
    const paint: Paint = (x, y) => [200 + (x % 40), (y * 7) % 256, x % 2 ? 255 : 0];
    const { findings } = look({
      materials: [hull],
      paths: ['hull_roughness.jpg'],
      paints: { 'hull_roughness.jpg': paint },
    });
    expect(findings.filter(({ severity }) => severity !== 'note')).toEqual([]);
  });

  it('never offers a preview for a material', () => {
    expect(mended({ materials: bare('Hull'), paths: ['preview.png'] })).toEqual([]);
  });
});

/** Two materials with an island each: left and right half, with a margin. */
describe('the UV layout', () => {
  const half = (right: boolean) => {
    let cells = '';
    for (let row = 0; row < 64; row += 1)
      for (let column = 0; column < 64; column += 4)
        cells +=
          row > 4 && row < 59 && (right ? column >= 36 && column < 60 : column >= 4 && column < 28)
            ? 'f'
            : '0';
    return { cells, repeats: 0 };
  };
  const uvLayouts = { 'Material.001': half(false), 'Material.002': half(true) };
  const painted =
    (right: boolean): Paint =>
    (x, y) => {
      const inside = right ? x >= 36 && x < 60 : x >= 4 && x < 28;
      return inside ? [120 + ((x * 31 + y * 17) % 80), 60 + ((x * 7 + y * 13) % 50), 40] : [0, 0, 0];
    };
  const paths = ['lead_color.png', 'zinc_color.png'];
  const paints = { 'zinc_color.png': painted(false), 'lead_color.png': painted(true) };

  it('decides where names are silent', () => {
    expect(
      mended({ materials: bare('Material.001', 'Material.002'), paths, paints, source: { uvLayouts } }),
    ).toEqual(['Material.001 baseColor: zinc_color.png', 'Material.002 baseColor: lead_color.png']);
  });

  it('puts a clear name in doubt that it belies, where another set fits', () => {
    const source = { uvLayouts: { lead: uvLayouts['Material.001'], zinc: uvLayouts['Material.002'] } };
    const { findings } = look({ materials: bare('lead', 'zinc'), paths, paints, source });
    expect(findings.filter(({ code }) => code === 'set.ambiguous').map(({ subject }) => subject)).toEqual([
      'lead',
      'zinc',
    ]);
  });

  it('takes what is clear outside of the islands for background, and within for a cut-out', () => {
    const hull = testMaterial('Material.001', { baseColor: 'zinc_color.png' });
    const opacity = (alpha: Paint) => {
      const paint: Paint = (x, y) => [...painted(false)(x, y), ...alpha(x, y)];
      return mended({
        materials: [hull],
        paths: ['zinc_color.png'],
        paints: { 'zinc_color.png': paint },
        source: { uvLayouts },
      }).filter((line) => line.includes('opacity'));
    };
    expect(opacity((x) => [x >= 2 && x < 30 ? 255 : 0])).toEqual([]);
    expect(opacity((x, y) => [x >= 2 && x < 30 && y % 8 < 5 ? 255 : 0])).toEqual([
      'Material.001 opacity: zinc_color.png',
    ]);
  });
});
