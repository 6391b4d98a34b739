import { describe, expect, it } from 'vitest';
import type { UvLayout } from '../../asset/uvLayout.ts';
import { testMaterial } from '../../test/assets.ts';
import { look, type Paint } from '../../test/sets.ts';

const hues: Paint = (x, y) => [200 - x, 90 + y, 40];

describe('an image of another set', () => {
  const told = (materials: Record<string, Record<string, string>>, more: string[] = []) => {
    const paths = [...new Set([...Object.values(materials).flatMap((maps) => Object.values(maps)), ...more])];
    const paints = Object.fromEntries(paths.filter((path) => /color/.test(path)).map((path) => [path, hues]));
    const list = Object.entries(materials).map(([name, maps]) => testMaterial(name, maps));
    return look({ materials: list, paths, paints })
      .findings.filter(({ code }) => code === 'slot.contradiction')
      .map(({ safe, message, mend }) => [
        safe,
        message,
        mend?.kind === 'assignSlots' &&
          mend.assignments.map(({ channel, image, space }) => `${channel} ${image} ${space}`),
      ]);
  };
  const deck = { roughness: 'deck_roughness.png' };
  const own = { roughness: 'hull_roughness.png', normal: 'hull_normal.png' };
  const wrong = { baseColor: 'deck_basecolor.png' };

  it('is told where the own one lies unread: that which most slots read, or the material is called like', () => {
    const assigned = ['baseColor hull_basecolor.png srgb_rec709_scene'];
    for (const [name, maps] of [
      ['Skin 7', { ...wrong, ...own }],
      ['Hull', { ...wrong, roughness: own.roughness }],
      ['M_Hull', wrong],
    ] as const)
      expect(told({ [name]: maps, Deck: deck }, ['hull_basecolor.png', 'hull_normal.png']), name).toEqual([
        [
          false,
          `deck_basecolor.png feeds base colour of ${name}; hull_basecolor.png, of its own set hull, lies unread.`,
          assigned,
        ],
      ]);
  });

  it('is told of both where two materials read each other’s', () => {
    const swapped = { ...deck, baseColor: 'hull_basecolor.png' };
    expect(told({ Hull: { ...wrong, ...own }, Deck: swapped })).toEqual([
      [
        false,
        'deck_basecolor.png feeds base colour of Hull; hull_basecolor.png, of its own set hull, is read by Deck.',
        ['baseColor hull_basecolor.png srgb_rec709_scene'],
      ],
      [
        false,
        'hull_basecolor.png feeds base colour of Deck; deck_basecolor.png, of its own set deck, is read by Hull.',
        ['baseColor deck_basecolor.png srgb_rec709_scene'],
      ],
    ]);
  });

  it('is told once for all slots where materials are exchanged as a whole', () => {
    const hull = { baseColor: 'hull_basecolor.png', roughness: 'hull_roughness.png' };
    const [first, second] = told({ Hull: { ...wrong, ...deck }, Deck: hull });
    expect(first).toEqual([
      false,
      'Hull reads deck in 2 slots; the images of its own set hull are read by Deck.',
      ['baseColor hull_basecolor.png srgb_rec709_scene', 'roughness hull_roughness.png data'],
    ]);
    expect(second[1]).toMatch(/^Deck reads hull in 2 slots/);
  });

  it('is one finding for each other set that several slots read', () => {
    const material = testMaterial('Hull', {
      baseColor: 'deck_basecolor.png',
      roughness: 'deck_roughness.png',
      normal: 'mast_normal.png',
      metalness: 'mast_metallic.png',
    });
    const words = ['basecolor', 'roughness', 'normal', 'metallic'];
    const paths = ['hull', 'deck', 'mast'].flatMap((name) => words.map((word) => `${name}_${word}.png`));
    const found = look({ materials: [material], paths }).findings.filter(
      ({ code }) => code === 'slot.contradiction',
    );
    expect(found.map(({ message }) => message.split(';')[0])).toEqual([
      'Hull reads deck in 2 slots',
      'Hull reads mast in 2 slots',
    ]);
    expect(new Set(found.map(({ key }) => key)).size).toBe(2);
  });

  it('brings the alpha along that is read besides', () => {
    const material = testMaterial('Hull', { baseColor: 'deck_basecolor.png', opacity: 'deck_basecolor.png' });
    if (material.channels.opacity?.map) material.channels.opacity.map.component = 'a';
    const found = look({
      materials: [material],
      paths: ['deck_basecolor.png', 'hull_basecolor.png'],
    }).findings;
    const mend = found.find(({ code }) => code === 'slot.contradiction')?.mend;
    expect(
      mend?.kind === 'assignSlots' &&
        mend.assignments.map(({ channel, image, component }) => [channel, image, component]),
    ).toEqual([
      ['baseColor', 'hull_basecolor.png', 'rgb'],
      ['opacity', 'hull_basecolor.png', 'a'],
    ]);
  });

  it('is no stray without an own one, without a name that tells, and as a variant that nobody else is called', () => {
    expect(told({ Hull: { ...wrong, ...own }, Deck: deck })).toEqual([]);
    const unread = ['hull_basecolor.png'];
    expect(told({ 'Skin 7': { ...wrong, roughness: own.roughness }, Deck: deck }, unread)).toEqual([]);
    // Another size of the own one.
    expect(
      told({ Hull: { ...own, baseColor: 'hull_basecolor_1k.png' }, Deck: deck }, ['hull_basecolor.png']),
    ).toEqual([]);
    const snow = { Hull: { baseColor: 'hull_snow_basecolor.png' }, Deck: deck };
    expect(told(snow, unread)).toEqual([]);
    expect(told({ ...snow, 'Hull snow': { baseColor: 'hull_basecolor.png' } })).toHaveLength(2);
    // Another material wears it by name, too.
    expect(told({ ...snow, 'Hull snow': { baseColor: 'hull_snow_basecolor.png' } }, unread)).toHaveLength(1);
    // Two materials of one name's kind: nothing tells which of them the set is called after.
    expect(told({ Hull: wrong, hull: wrong, Deck: deck }, unread)).toEqual([]);
  });

  it('is no stray where the layout fits it better than what the names say', () => {
    const island: Paint = (x, y) => (x < 32 && y < 32 ? [200 - x, 90 + y, 40] : [0, 0, 0]);
    const other: Paint = (x, y) => (x >= 32 && y >= 32 ? [200 - x, 90 + y, 40] : [0, 0, 0]);
    const rows = (high: boolean) =>
      Array.from({ length: 64 }, (_, y) =>
        y < 32 === high ? (high ? 'ffffffff00000000' : '00000000ffffffff') : '0'.repeat(16),
      );
    const quarter = (high: boolean) => ({ cells: rows(high).join(''), repeats: 0 });
    const found = (layout: Record<string, UvLayout>) =>
      look({
        materials: [testMaterial('Hull', wrong), testMaterial('Deck', deck)],
        paths: ['deck_basecolor.png', 'hull_basecolor.png', 'deck_roughness.png'],
        paints: { 'deck_basecolor.png': island, 'hull_basecolor.png': other },
        source: { uvLayouts: layout },
      }).findings.filter(({ code }) => code === 'slot.contradiction').length;
    expect(found({})).toBe(1);
    expect(found({ Hull: quarter(true) })).toBe(0);
    expect(found({ Hull: quarter(false) })).toBe(1);
  });
});

