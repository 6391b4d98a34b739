import { describe, expect, it } from 'vitest';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import type { Material } from '../scene/material.ts';
import { createMapUse } from '../scene/material.ts';
import { testMaterial } from '../test/assets.ts';
import { type Case, look, type Paint, parcel } from '../test/sets.ts';
import type { Finding } from './finding.ts';
import { judgeSlot } from './slots/slotVerdict.ts';
import { sharesOf } from './surface/alphaUse.ts';

const found = (of: Case, code: string): Finding[] =>
  look(of).findings.filter((finding) => finding.code === code);
const source = { from: 'file' as const, detail: '' };
const withValues = (
  material: Material,
  values: Partial<Record<string, number | [number, number, number]>>,
) => {
  for (const [channel, value] of Object.entries(values))
    material.channels[channel as 'metalness'] = { value: value as number, map: null, source };
  return material;
};
const flat =
  (...codes: number[]): Paint =>
  () =>
    codes;
const noisy =
  (low: number, high: number): Paint =>
  (x, y) => {
    const code = low + ((x * 31 + y * 17) % (high - low + 1));
    return [code, code, Math.max(0, code - 3)];
  };

describe('a map of one value', () => {
  it('is told with what it saves, and becomes the value', () => {
    const material = testMaterial('Hull', { roughness: 'hull_roughness.png' });
    const [finding, ...more] = found(
      { materials: [material], paths: ['hull_roughness.png'], paints: { 'hull_roughness.png': flat(51) } },
      'slot.constant',
    );
    expect(more).toEqual([]);
    expect(finding).toMatchObject({
      step: 'slots',
      severity: 'note',
      title: 'A map of one value',
      safe: true,
      mendLabel: 'Use value',
      target: { material: 'Hull', channel: 'roughness', image: 'hull_roughness.png' },
    });
    expect(finding.message).toMatch(
      /^hull_roughness\.png is .+ all over; as a value it saves .+ of memory\.$/,
    );
    expect(finding.evidence[1]).toMatch(/^64 x 64 with its smaller levels takes .+ once shown$/);
    expect(finding.mend).toMatchObject({
      kind: 'unmapSlots',
      slots: [{ material: 'Hull', channel: 'roughness', value: expect.closeTo(0.2, 6) }],
    });
  });

  it('empties a slot where the value does nothing', () => {
    const material = testMaterial('Hull', { normal: 'hull_normal.png' });
    const [finding] = found(
      {
        materials: [material],
        paths: ['hull_normal.png'],
        paints: { 'hull_normal.png': flat(128, 128, 255) },
      },
      'slot.constant',
    );
    expect([finding.mendLabel, (finding.mend as { slots: { value: unknown }[] }).slots[0].value]).toEqual([
      'Empty slot',
      null,
    ]);
  });

  it('stays where a component of the same image is none', () => {
    const image = 'hull_orm.png';
    const packed = testMaterial('Hull', {
      roughness: { image, component: 'g' },
      metalness: { image, component: 'b' },
    });
    const paint: Paint = (x) => [255, 100 + x, 0];
    expect(
      found({ materials: [packed], paths: [image], paints: { [image]: paint } }, 'slot.constant'),
    ).toEqual([]);
  });
});

describe('a packed image that one slot reads as a whole', () => {
  // Occlusion, roughness and metalness that each have their own pixels.
  const packed: Paint = (x, y) => [200 + (x % 50), 60 + (y % 90), x % 2 === 0 ? 0 : 255];
  const split = (channel: 'metalness' | 'opacity') =>
    found(
      {
        materials: [testMaterial('Hull', { [channel]: { image: 'hull_orm.png', component: 'r' } })],
        paths: ['hull_orm.png'],
        paints: { 'hull_orm.png': packed },
      },
      'slot.packedWhole',
    );
  const assigned = (finding: { mend: unknown } | undefined) =>
    (finding?.mend as { assignments: { channel: string; component: string }[] } | undefined)?.assignments.map(
      ({ channel, component }) => `${component} ${channel}`,
    );

  it('is split over its channels, and a slot that it is not for is emptied', () => {
    const [own] = split('metalness');
    expect(assigned(own)).toEqual(['r occlusion', 'g roughness', 'b metalness']);
    expect(own.mend).not.toHaveProperty('clears');
    const [other] = split('opacity');
    expect([assigned(other), (other.mend as { clears?: unknown }).clears]).toEqual([
      ['r occlusion', 'g roughness', 'b metalness'],
      [{ material: 'Hull', channel: 'opacity' }],
    ]);
  });
});

