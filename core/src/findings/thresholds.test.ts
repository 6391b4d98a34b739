import { describe, expect, it } from 'vitest';
import type { ParcelImage } from '../asset/asset.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import type { Channel, ChannelName, MapUse, Material } from '../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from '../test/assets.ts';
import { findFindings } from './checks.ts';
import type { Finding } from './finding.ts';
import { lengthInWords, shareInWords, shown } from './surface/materialFinding.ts';

/** A material of values alone. */
function plain(
  name: string,
  values: Partial<Record<ChannelName, Channel['value']>>,
  more: Partial<Material> = {},
): Material {
  const material = Object.assign(testMaterial(name), more);
  for (const [channel, value] of Object.entries(values) as [ChannelName, Channel['value']][])
    material.channels[channel] = { value, map: null, source: { from: 'file', detail: '' } };
  return material;
}

const findingsOf = (material: Material): Finding[] => {
  const state = testState([material]);
  return findFindings(testSource(state), state, []);
};
const codesOf = (material: Material) => findingsOf(material).map(({ code }) => code);

describe('values of a material', () => {
  it.each<[string, Partial<Record<ChannelName, Channel['value']>>, string[]]>([
    ['metal', { metalness: 0.9 }, []],
    ['no metal', { metalness: 0.1 }, []],
    ['nearly metal', { metalness: 0.89 }, ['surface.metalHalf']],
    ['hardly metal', { metalness: 0.11 }, ['surface.metalHalf']],
    ['an index of air', { ior: 1 }, []],
    ['an index below air', { ior: 0.99 }, ['surface.indexImplausible']],
    ['an index of diamond', { ior: 2.5 }, []],
    ['an index beyond', { ior: 2.51 }, ['surface.indexImplausible']],
    ['an index of a metal, which nobody reads', { ior: 9, metalness: 1 }, []],
    ['all the light', { specular: 1.001 }, []],
    ['more than all', { specular: 1.01 }, ['surface.specularTooStrong']],
    ['a colour with one part above 1', { specularColor: [0.5, 2, 1] }, ['surface.specularTooStrong']],
  ])('%s', (_what, values, expected) => {
    expect(codesOf(plain('Hull', values))).toEqual(expected);
  });

  it('are mended to the nearer end, the usual index, and to 1 with the hue kept', () => {
    const mendOf = (values: Partial<Record<ChannelName, Channel['value']>>) =>
      findingsOf(plain('Hull', values))[0];
    expect(mendOf({ metalness: 0.5 })).toMatchObject({
      severity: 'note',
      step: 'surface',
      key: 'surface.metalHalf:Hull',
      mend: { kind: 'setValues', value: 1, slots: [{ material: 'Hull', channel: 'metalness' }] },
      safe: false,
      mendLabel: 'Make metal',
      target: { material: 'Hull', channel: 'metalness' },
    });
    expect(mendOf({ metalness: 0.49 })).toMatchObject({ mend: { value: 0 }, mendLabel: 'Make no metal' });
    // ((4 - 1) / (4 + 1))^2 = 0.36.
    expect(mendOf({ ior: 4 })).toMatchObject({
      message: 'Hull has the index 4, so it reflects 36% at normal incidence.',
      mend: { value: 1.5 },
      safe: true,
    });
    expect(mendOf({ specularColor: [0.5, 2, 1] })).toMatchObject({
      mend: { value: [0.25, 1, 0.5] },
      message: expect.stringContaining('specular colour 0.5, 2, 1'),
    });
    expect(mendOf({ specular: 3 })).toMatchObject({
      mend: { value: 1 },
      message: expect.stringContaining('specular weight 3'),
    });
  });
});

describe('glass by its name', () => {
  it.each<[string, string, Partial<Record<ChannelName, Channel['value']>>, Partial<Material>, string[]]>([
    ['opaque', 'Cabin_Window', {}, {}, ['glass.opaque']],
    ['blended', 'Cabin_Window', {}, { alphaMode: 'blend' }, []],
    ['that lets light through', 'lens', { transmission: 0.5 }, {}, []],
    ['that is metal', 'GlassPane', { metalness: 1 }, {}, ['glass.metal']],
    ['that is half a metal', 'GlassPane', { metalness: 0.5 }, {}, ['glass.opaque', 'surface.metalHalf']],
    ['in a longer word alone', 'Fibreglass', {}, {}, []],
    ['not at all', 'Hull', {}, {}, []],
  ])('%s', (_what, name, values, more, expected) => {
    expect(codesOf(plain(name, values, more)).sort()).toEqual(expected);
  });

  it('says the word, and what it would take', () => {
    const [opaque] = findingsOf(plain('Cabin_Window', {}));
    expect(opaque).toMatchObject({
      evidence: ['"window" in the name', 'alpha mode opaque, transmission 0'],
      mend: { value: 1 },
      safe: false,
      target: { channel: 'transmission' },
    });
    const [metal] = findingsOf(plain('GlassPane', { metalness: 0.75 }));
    expect(metal).toMatchObject({
      code: 'glass.metal',
      mend: { value: 0 },
      safe: true,
      message: expect.stringContaining('its metalness is 0.75'),
    });
  });
});