describe('names that say nothing', () => {
  const half = (right: boolean): UvLayout => {
    const cell = (column: number) => (right ? column >= 36 && column < 60 : column >= 4 && column < 28);
    const rows = Array.from({ length: 64 }, (_, row) =>
      Array.from({ length: 16 }, (_, i) => (row > 4 && row < 59 && cell(i * 4) ? 'f' : '0')).join(''),
    );
    return { cells: rows.join(''), repeats: 0 };
  };
  const painted =
    (right: boolean): Paint =>
    (x, y) => {
      const inside = right ? x >= 36 && x < 60 : x >= 4 && x < 28;
      return inside ? [120 + ((x * 31 + y * 17) % 80), 60 + ((x * 7 + y * 13) % 50), 40] : [0, 0, 0];
    };
  const told = (first: string, second: string, layouts: [boolean, boolean]) =>
    look({
      materials: [
        testMaterial('Material.001', { baseColor: first }),
        testMaterial('Material.002', { baseColor: second }),
      ],
      paths: ['alder_color.png', 'birch_color.png'],
      paints: { 'alder_color.png': painted(false), 'birch_color.png': painted(true) },
      source: { uvLayouts: { 'Material.001': half(layouts[0]), 'Material.002': half(layouts[1]) } },
    })
      .findings.filter(({ code }) => code === 'slot.contradiction')
      .map(({ message }) => message);

  it('leave it to layouts which materials read each other’s images', () => {
    expect(told('birch_color.png', 'alder_color.png', [false, true])).toEqual([
      'birch_color.png feeds base colour of Material.001; alder_color.png, of its own set alder, is read by Material.002.',
      'alder_color.png feeds base colour of Material.002; birch_color.png, of its own set birch, is read by Material.001.',
    ]);
    expect(told('alder_color.png', 'birch_color.png', [false, true])).toEqual([]);
    // One image for both, in islands of one place.
    expect(told('alder_color.png', 'alder_color.png', [false, false])).toEqual([]);
    expect(told('alder_color.png', 'alder_color.png', [false, true])).toHaveLength(1);
  });
});

describe('a base colour that shines alone', () => {
  const told = (
    value: [number, number, number],
    more: Record<string, string> = {},
    component: 'rgb' | 'r' = 'rgb',
  ) => {
    const material = testMaterial('Sign', { emission: 'sign_albedo.png', ...more });
    if (!more.baseColor)
      material.channels.baseColor = { value, map: null, source: { from: 'file', detail: '' } };
    Object.assign(material.channels.emission?.map ?? {}, { component });
    return look({
      materials: [material],
      paths: ['sign_albedo.png'],
      paints: { 'sign_albedo.png': hues },
    })
      .findings.filter(({ code }) => code === 'slot.contradiction')
      .map(({ safe, mend }) => [
        safe,
        mend?.kind === 'assignSlots' && mend.assignments.map(({ channel }) => channel),
      ]);
  };

  it('is moved to its own slot where that is empty, and not black', () => {
    expect(told([0.8, 0.8, 0.8])).toEqual([[true, ['baseColor']]]);
    expect(told([0, 0, 0])).toEqual([]);
    expect(told([1, 1, 1], { baseColor: 'sign_albedo.png' })).toEqual([]);
    expect(told([0.8, 0.8, 0.8], {}, 'r')).toEqual([]);
  });
});