describe('a material that lacks what its siblings have', () => {
  const siblings = (...lacks: string[]) =>
    ['Bow', 'Stern', 'Deck', 'Mast'].map((name) =>
      testMaterial(name, {
        baseColor: `${name}_color.png`,
        ...(lacks.includes(name) ? {} : { normal: `${name}_normal.png` }),
      }),
    );
  const paths = ['Bow', 'Stern', 'Deck', 'Mast'].flatMap((name) => [
    `${name}_color.png`,
    `${name}_normal.png`,
  ]);

  it('is told with who has it', () => {
    const materials = siblings('Mast');
    expect(
      found({ materials, paths: paths.filter((path) => path !== 'Mast_normal.png') }, 'slot.lacking'),
    ).toEqual([
      {
        code: 'slot.lacking',
        step: 'slots',
        severity: 'note',
        key: 'slot.lacking:Mast',
        title: 'Fewer maps than its siblings',
        subject: 'Mast',
        message: 'Mast has no image for normal, which most other materials have.',
        evidence: ['3 of 3 others have normal'],
        mend: null,
        safe: false,
        mendLabel: '',
        target: { material: 'Mast', channel: 'normal' },
      },
    ]);
  });

  it('has its channels said in words, and so has what might fill them', () => {
    const coats = ['Bow', 'Stern', 'Deck'].map((name) =>
      testMaterial(name, { baseColor: `${name}_color.png`, coatRoughness: `${name}_coat.png` }),
    );
    const materials = [...coats, testMaterial('Mast', { baseColor: 'Mast_color.png' })];
    const all = ['Bow', 'Stern', 'Deck'].flatMap((name) => [`${name}_color.png`, `${name}_coat.png`]);
    const [lacking] = found({ materials, paths: [...all, 'Mast_color.png'] }, 'slot.lacking');
    expect(lacking.message).toBe('Mast has no image for coat roughness, which most other materials have.');
    // Colours under a name that says nothing may be the base colour.
    const hues: Paint = (x, y) => [200 - x, 90 + y, 40];
    const paints = { 'hull_zork.png': hues };
    const paths = ['hull_rough.png', 'hull_normal.png', 'hull_zork.png'];
    const hull = testMaterial('Hull', { roughness: 'hull_rough.png', normal: 'hull_normal.png' });
    const [offered] = found({ materials: [hull], paths, paints }, 'slot.candidate');
    expect(offered.choices?.map(({ id, label }) => [id, label])).toEqual([['hull_zork.png', 'Base colour']]);
  });

  it('is told from seven of ten others on', () => {
    const names = Array.from({ length: 11 }, (_, i) => `Post ${i}`);
    const posts = (having: number) =>
      names.map((name, i) =>
        testMaterial(name, {
          baseColor: `${name}_color.png`,
          ...(i < having ? { normal: `${name}_normal.png` } : {}),
        }),
      );
    const images = names.flatMap((name) => [`${name}_color.png`, `${name}_normal.png`]);
    // 7 of 10 others of those that lack it have it; 6 are not enough.
    expect(
      found({ materials: posts(7), paths: images }, 'slot.lacking').map(({ subject }) => subject),
    ).toEqual(names.slice(7));
    expect(found({ materials: posts(6), paths: images }, 'slot.lacking')).toEqual([]);
  });

  it('is nothing where half of them lack it, or where there are too few', () => {
    expect(found({ materials: siblings('Mast', 'Deck'), paths }, 'slot.lacking')).toEqual([]);
    expect(found({ materials: siblings('Mast').slice(1), paths }, 'slot.lacking')).toEqual([]);
  });
});

describe('a base colour too dark or too bright', () => {
  const range = (paint: Paint, values: Partial<Record<string, number>> = {}) =>
    found(
      {
        materials: [withValues(testMaterial('Hull', { baseColor: 'hull_color.png' }), values)],
        paths: ['hull_color.png'],
        paints: { 'hull_color.png': paint },
      },
      'colour.albedoRange',
    ).map(({ message }) => message);

  it('is measured as what it is: paint, metal, or either', () => {
    expect(range(noisy(2, 10))[0]).toMatch(/darker than black paint nearly everywhere/);
    expect(range(noisy(251, 255))[0]).toMatch(/brighter than white paint nearly everywhere/);
    expect(range(noisy(100, 247))).toEqual([]);
    expect(range(noisy(100, 140), { metalness: 1 })[0]).toMatch(/as a metal it is darker than any metal/);
    expect(range(noisy(200, 250), { metalness: 1 })).toEqual([]);
    // Neither paint nor metal by its value: nothing can be told.
    expect(range(noisy(2, 10), { metalness: 0.5 })).toEqual([]);
  });
});

