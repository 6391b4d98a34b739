import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { tagUnstated } from '../../asset/unstatedTags.ts';
import { mendAsset } from '../../inspect.ts';
import { lookAtPixels, type PixelFacts } from '../../maps/pixelFacts.ts';
import { halfToNumber, numberToHalf } from '../../scene/half.ts';
import type { ColourSpace, MapUse } from '../../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from '../../test/assets.ts';

const SIDE = 32;

/**
 * Spaces by our name, the outside library's name, a word for file names, and the chromaticities that a header
 * states.
 */
const SPACES: [linear: ColourSpace, outside: string, word: string, header: number[]][] = [
  ['lin_rec709_scene', 'srgb-linear', 'lin_rec709', [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]],
  ['lin_ap1_scene', 'acescg', 'ACEScg', [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.32168, 0.33767]],
  ['lin_p3d65_scene', 'p3-linear', 'lin_p3d65', [0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329]],
  [
    'lin_rec2020_scene',
    'rec2020-linear',
    'linear_rec2020',
    [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329],
  ],
  [
    'lin_adobergb_scene',
    'a98rgb-linear',
    'linear_adobergb',
    [0.64, 0.33, 0.21, 0.71, 0.15, 0.06, 0.3127, 0.329],
  ],
  ['lin_ap0_scene', 'aces2065', 'ACES2065-1', [0.7347, 0.2653, 0, 1, 0.0001, -0.077, 0.32168, 0.33767]],
];

type State = 'linear' | 'encoded' | 'encoded twice';

/** Painted 8-bit sRGB codes: planks with grain, plain enough to be albedo. */
function code(x: number, y: number): [number, number, number] {
  const grain = Math.sin(x * 0.9 + Math.sin(y * 0.31) * 3) * 18 + ((x * 7 + y * 13) % 11);
  const plank = [
    [148, 96, 62],
    [92, 118, 84],
    [70, 96, 128],
    [168, 142, 90],
  ][(y >> 3) % 4];
  return plank.map((component) => Math.max(30, Math.min(235, Math.round(component + grain)))) as [
    number,
    number,
    number,
  ];
}

/** The planks' light in a space, by an outside library, perhaps blurred. */
function light(outside: string, blurred: boolean): Float32Array {
  const data = new Float32Array(SIDE * SIDE * 3);
  for (let i = 0; i < SIDE * SIDE; i += 1)
    data.set(converted(code(i % SIDE, Math.floor(i / SIDE)), outside), i * 3);
  if (!blurred) return data;
  const out = new Float32Array(data.length);
  for (let y = 0; y < SIDE; y += 1)
    for (let x = 0; x < SIDE; x += 1)
      for (let k = 0; k < 3; k += 1) {
        let sum = 0;
        for (let dy = -1; dy <= 1; dy += 1)
          for (let dx = -1; dx <= 1; dx += 1)
            sum += data[((((y + dy) & 31) * SIDE + ((x + dx) & 31)) * 3 + k) | 0];
        out[(y * SIDE + x) * 3 + k] = sum / 9;
      }
  return out;
}

const existing = new Map<string, number[]>();
function converted(codes: readonly number[], outside: string): number[] {
  const key = `${outside} ${codes.join()}`;
  let found = existing.get(key);
  if (!found) {
    const srgb = new Color('srgb', codes.map((component) => component / 255) as [number, number, number]);
    if (outside.endsWith('709')) found = srgb.to('srgb-linear').coords.map(Number);
    // The library has the encoded space alone; its curve is 563 / 256.
    else if (outside === 'a98rgb-linear')
      found = srgb
        .to('a98rgb')
        .coords.map((part) => Math.sign(Number(part)) * Math.abs(Number(part)) ** (563 / 256));
    else if (outside === 'aces2065') found = toAp0(srgb.to('acescg').coords.map(Number));
    else found = srgb.to(outside).coords.map(Number);
    existing.set(key, found);
  }
  return found;
}

/** SMPTE ST 2065-1 from AP1, the matrix of S-2014-004. */
function toAp0([r, g, b]: number[]): number[] {
  return [
    0.6954522414 * r + 0.1406786965 * g + 0.1638690622 * b,
    0.0447945634 * r + 0.8596711185 * g + 0.0955343182 * b,
    -0.0055258826 * r + 0.0040252103 * g + 1.0015006723 * b,
  ];
}

