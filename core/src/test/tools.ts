import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FloatType } from 'three';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';

/** A folder of its own for files that outside tools read and write. */
export const scratch = mkdtempSync(join(tmpdir(), 'kinkajou-test-'));

export function put(name: string, bytes: Uint8Array): string {
  const path = join(scratch, name);
  writeFileSync(path, bytes);
  return path;
}

/** Runs Debian's oiiotool and returns what it says. */
export function oiiotool(...args: string[]): string {
  return execFileSync('oiiotool', args, {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
    maxBuffer: 1 << 28,
  });
}

/**
 * Some channels of an image as oiiotool decodes them, colours and alpha left alone. Three are r, g, b; one is
 * grey.
 */
export function decodeOutside(path: string, channels: string, float = false): ArrayLike<number> {
  const out = join(scratch, float ? 'outside.exr' : 'outside.ppm');
  const options = [
    '--iconfig',
    'oiio:UnassociatedAlpha',
    '1',
    path,
    '--ch',
    channels,
    '--chnames',
    'R,G,B',
    '-d',
    float ? 'float' : 'uint8',
  ];
  oiiotool(...options, '--compression', 'none', '-o', out);
  const bytes = readFileSync(out);
  if (float) {
    const { data, width, height } = new EXRLoader()
      .setDataType(FloatType)
      .parse(new Uint8Array(bytes).buffer) as {
      data: Float32Array;
      width: number;
      height: number;
    };
    return Float32Array.from({ length: width * height * 3 }, (_, i) => {
      const [pixel, k] = [Math.floor(i / 3), i % 3];
      return data[((height - 1 - Math.floor(pixel / width)) * width + (pixel % width)) * 4 + k];
    });
  }
  let index = 0;
  for (let fields = 0; fields < 4; index += 1) if (/\s/.test(String.fromCharCode(bytes[index]))) fields += 1;
  return bytes.subarray(index);
}

/** A small generator of random bytes from a seed. */
export function randomBytes(count: number, seed: number): Uint8Array {
  let state = seed >>> 0;
  return Uint8Array.from({ length: count }, () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state >>> 24;
  });
}