describe('a height that is too strong', () => {
  const strong = (amount: number, metresPerUnit: number, span: number) => {
    const material = testMaterial('Quay', { height: 'quay_height.png' });
    material.channels.height = { value: amount, map: createMapUse('quay_height.png', 'height'), source };
    const bounds = {
      min: [0, 0, 0] as [number, number, number],
      max: [span, 0, 0] as [number, number, number],
    };
    return found(
      { materials: [material], paths: ['quay_height.png'], source: { bounds, metresPerUnit } },
      'surface.heightTooStrong',
    );
  };

  it('is told against the size of the object, in its own units', () => {
    // Two metres across in centimetres: 20 units are a tenth of it, and a hundredth is 2.
    const [finding] = strong(20, 0.01, 2);
    expect(finding).toMatchObject({
      severity: 'warning',
      title: 'Displaced too far',
      message: "Quay is displaced by 0.2 m, 10% of the object's size; the silhouette tears.",
      evidence: ['the object is 2 m across', '1% of it is 0.02 m'],
      mendLabel: 'Set to 0.02 m',
      safe: false,
    });
    expect(finding.mend).toMatchObject({
      kind: 'setValues',
      slots: [{ material: 'Quay', channel: 'height' }],
      value: 2,
    });
    expect((strong(-20, 0.01, 2)[0].mend as { value: number }).value).toBe(-2);
  });

  it('is nothing up to a twentieth of the size', () => {
    expect(strong(10, 0.01, 2)).toEqual([]);
    expect(strong(10.2, 0.01, 2).length).toBe(1);
    expect(strong(0.09, 1, 2)).toEqual([]);
  });
});

describe('shares of an opacity', () => {
  const PATH = 'net.png';
  const shares = (paint: Paint, component: 'a' | 'r' | 'g' | 'b', { invert = false, value = 1 } = {}) => {
    const { files, facts } = parcel([PATH], { [PATH]: paint });
    const material = testMaterial('Net', { opacity: { image: PATH, component, invert } });
    const content = { ...(material.channels.opacity as NonNullable<Material['channels']['opacity']>), value };
    return sharesOf({
      channel: 'opacity',
      map: content.map,
      facts: facts.get(files[0].sha256) as PixelFacts,
      content,
    } as never);
  };
  const round = (of: ReturnType<typeof shares>) =>
    of &&
    Object.fromEntries(
      (['full', 'clear', 'between'] as const).map((name) => [name, Math.round(of[name] * 100) / 100 + 0]),
    );

  it('are those of its component: whole, clear and between', () => {
    const thirds: Paint = (x) => [90, x < 16 ? 0 : x < 32 ? 255 : 128, 0, 255];
    // Of a component the ends are counted together.
    expect(round(shares(thirds, 'g'))).toEqual({ full: 0.25, clear: 0.25, between: 0.5 });
    expect(round(shares((x) => [x < 16 ? 255 : 0, 0, 0, x < 16 ? 255 : 0], 'a'))).toEqual({
      full: 0.25,
      clear: 0.75,
      between: 0,
    });
    expect(round(shares((x) => [x < 16 ? 255 : 0, 0, 0, x < 16 ? 255 : 0], 'a', { invert: true }))).toEqual({
      full: 0.75,
      clear: 0.25,
      between: 0,
    });
  });

  it('of one value are all of one kind', () => {
    expect(shares(flat(255, 0, 7), 'r')).toEqual({ full: 1, clear: 0, between: 0 });
    expect(shares(flat(0, 255, 7), 'r')).toEqual({ full: 0, clear: 1, between: 0 });
    expect(shares(flat(0, 255, 7), 'r', { invert: true })).toEqual({ full: 1, clear: 0, between: 0 });
    expect(shares(flat(0, 255, 100), 'b')).toEqual({ full: 0, clear: 0, between: 1 });
  });

  it('that never reach both ends are all between', () => {
    expect(shares((x) => [100 + x, 0, 0], 'r')).toEqual({ full: 0, clear: 0, between: 1 });
    expect(shares((x) => [192 + x, 0, 0], 'r')).toEqual({ full: 0, clear: 0, between: 1 });
    expect(shares((x) => [x, 0, 0], 'r')).toEqual({ full: 0, clear: 0, between: 1 });
  });

  it('are unknown where a factor stands before the image', () => {
    expect(shares(flat(255, 0, 0), 'r', { value: 0.5 })).toBeNull();
  });
});

