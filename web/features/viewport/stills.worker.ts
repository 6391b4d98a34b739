import { encodeExr } from '@kinkajou/core/images/exr';
import { encode as encodePng } from 'fast-png';
import { zipSync } from 'fflate';
import { DataUtils } from 'three';
import type { EncodeRequest, PackRequest } from './stills.ts';

/** Encodes what the view drew, away from the page. */
self.onmessage = async ({ data }: MessageEvent<EncodeRequest | PackRequest>) => {
  try {
    const bytes = await encoded(data);
    self.postMessage(bytes, { transfer: [bytes.buffer as ArrayBuffer] });
  } catch (error) {
    self.postMessage({ error: error instanceof Error ? error.message : String(error) });
  }
};

function encoded(data: EncodeRequest | PackRequest): Uint8Array | Promise<Uint8Array> {
  if (data.kind === 'zip') return packed(data);
  return data.kind === 'png' ? png(data) : exr(data);
}

/** PNG frames are compressed already. */
function packed({ names, files }: PackRequest): Uint8Array {
  return zipSync(Object.fromEntries(names.map((name, i) => [name, files[i]])), {
    level: 0,
    mtime: new Date('2000-01-01'),
  });
}

/** 8-bit PNG, top row first, colour straight. */
function png({ width, height, pixels, paper }: EncodeRequest): Uint8Array {
  const out = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y += 1) {
    const behind = paper && paperAt(paper, (y + 0.5) / height);
    for (
      let x = 0, from = (height - 1 - y) * width * 4, to = y * width * 4;
      x < width;
      x += 1, from += 4, to += 4
    ) {
      const alpha = pixels[from + 3];
      for (let k = 0; k < 3; k += 1) {
        const value = pixels[from + k];
        if (behind) out[to + k] = Math.min(255, Math.round(value + (255 - alpha) * behind[k]));
        else out[to + k] = alpha === 0 ? 0 : Math.min(255, Math.round((value * 255) / alpha));
      }
      out[to + 3] = behind ? 255 : alpha;
    }
  }
  return encodePng({ width, height, data: out, channels: 4, depth: 8 });
}

/** Half floats of light, top row first; colour stays multiplied by alpha, as the format wants it. */
async function exr({ width, height, pixels, paper }: EncodeRequest): Promise<Uint8Array> {
  const data = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y += 1) {
    const behind = paper && paperAt(paper, (y + 0.5) / height).map(toLight);
    for (
      let x = 0, from = (height - 1 - y) * width * 4, to = y * width * 4;
      x < width;
      x += 1, from += 4, to += 4
    ) {
      const alpha = DataUtils.fromHalfFloat(pixels[from + 3]);
      for (let k = 0; k < 3; k += 1)
        data[to + k] = DataUtils.fromHalfFloat(pixels[from + k]) + (behind ? (1 - alpha) * behind[k] : 0);
      data[to + 3] = behind ? 1 : alpha;
    }
  }
  return encodeExr({ width, height, components: 4, data }, 16);
}

function paperAt(stops: NonNullable<EncodeRequest['paper']>, index: number): [number, number, number] {
  const next = Math.max(
    1,
    stops.findIndex(([place]) => place >= index),
  );
  const [[a, from], [b, to]] = [stops[next - 1], stops[next]];
  const t = Math.min(1, Math.max(0, (index - a) / (b - a)));
  return [0, 1, 2].map((k) => from[k] + (to[k] - from[k]) * t) as [number, number, number];
}

function toLight(value: number): number {
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
}
