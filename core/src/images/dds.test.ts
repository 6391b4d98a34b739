import { describe, expect, it } from 'vitest';
import { decodeOutside, put, randomBytes } from '../test/tools.ts';
import { decodeDds } from './dds.ts';

const SIZE = [256, 64] as const;

/** A DDS file of random blocks: every bit pattern is a valid block, so all modes and partitions occur. */
function blockFile(kind: string | number, bytesPerBlock: number, seed: number): Uint8Array {
  const blocks = randomBytes((SIZE[0] / 4) * (SIZE[1] / 4) * bytesPerBlock, seed);
  const dx10 = typeof kind === 'number';
  const head = new DataView(new ArrayBuffer(dx10 ? 148 : 128));
  const text = (offset: number, value: string) =>
    [...value].forEach((letter, i) => head.setUint8(offset + i, letter.charCodeAt(0)));
  text(0, 'DDS ');
  [124, 0x81007, SIZE[1], SIZE[0], blocks.length, 0, 1].forEach((value, i) =>
    head.setUint32(4 + i * 4, value, true),
  );
  head.setUint32(76, 32, true);
  head.setUint32(80, 4, true);
  text(84, dx10 ? 'DX10' : kind);
  head.setUint32(108, 0x1000, true);
  if (dx10) [kind, 3, 0, 1, 0].forEach((value, i) => head.setUint32(128 + i * 4, value, true));
  return new Uint8Array([...new Uint8Array(head.buffer), ...blocks]);
}

describe('DDS', () => {
  it.each([
    ['DXT1', 8, 'R,G,B', 3, 2],
    ['DXT5', 16, 'R,G,B', 3, 2],
    ['DXT5', 16, 'A,A,A', 1, 1],
    [80, 8, '0,0,0', 1, 1],
    [83, 16, '0,1,1', 2, 1],
    [98, 16, 'R,G,B', 3, 0],
    [98, 16, 'A,A,A', 1, 0],
  ] as const)('decodes %s blocks as another reader does', (kind, bytes, channels, compared, tolerance) => {
    const file = blockFile(kind, bytes, 7);
    const ours = decodeDds(file, 'a.dds');
    const theirs = decodeOutside(put('blocks.dds', file), channels);
    expect([ours.width, ours.height]).toEqual([...SIZE]);
    const first = channels.startsWith('A') ? 3 : 0;
    let worst = 0;
    for (let i = 0; i < SIZE[0] * SIZE[1]; i += 1) {
      for (let k = 0; k < compared; k += 1)
        worst = Math.max(worst, Math.abs(ours.data[i * ours.components + first + k] - theirs[i * 3 + k]));
    }
    expect(worst).toBeLessThanOrEqual(tolerance);
  });

  it.each([95, 96])('decodes float blocks of format %i as another reader does', (kind) => {
    const file = blockFile(kind, 16, 11);
    const ours = decodeDds(file, 'a.dds').data;
    const theirs = decodeOutside(put('blocks.dds', file), 'R,G,B', true);
    let wrong = 0;
    for (let i = 0; i < ours.length; i += 1)
      if (!(ours[i] === theirs[i] || Math.abs(ours[i] - theirs[i]) < 1e-3 || Number.isNaN(ours[i])))
        wrong += 1;
    expect(wrong).toBe(0);
  });

  it('names a cut file', () => {
    const file = blockFile('DXT1', 8, 1);
    expect(() => decodeDds(file.subarray(0, 400), 'cut.dds')).toThrow(/cut off/);
    expect(() => decodeDds(file.subarray(0, 60), 'cut.dds')).toThrow(/cut off/);
  });
});