const encode = (value: number) =>
  Math.sign(value) *
  (Math.abs(value) <= 0.0031308 ? 12.92 * Math.abs(value) : 1.055 * Math.abs(value) ** (1 / 2.4) - 0.055);
const adobe = (value: number) => Math.sign(value) * Math.abs(value) ** (256 / 563);

const looks = new Map<string, PixelFacts>();
/** Facts of one way to store the planks; each is looked at once. */
function factsOf(...way: Parameters<typeof stored>): PixelFacts {
  const key = way.join();
  const found =
    looks.get(key) ?? lookAtPixels({ width: SIDE, height: SIDE, components: 3, data: stored(...way) });
  looks.set(key, found);
  return found;
}

function stored(
  linear: ColourSpace,
  outside: string,
  state: State,
  blurred: boolean,
  half: boolean,
): Float32Array {
  const curve = linear === 'lin_adobergb_scene' ? adobe : encode;
  const times = { linear: 0, encoded: 1, 'encoded twice': 2 }[state];
  return light(outside, blurred).map((value) => {
    let out = value;
    for (let i = 0; i < times; i += 1) out = curve(out);
    return half ? halfToNumber(numberToHalf(out)) : out;
  });
}

interface Case {
  linear: ColourSpace;
  outside: string;
  state: State;
  blurred: boolean;
  named: 'name' | 'header' | 'not';
  siblings: boolean;
  half: boolean;
  tag: Partial<MapUse>;
}

/** How a map of a model that is mended safely is read in the end, and whether anything is asked of it. */
function outcome(of: Case): { use: MapUse; asked: string[] } {
  const { mended } = mendedOf(of);
  const asked = mended.findings
    .filter(({ code: own }) => own.startsWith('colour.'))
    .map(({ code: own }) => own);
  return { use: mended.state.materials[0].channels.baseColor?.map as MapUse, asked };
}

function mendedOf({ linear, outside, state, blurred, named, siblings, half, tag }: Case) {
  const [, , word, header] = SPACES.find(([space]) => space === linear) as (typeof SPACES)[number];
  const suffix = named === 'name' ? `_${word}` : '';
  const paths = siblings
    ? [`deck_basecolor${suffix}.exr`, `hull_basecolor${suffix}.exr`, `mast_basecolor${suffix}.exr`]
    : [`deck_basecolor${suffix}.exr`];
  const facts = new Map<string, PixelFacts>();
  const files = paths.map((path, i) => {
    const file = testImage(path, {
      format: 'exr',
      width: SIDE,
      height: SIDE,
      components: 3,
      floating: true,
      bitDepth: half ? 16 : 32,
    });
    // Neighbours were not blurred.
    facts.set(file.sha256, factsOf(linear, outside, state, blurred && i === 0, half));
    if (named === 'header')
      (file.info as NonNullable<typeof file.info>).chromaticities = header.map(Math.fround);
    return file;
  });
  const materials = paths.map((path) =>
    testMaterial(path.split('_')[0], { baseColor: { image: path, ...tag } }),
  );
  const before = testState(materials);
  const source = { ...testSource(before), materials: tagUnstated(materials, before.images, files) };
  return { source, files, facts, mended: mendAsset(source, files, 'safe', { facts }) };
}

const CURVES: Record<string, (value: number) => number> = { srgb: (value) => value, lin: (value) => value };

/** The light that a use reads from a stored number, in its own primaries, worked out here. */
function readAs({ space, exponent = 1 }: MapUse, value: number): number {
  const raised = Math.sign(value) * Math.abs(value) ** exponent;
  if (space.startsWith('srgb_'))
    return raised <= 0.04045 ? raised / 12.92 : ((raised + 0.055) / 1.055) ** 2.4;
  if (space === 'g22_adobergb_scene') return Math.sign(raised) * Math.abs(raised) ** (563 / 256);
  return (CURVES[space.slice(0, 3)] ?? CURVES.lin)(raised);
}

const primariesOf = (space: ColourSpace) => (space === 'data' ? 'rec709' : space.split('_')[1]);

function isRight(of: Case, use: MapUse): boolean {
  const curve = of.linear === 'lin_adobergb_scene' ? adobe : encode;
  const times = { linear: 0, encoded: 1, 'encoded twice': 2 }[of.state];
  const apart = [0.03, 0.2, 0.6].map((value) => {
    let out = value;
    for (let i = 0; i < times; i += 1) out = curve(out);
    return Math.abs(encode(readAs(use, out)) - encode(value));
  });
  // An exponent stands for the curve to within 12 codes.
  return primariesOf(use.space) === primariesOf(of.linear) && Math.max(...apart) < 12 / 255;
}

