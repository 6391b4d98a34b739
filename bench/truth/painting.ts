import { crc32, deflateSync } from 'node:zlib';
import type { Lot } from '../fuzz/lot.ts';

const BLOCKS = 4;
const SIDE = 32;
/** PNG's own words for what a pixel has. */
const TYPES: Record<number, number> = { 1: 0, 2: 4, 3: 2, 4: 6 };
/** How near to the edge of a block a place is not looked at: images may be made larger or smaller. */
const EDGE = 0.16;

/** What a pixel has, in 0..1, as it is stored. */
export type Stored = [red: number, green: number, blue: number, alpha: number];

/** What lies outside of an image. */
export type Wrap = 'repeat' | 'clamp' | 'mirror';

/** An image of sixteen blocks, each of one colour; grey ones and ones without alpha too. */
export class Painting {
  private readonly blocks: Stored[];

  constructor(
    lot: Lot,
    readonly width: number,
    make: () => Stored = () => [byte(lot), byte(lot), byte(lot), byte(lot)],
  ) {
    this.blocks = Array.from({ length: BLOCKS * BLOCKS }, () => {
      const [red, green, blue, alpha] = make();
      return [red, width < 3 ? red : green, width < 3 ? red : blue, width % 2 === 0 ? alpha : 1];
    });
  }

  /** What is stored at a place, measured from the upper left corner; null near the edge of a block. */
  at([u, v]: readonly [number, number], [across, down]: readonly [Wrap, Wrap]): Stored | null {
    const [x, y] = [within(u, across) * BLOCKS, within(v, down) * BLOCKS];
    if ([x, y].some((side) => Math.abs(side - Math.round(side)) < EDGE)) return null;
    return this.blocks[Math.floor(y) * BLOCKS + Math.floor(x)];
  }

  /** As PNG. */
  png(): Uint8Array {
    const parts = this.width < 3 ? [0, 3] : [0, 1, 2, 3];
    const kept = parts.slice(0, this.width);
    const rows = Buffer.alloc(SIDE * (1 + SIDE * this.width));
    for (let y = 0; y < SIDE; y += 1)
      for (let x = 0; x < SIDE; x += 1) {
        const block = this.blocks[Math.floor((y * BLOCKS) / SIDE) * BLOCKS + Math.floor((x * BLOCKS) / SIDE)];
        kept.forEach((component, k) => {
          rows[y * (1 + SIDE * this.width) + 1 + x * this.width + k] = Math.round(block[component] * 255);
        });
      }
    const head = Buffer.alloc(13);
    head.writeUInt32BE(SIDE, 0);
    head.writeUInt32BE(SIDE, 4);
    head.set([8, TYPES[this.width]], 8);
    return Buffer.concat([
      Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
      chunk('IHDR', head),
      chunk('IDAT', deflateSync(rows)),
      chunk('IEND', Buffer.alloc(0)),
    ]);
  }
}

/** Whole 255ths, as files hold them. */
export function byte(lot: Lot, least = 0, most = 255): number {
  return (least + lot.below(most - least + 1)) / 255;
}

/** A direction as normal maps store it: not too steep, of length 1. */
export function direction(lot: Lot): Stored {
  const [x, y] = [lot.between(-0.5, 0.5), lot.between(-0.5, 0.5)];
  const [red, green, blue] = [x, y, Math.sqrt(1 - x * x - y * y)].map(
    (component) => Math.round(((component + 1) / 2) * 255) / 255,
  );
  return [red, green, blue, 1];
}

/** The curve of sRGB, to light. */
export function light(stored: number): number {
  return stored <= 0.04045 ? stored / 12.92 : ((stored + 0.055) / 1.055) ** 2.4;
}

function within(value: number, wrap: Wrap): number {
  // The middles of the outermost blocks.
  if (wrap === 'clamp') return Math.min(1 - 0.5 / BLOCKS, Math.max(0.5 / BLOCKS, value));
  const cycle = value - Math.floor(value);
  return wrap === 'mirror' && Math.floor(value) % 2 !== 0 ? 1 - cycle : cycle;
}

function chunk(type: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const frame = Buffer.alloc(body.length + 8);
  frame.writeUInt32BE(data.length, 0);
  frame.set(body, 4);
  frame.writeUInt32BE(crc32(body), body.length + 4);
  return frame;
}
