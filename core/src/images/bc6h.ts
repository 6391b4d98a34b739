import { halfToNumber } from '../scene/half.ts';
import { ANCHORS_2, BitReader, between, PARTITIONS_2, WEIGHTS } from './partitions.ts';

/**
 * Where each bit of a block goes, in order: `r0*10` are ten bits of red of end point 0, `g2:4` is bit 4 of
 * green of end point 2, `r0^2` are two bits from the tenth on, highest first. Tables 119 to 132 of the
 * Khronos Data Format.
 */
const LAYOUTS: Record<
  number,
  { layout: string; bits: [number, number, number, number]; absolute?: boolean; single?: boolean }
> = {
  0: {
    layout:
      'g2:4 b2:4 b3:4 r0*10 g0*10 b0*10 r1*5 g3:4 g2*4 g1*5 b3:0 g3*4 b1*5 b3:1 b2*4 r2*5 b3:2 r3*5 b3:3',
    bits: [10, 5, 5, 5],
  },
  1: {
    layout:
      'g2:5 g3:4 g3:5 r0*7 b3:0 b3:1 b2:4 g0*7 b2:5 b3:2 g2:4 b0*7 b3:3 b3:5 b3:4 r1*6 g2*4 g1*6 g3*4 b1*6 b2*4 r2*6 r3*6',
    bits: [7, 6, 6, 6],
  },
  2: {
    layout: 'r0*10 g0*10 b0*10 r1*5 r0:10 g2*4 g1*4 g0:10 b3:0 g3*4 b1*4 b0:10 b3:1 b2*4 r2*5 b3:2 r3*5 b3:3',
    bits: [11, 5, 4, 4],
  },
  6: {
    layout:
      'r0*10 g0*10 b0*10 r1*4 r0:10 g3:4 g2*4 g1*5 g0:10 g3*4 b1*4 b0:10 b3:1 b2*4 r2*4 b3:0 b3:2 r3*4 g2:4 b3:3',
    bits: [11, 4, 5, 4],
  },
  10: {
    layout:
      'r0*10 g0*10 b0*10 r1*4 r0:10 b2:4 g2*4 g1*4 g0:10 b3:0 g3*4 b1*5 b0:10 b2*4 r2*4 b3:1 b3:2 r3*4 b3:4 b3:3',
    bits: [11, 4, 4, 5],
  },
  14: {
    layout: 'r0*9 b2:4 g0*9 g2:4 b0*9 b3:4 r1*5 g3:4 g2*4 g1*5 b3:0 g3*4 b1*5 b3:1 b2*4 r2*5 b3:2 r3*5 b3:3',
    bits: [9, 5, 5, 5],
  },
  18: {
    layout: 'r0*8 g3:4 b2:4 g0*8 b3:2 g2:4 b0*8 b3:3 b3:4 r1*6 g2*4 g1*5 b3:0 g3*4 b1*5 b3:1 b2*4 r2*6 r3*6',
    bits: [8, 6, 5, 5],
  },
  22: {
    layout:
      'r0*8 b3:0 b2:4 g0*8 g2:5 g2:4 b0*8 g3:5 b3:4 r1*5 g3:4 g2*4 g1*6 g3*4 b1*5 b3:1 b2*4 r2*5 b3:2 r3*5 b3:3',
    bits: [8, 5, 6, 5],
  },
  26: {
    layout:
      'r0*8 b3:1 b2:4 g0*8 b2:5 g2:4 b0*8 b3:5 b3:4 r1*5 g3:4 g2*4 g1*5 b3:0 g3*4 b1*6 b2*4 r2*5 b3:2 r3*5 b3:3',
    bits: [8, 5, 5, 6],
  },
  30: {
    layout:
      'r0*6 g3:4 b3:0 b3:1 b2:4 g0*6 g2:5 b2:5 b3:2 g2:4 b0*6 g3:5 b3:3 b3:5 b3:4 r1*6 g2*4 g1*6 g3*4 b1*6 b2*4 r2*6 r3*6',
    bits: [6, 6, 6, 6],
    absolute: true,
  },
  3: { layout: 'r0*10 g0*10 b0*10 r1*10 g1*10 b1*10', bits: [10, 10, 10, 10], absolute: true, single: true },
  7: { layout: 'r0*10 g0*10 b0*10 r1*9 r0:10 g1*9 g0:10 b1*9 b0:10', bits: [11, 9, 9, 9], single: true },
  11: { layout: 'r0*10 g0*10 b0*10 r1*8 r0^2 g1*8 g0^2 b1*8 b0^2', bits: [12, 8, 8, 8], single: true },
  15: { layout: 'r0*10 g0*10 b0*10 r1*4 r0^6 g1*4 g0^6 b1*4 b0^6', bits: [16, 4, 4, 4], single: true },
};