const cases: Case[] = SPACES.flatMap(([linear, outside]) =>
  (['linear', 'encoded', 'encoded twice'] as const).flatMap((state) =>
    [false, true].flatMap((blurred) =>
      (['not', 'name', 'header'] as const).flatMap((named) =>
        [false, true].flatMap((siblings) =>
          [false, true].map(
            (half): Case => ({
              linear,
              outside,
              state,
              blurred,
              named,
              siblings,
              half,
              tag: { spaceFrom: 'unstated' },
            }),
          ),
        ),
      ),
    ),
  ),
);

describe('float colour of a model that states nothing', () => {
  it.each(SPACES)('in %s is read right or asked about', (space) => {
    const own = cases.filter(({ linear }) => linear === space);
    const silent = own.flatMap((of) => {
      const { use, asked } = outcome(of);
      return isRight(of, use) || asked.length > 0
        ? []
        : [{ ...of, space: use.space, exponent: use.exponent }];
    });
    expect(silent).toEqual([]);
  });

  it('is read right without a question where a header or name and the numbers agree', () => {
    const plain = cases.filter(
      ({ state, blurred, named }) => state === 'linear' && !blurred && named !== 'not',
    );
    const wrong = plain.filter((of) => {
      const { use, asked } = outcome(of);
      return !isRight(of, use) || asked.length > 0;
    });
    expect(wrong.map(({ linear, named, siblings, half }) => [linear, named, siblings, half])).toEqual([]);
  });

  it('is mended without a question where the numbers are plainly encoded, and so are blurred neighbours', () => {
    const plain = cases.filter(
      ({ linear, state, blurred, named, siblings }) =>
        linear === 'lin_rec709_scene' && state !== 'linear' && named === 'not' && (!blurred || siblings),
    );
    const wrong = plain.filter((of) => {
      const { use, asked } = outcome(of);
      return !isRight(of, use) || asked.some((one) => one !== 'colour.primariesUnstated');
    });
    expect(wrong.map(({ state, blurred, siblings, half }) => [state, blurred, siblings, half])).toEqual([]);
  });

  it('that is blurred and alone is asked about once, whatever its state, and an answer settles it', () => {
    const alone = {
      linear: 'lin_rec709_scene',
      outside: 'srgb-linear',
      blurred: true,
      named: 'not',
      siblings: false,
      half: false,
    } as const;
    for (const state of ['linear', 'encoded', 'encoded twice'] as const) {
      const of: Case = { ...alone, state, tag: { spaceFrom: 'unstated' } };
      const { source, files, facts, mended } = mendedOf(of);
      const [question, ...more] = mended.findings.filter(
        ({ code: own }) => own.startsWith('colour.') && own !== 'colour.primariesUnstated',
      );
      expect([question.severity, more]).toEqual(['warning', []]);
      const answer = question.choices?.find(
        ({ id }) => id === { linear: 'linear', encoded: 'encoded', 'encoded twice': 'encodedTwice' }[state],
      );
      const edits = answer?.edits ?? (question.mend ? [question.mend] : []);
      const after = mendAsset(source, files, 'none', { facts, before: [...mended.edits, ...edits] });
      expect(after.findings.filter(({ code: own }) => own.startsWith('colour.'))).toEqual([]);
      if (answer) expect(isRight(of, after.state.materials[0].channels.baseColor?.map as MapUse)).toBe(true);
    }
  });
});

describe('float colour with a tag of its own', () => {
  const base = {
    linear: 'lin_ap1_scene',
    outside: 'acescg',
    state: 'linear',
    blurred: false,
    named: 'header',
    siblings: false,
    half: true,
  } as const;

  it('is told where the header names other primaries, and is not changed without a person', () => {
    const { use, asked } = outcome({ ...base, tag: { space: 'lin_rec709_scene' } });
    expect([use.space, asked]).toEqual(['lin_rec709_scene', ['colour.primaries']]);
  });

  it('is mended where the tag says raw, which names no primaries', () => {
    expect(outcome({ ...base, tag: { space: 'data' } })).toMatchObject({
      use: { space: 'lin_ap1_scene' },
      asked: [],
    });
  });
});
