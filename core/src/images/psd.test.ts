import { deflateSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { shortfallOf } from './cut.ts';
import { decodePsd, psdHeader } from './psd.ts';

const MODES = { bitmap: 0, grey: 1, indexed: 2, RGB: 3, CMYK: 4, duotone: 8 };

/** A picture as Adobe's file format specification lays it out, its planes as rows of bytes. */
interface Picture {
  mode: keyof typeof MODES;
  depth: 1 | 8 | 16 | 32;
  width: number;
  /** Rows of each plane, in bytes as they are stored unpacked. */
  planes: number[][][];
  palette?: number[];
  /** 0 raw, 1 runs, 2 deflated, 3 deflated after prediction. */
  compression?: number;
  /** Rows as they are packed, where that is not what they hold. */
  packed?: number[][];
  wide?: boolean;
}

function psd({
  mode,
  depth,
  width,
  planes,
  palette = [],
  compression = 0,
  packed,
  wide,
}: Picture): Uint8Array {
  const rows = packed ?? planes.flat();
  const u16 = (value: number) => [value >> 8, value & 255];
  const u32 = (value: number) => [...u16(value >>> 16), ...u16(value & 0xffff)];
  const body = compression >= 2 ? [...deflateSync(Uint8Array.from(rows.flat()))] : rows.flat();
  const lengths = rows.flatMap((row) => (wide ? u32(row.length) : u16(row.length)));
  return Uint8Array.from([
    ...new TextEncoder().encode('8BPS'),
    ...u16(wide ? 2 : 1),
    ...[0, 0, 0, 0, 0, 0],
    ...u16(planes.length),
    ...u32(planes[0].length),
    ...u32(width),
    ...u16(depth),
    ...u16(MODES[mode]),
    ...u32(palette.length),
    ...palette,
    // Resources of three bytes, then no layers.
    ...[0, 0, 0, 3, 1, 2, 3],
    ...(wide ? [...u32(0), ...u32(0)] : u32(0)),
    ...u16(compression),
    ...(compression === 1 ? lengths : []),
    ...body,
  ]);
}

/** Two rows: four times 7 and two literals; then nothing (-128), a literal and five times 9. */
const RUNS: Picture = {
  mode: 'grey',
  depth: 8,
  width: 6,
  planes: [[[], []]],
  compression: 1,
  packed: [
    [253, 7, 1, 1, 2],
    [128, 0, 5, 252, 9],
  ],
};

/** A float in four bytes, most significant first. */
function float(value: number): number[] {
  return [...new Uint8Array(new Float32Array([value]).buffer)].reverse();
}

const decoded = (picture: Picture) => decodePsd(psd(picture), 'quay.psd');

describe('a PSD picture', () => {
  it('of colours with alpha, plane after plane', () => {
    const planes = [[[10, 20]], [[30, 40]], [[50, 60]], [[70, 80]]];
    const { width, height, components, data } = decoded({ mode: 'RGB', depth: 8, width: 2, planes });
    expect([width, height, components, [...data]]).toEqual([2, 1, 4, [10, 30, 50, 70, 20, 40, 60, 80]]);
    // A fifth plane is a selection that was kept; it is none of the picture.
    const five = decoded({ mode: 'RGB', depth: 8, width: 2, planes: [...planes, [[1, 2]]] });
    expect([five.components, [...five.data]]).toEqual([4, [10, 30, 50, 70, 20, 40, 60, 80]]);
  });

  it('of 16 bits and of floats', () => {
    const wide = decoded({ mode: 'grey', depth: 16, width: 2, planes: [[[0x12, 0x34, 0xff, 0xfe]]] });
    expect(wide.data).toEqual(Uint16Array.of(0x1234, 0xfffe));
    const floats = decoded({
      mode: 'grey',
      depth: 32,
      width: 2,
      planes: [[[...float(0.5), ...float(-3)]], [[...float(1), ...float(0.25)]]],
    });
    expect([floats.components, floats.data]).toEqual([2, Float32Array.of(0.5, 1, -3, 0.25)]);
  });

  it('of a palette, whose reds come first, then greens and blues', () => {
    const palette = Array.from({ length: 768 }, (_, i) => (i % 256) >> Math.floor(i / 256));
    const { components, data } = decoded({
      mode: 'indexed',
      depth: 8,
      width: 3,
      planes: [[[0, 200, 7]]],
      palette,
    });
    expect([components, [...data]]).toEqual([3, [0, 0, 0, 200, 100, 50, 7, 3, 1]]);
  });

  it('of bits, where 1 is black', () => {
    // Ten pixels take two bytes a row.
    const rows = [
      [0b10100000, 0b01000000],
      [0b00000001, 0b10000000],
    ];
    const { data } = decoded({ mode: 'bitmap', depth: 1, width: 10, planes: [rows] });
    expect([...data].map((code) => (code === 0 ? 1 : 0)).join('')).toBe('10100000010000000110');
    expect(new Set(data)).toEqual(new Set([0, 255]));
  });

  it('of duotones is read as its grey', () => {
    expect([...decoded({ mode: 'duotone', depth: 8, width: 2, planes: [[[9, 8]]] }).data]).toEqual([9, 8]);
  });

  it.each([false, true])('in runs and literals; large format: %s', (wide) => {
    const { data } = decoded({ ...RUNS, wide });
    expect([...data]).toEqual([7, 7, 7, 7, 1, 2, 5, 9, 9, 9, 9, 9]);
  });

  it('deflated, as it is and after prediction', () => {
    const grey = { mode: 'grey' as const, width: 3 };
    const plain = decoded({ ...grey, depth: 16, planes: [[[1, 2, 3, 4, 5, 6]]], compression: 2 });
    expect(plain.data).toEqual(Uint16Array.of(0x102, 0x304, 0x506));
    // Each number stands as what it is more than the one before, over the end and round.
    const bytes = decoded({
      ...grey,
      depth: 8,
      planes: [
        [
          [250, 10, 255],
          [1, 1, 1],
        ],
      ],
      compression: 3,
    });
    expect([...bytes.data]).toEqual([250, 4, 3, 1, 2, 3]);
    const words = decoded({
      ...grey,
      depth: 16,
      planes: [[[0x00, 0xff, 0x00, 0x02, 0xff, 0xff]]],
      compression: 3,
    });
    expect(words.data).toEqual(Uint16Array.of(0xff, 0x101, 0x100));
  });

  it('of floats after prediction: first bytes of all numbers, then second ones, each as a step', () => {
    const rows = [
      [0.5, -3, 100],
      [1, 2, 0.001],
    ];
    const stored = rows.map((row) => {
      const numbers = row.map(float);
      const flat = [0, 1, 2, 3].flatMap((k) => numbers.map((bytes) => bytes[k]));
      return flat.map((code, i) => (code - (i === 0 ? 0 : flat[i - 1])) & 255);
    });
    const { data } = decoded({ mode: 'grey', depth: 32, width: 3, planes: [stored], compression: 3 });
    expect(data).toEqual(Float32Array.from(rows.flat()));
  });

  it('says what it is in its header', () => {
    const of = (picture: Picture) => psdHeader(psd(picture), 'quay.psd');
    expect(of({ mode: 'RGB', depth: 16, width: 5, planes: [[[]], [[]], [[]]], wide: true })).toEqual({
      width: 5,
      height: 1,
      channels: 3,
      depth: 16,
      mode: 'RGB',
      components: 3,
      wide: true,
    });
    expect(of({ mode: 'indexed', depth: 8, width: 5, planes: [[[]], [[]]] }).components).toBe(3);
    expect(of({ mode: 'grey', depth: 8, width: 5, planes: [[[]], [[]]] }).components).toBe(2);
  });

  it('is refused in words where its colours need a profile, or its bytes are wrong or not there', () => {
    const broken = (bytes: Uint8Array) => {
      try {
        decodePsd(bytes, 'quay.psd');
        return null;
      } catch (error) {
        return (error as { code?: string }).code;
      }
    };
    const four = [[[1]], [[2]], [[3]], [[4]]];
    expect(broken(psd({ mode: 'CMYK', depth: 8, width: 1, planes: four }))).toBe('image.format');
    const sound = psd({ mode: 'RGB', depth: 8, width: 1, planes: four });
    expect(broken(sound)).toBeNull();
    for (let size = 0; size < sound.length; size += 1)
      expect(broken(sound.subarray(0, size)), `${size} bytes`).toBe('image.broken');
    for (const [place, value] of [
      [5, 3],
      [23, 12],
      [25, 6],
    ])
      expect(broken(sound.map((code, i) => (i === place ? value : code)))).toBe('image.broken');
    const runs: Picture = { mode: 'grey', depth: 8, width: 6, planes: [[[]]], compression: 1 };
    expect(broken(psd({ ...runs, packed: [[253, 7, 1, 1, 2]] }).slice(0, -1))).toBe('image.broken');
    const packed = psd({ mode: 'grey', depth: 8, width: 600, planes: [[[1, 2, 3]]], compression: 2 });
    // Fewer numbers than the picture has, and none at all.
    expect(broken(packed)).toBe('image.broken');
    expect(broken(packed.map((code, i) => (i > packed.length - 8 ? 0 : code)))).toBe('image.broken');
  });

  it.each([false, true])('that is cut is known before it is decoded; large format: %s', (wide) => {
    const raw = psd({
      mode: 'RGB',
      depth: 16,
      width: 2,
      planes: [[[1, 2, 3, 4]], [[5, 6, 7, 8]], [[9, 10, 11, 12]]],
      wide,
    });
    const runs = psd({ ...RUNS, wide });
    for (const whole of [raw, runs]) {
      expect(shortfallOf('psd', whole)).toBeNull();
      expect(shortfallOf('psd', whole.slice(0, -1))).toEqual({ have: whole.length - 1, need: whole.length });
    }
  });
});