interface Step {
  channel: number;
  end: number;
  shift: number;
  count: number;
  reversed: boolean;
}

const STEPS = new Map<number, Step[]>();
for (const [mode, { layout }] of Object.entries(LAYOUTS)) {
  const steps = layout.split(' ').map((word): Step => {
    const [, channel, end, kind, value] = /^([rgb])(\d)([*:^])(\d+)$/.exec(word) as RegExpExecArray;
    const number = Number(value);
    return {
      channel: 'rgb'.indexOf(channel),
      end: Number(end),
      shift: shiftOf(kind, number),
      count: kind === ':' ? 1 : number,
      reversed: kind === '^',
    };
  });
  STEPS.set(Number(mode), steps);
}

function shiftOf(kind: string, number: number): number {
  if (kind === ':') return number;
  return kind === '^' ? 10 : 0;
}

/** Decodes one BC6H block into 16 pixels of three floats. A block of no mode is black. */
export function decodeBc6hBlock(body: Uint8Array, offset: number, signed: boolean, out: Float32Array): void {
  const reader = new BitReader(body, offset);
  let mode = reader.bits(2);
  if (mode > 1) mode |= reader.bits(3) << 2;
  const layout = LAYOUTS[mode];
  const steps = STEPS.get(mode);
  if (!layout || !steps) {
    out.fill(0);
    return;
  }
  const ends = Array.from({ length: 4 }, () => [0, 0, 0]);
  for (const { channel, end, shift, count, reversed } of steps) {
    if (!reversed) ends[end][channel] |= reader.bits(count) << shift;
    else for (let i = count - 1; i >= 0; i -= 1) ends[end][channel] |= reader.bits(1) << (shift + i);
  }
  const partition = layout.single ? 0 : reader.bits(5);
  settle(ends, layout, signed);
  const indexBits = layout.single ? 4 : 3;
  for (let pixel = 0; pixel < 16; pixel += 1) {
    const subset = layout.single ? 0 : (PARTITIONS_2[partition] >> pixel) & 1;
    const anchor = pixel === 0 || (!layout.single && pixel === ANCHORS_2[partition]);
    const weight = WEIGHTS[indexBits][reader.bits(indexBits - (anchor ? 1 : 0))];
    for (let k = 0; k < 3; k += 1) {
      const value = between(ends[subset * 2][k], ends[subset * 2 + 1][k], weight);
      out[pixel * 3 + k] = halfToNumber(finishedHalf(signed, value));
    }
  }
}

function finishedHalf(signed: boolean, value: number): number {
  if (signed) return value < 0 ? 0x8000 | ((-value * 31) >> 5) : (value * 31) >> 5;
  return (value * 31) >> 6;
}

/**
 * Turns stored end points into 16-bit numbers: signs, differences to the first end point, and the full range.
 */
function settle(
  ends: number[][],
  { bits, absolute = false, single = false }: (typeof LAYOUTS)[number],
  signed: boolean,
): void {
  const [width, ...deltas] = bits;
  const count = single ? 2 : 4;
  for (let k = 0; k < 3; k += 1) {
    if (signed) ends[0][k] = extend(ends[0][k], width);
    for (let i = 1; i < count; i += 1) {
      if (!absolute || signed) ends[i][k] = extend(ends[i][k], absolute ? width : deltas[k]);
      if (absolute) continue;
      const whole = (ends[0][k] + ends[i][k]) & ((1 << width) - 1);
      ends[i][k] = signed ? extend(whole, width) : whole;
    }
    for (let i = 0; i < count; i += 1)
      ends[i][k] = signed ? fullSigned(ends[i][k], width) : fullUnsigned(ends[i][k], width);
  }
}

function extend(value: number, bits: number): number {
  return (value << (32 - bits)) >> (32 - bits);
}

function fullUnsigned(value: number, bits: number): number {
  if (bits >= 15 || value === 0) return value;
  return value === (1 << bits) - 1 ? 0xffff : ((value << 16) + 0x8000) >> bits;
}

function fullSigned(value: number, bits: number): number {
  if (bits >= 16 || value === 0) return value;
  const size = Math.abs(value);
  const full = size >= (1 << (bits - 1)) - 1 ? 0x7fff : ((size << 15) + 0x4000) >> (bits - 1);
  return value < 0 ? -full : full;
}