describe('what speaks against a slot', () => {
  const verdicts = (material: Material, paths: string[], paints: Record<string, Paint> = {}) => {
    const { findings } = look({ materials: [material], paths, paints });
    return findings
      .filter(({ code }) => code.startsWith('slot.'))
      .map(({ code, evidence }) => [code, evidence[0]]);
  };
  const bumps: Paint = (x, y) => [128 + ((x * 13) % 40) - 20, 128 + ((y * 17) % 40) - 20, 250];
  const grey: Paint = (x, y) => [(x * 3 + y) & 255, (x * 3 + y) & 255, (x * 3 + y) & 255];

  it('is a normal in a bump slot by its pixels, or by its name alone where nobody looked', () => {
    const material = testMaterial('Hull', { bump: 'hull_normal.png' });
    const [code, why] = verdicts(material, ['hull_normal.png'], { 'hull_normal.png': bumps })[0];
    expect(code).toBe('slot.normalAsBump');
    expect(why).toMatch(/\S/);
    expect(verdicts(material, ['hull_normal.png'])[0][0]).toBe('slot.normalAsBump');
    expect(
      verdicts(testMaterial('Hull', { bump: 'hull_bump.png' }), ['hull_bump.png'], {
        'hull_bump.png': bumps,
      })[0]?.[0],
    ).toBe('slot.normalAsBump');
    expect(
      verdicts(testMaterial('Hull', { bump: 'hull_bump.png' }), ['hull_bump.png'], { 'hull_bump.png': grey }),
    ).toEqual([]);
  });

  it('is one grey image for roughness and metalness, unless a value takes one back; its own map is at hand', () => {
    const mended = (
      name: string,
      paint: Paint,
      { value = 1, own = ['hull_metallic.png'], paints = {} as Record<string, Paint> } = {},
    ) => {
      const material = testMaterial('Hull', {
        roughness: { image: name, component: 'g' },
        metalness: { image: name, component: 'b' },
      });
      Object.assign(material.channels.metalness ?? {}, { value });
      const { findings } = look({
        materials: [material],
        paths: [name, ...own],
        paints: { ...paints, [name]: paint },
      });
      return findings
        .filter(({ code }) => code === 'slot.contradiction')
        .map(({ safe, mend, target }) => [
          target.channel,
          safe,
          mend?.kind,
          mend?.kind === 'assignSlots' ? mend.assignments[0].image : '',
        ]);
    };
    const rough = 'hull_roughness.png';
    expect(mended(rough, grey)).toEqual([['metalness', true, 'assignSlots', 'hull_metallic.png']]);
    expect(mended(rough, grey, { own: [] })).toEqual([['metalness', false, 'clearSlots', '']]);
    // Of one component, or but for a few pixels in a thousand.
    const single: Paint = (x, y) => [(x * 3 + y) & 255];
    expect(mended(rough, single)).toEqual([['metalness', true, 'assignSlots', 'hull_metallic.png']]);
    const nearly: Paint = (x, y) => (x + y < 2 ? [9, 80, 30] : grey(x, y));
    expect(mended(rough, nearly)).toEqual([['metalness', true, 'assignSlots', 'hull_metallic.png']]);
    // One that is no metalness by its pixels is none of its own.
    const paints = { 'hull_metallic.png': bumps };
    expect(mended(rough, grey, { paints })).toEqual([['metalness', false, 'clearSlots', '']]);
    expect(mended(rough, grey, { value: 0 })).toEqual([]);
    // Other numbers in each component are what such a slot is for, whatever its name.
    expect(mended(rough, (x, y) => [0, (x * 3) & 255, (y * 5) & 255])).toEqual([]);
  });

  it('is no name of a bump or height over vectors that feed the normal', () => {
    for (const name of ['hull_bump.png', 'hull_height.png']) {
      const material = testMaterial('Hull', { normal: name });
      expect(verdicts(material, [name], { [name]: bumps })).toEqual([]);
      expect(verdicts(material, [name], { [name]: grey })[0][0]).toBe('slot.bumpAsNormal');
    }
  });

  it('is grey in a normal slot, or the name of a relief that is no normal', () => {
    const [code, why] = verdicts(testMaterial('Hull', { normal: 'hull_normal.png' }), ['hull_normal.png'], {
      'hull_normal.png': grey,
    })[0];
    expect(code).toBe('slot.bumpAsNormal');
    expect(why).toBe('red, green and blue are equal on 100% of the pixels');
    expect(verdicts(testMaterial('Hull', { normal: 'hull_height.png' }), ['hull_height.png'])[0][0]).toBe(
      'slot.bumpAsNormal',
    );
    expect(
      verdicts(testMaterial('Hull', { normal: 'hull_height.png' }), ['hull_height.png'], {
        'hull_height.png': bumps,
      }).map(([one]) => one),
    ).not.toContain('slot.bumpAsNormal');
  });

  it('is nothing without an image', () => {
    expect(judgeSlot({ file: null, named: null, channel: 'roughness' } as never, [])).toBeNull();
    const { files } = parcel(['a.png']);
    expect(judgeSlot({ file: files[0], named: null, channel: 'roughness' } as never, [])).toBeNull();
  });
});