const SIZE = 40;

/**
 * Findings of a material whose opacity is the alpha of an image with so many clear, whole and half pixels of
 * a hundred.
 */
function alpha(
  shares: { clear: number; between: number },
  more: Partial<Material> = {},
  use: Partial<MapUse> | null = { component: 'a' },
): Finding[] {
  const count = SIZE * SIZE;
  const data = new Uint8Array(count * 4);
  for (let i = 0; i < count; i += 1) {
    const part = ((i * 100) / count) % 100;
    const value = part < shares.clear ? 0 : part < shares.clear + shares.between ? 128 : 255;
    data.set([90 + (i % 7) * 20, 60 + (i % 5) * 20, 30, value], i * 4);
  }
  const facts: PixelFacts = lookAtPixels({ width: SIZE, height: SIZE, components: 4, data });
  const image = { image: 'net_basecolor.png' };
  const material = Object.assign(
    testMaterial('Net', { baseColor: image, ...(use ? { opacity: { ...image, ...use } } : {}) }),
    more,
  );
  const state = testState([material]);
  const file: ParcelImage = testImage('net_basecolor.png', { width: SIZE, height: SIZE, components: 4 });
  return findFindings(testSource(state), state, [file], { facts: new Map([[file.sha256, facts]]) }).filter(
    ({ code }) => code.startsWith('alpha.'),
  );
}
const alphaCodes = (...given: Parameters<typeof alpha>) =>
  alpha(...given)
    .map(({ code }) => code)
    .filter((code) => code !== 'alpha.fringe' && code !== 'alpha.premultiplied');

describe('alpha by its statistics', () => {
  const blend = { alphaMode: 'blend' as const, doubleSided: true };
  const mask = { alphaMode: 'mask' as const, doubleSided: true };

  it.each<[string, Parameters<typeof alpha>, string[]]>([
    ['a blend with few pixels between', [{ clear: 40, between: 5 }, blend], ['alpha.maskWouldDo']],
    ['a blend with many between', [{ clear: 40, between: 8 }, blend], []],
    ['a blend that is whole all over', [{ clear: 0, between: 0 }, blend], ['alpha.needless']],
    ['a blend that is nowhere clear', [{ clear: 0, between: 5 }, blend], []],
    ['a mask that is whole all over', [{ clear: 0, between: 0 }, mask], ['alpha.needless']],
    [
      'a mask with one side',
      [
        { clear: 40, between: 0 },
        { ...mask, doubleSided: false },
      ],
      ['alpha.oneSided'],
    ],
    ['a mask with two', [{ clear: 40, between: 0 }, mask], []],
    ['an opaque material that reads none', [{ clear: 40, between: 0 }, {}, null], ['alpha.ignored']],
    ['an opaque material with a border of a hundredth', [{ clear: 0.9, between: 0 }, {}, null], []],
    ['an opaque material with more', [{ clear: 3, between: 0 }, {}, null], ['alpha.ignored']],
    ['an opaque material that reads one', [{ clear: 40, between: 0 }, {}], []],
  ])('%s', (_what, given, expected) => {
    expect(alphaCodes(...given)).toEqual(expected);
  });

  it('is safe to read where it is a mask, and not where it ramps', () => {
    const ignored = (clear: number, between: number) =>
      alpha({ clear, between }, {}, null).find(({ code }) => code === 'alpha.ignored');
    expect(ignored(40, 0)).toMatchObject({
      safe: true,
      severity: 'warning',
      evidence: expect.arrayContaining(['two values: a mask']),
    });
    // All edge, yet cut out: most there, much not, little between.
    expect(ignored(30, 18)?.safe).toBe(true);
    expect(ignored(30, 22)).toMatchObject({
      safe: false,
      evidence: expect.arrayContaining(['ramps: it blends, or holds something else']),
    });
    expect(ignored(4, 18)?.safe).toBe(false);
  });

  it('of a mask is mended with cut-off and two sides', () => {
    const [finding] = alpha({ clear: 40, between: 5 }, blend);
    expect(finding).toMatchObject({
      code: 'alpha.maskWouldDo',
      mend: {
        kind: 'setAlpha',
        materials: ['Net'],
        change: { alphaMode: 'mask', alphaCutoff: 0.5, doubleSided: true },
      },
      safe: true,
      evidence: ['95% of the pixels are clear or opaque'],
    });
  });
});

describe('numbers for people', () => {
  it('have as many digits as count', () => {
    expect([0.1 + 0.2, 1 / 3, 2, 0.0004].map(shown)).toEqual(['0.3', '0.333', '2', '0']);
    expect([1.234, 12.34, 0.01, 0.0099, 0.00123, 1234].map(lengthInWords)).toEqual([
      '1.2 m',
      '12 m',
      '0.01 m',
      '9.9 mm',
      '1.2 mm',
      '1200 m',
    ]);
    expect([0.5, 0.1234, 0.00123].map(shareInWords)).toEqual(['50%', '12%', '0.12%']);
  });
});
