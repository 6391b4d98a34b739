import { decodeImage } from '@kinkajou/core/images/decode';
import { encodePng } from '@kinkajou/core/images/encode';
import { detectMaps } from '@kinkajou/core/maps/detectMaps';
import { lookAtPixels } from '@kinkajou/core/maps/pixelFacts';
import { extent } from './extent.ts';

/** Of a map's side, in pixels. */
export const SIDE = extent(4096, 128);

/**
 * A large square image of grain in some colour, or of normals of a bumpy surface with grain: as heavy as
 * painted maps are.
 */
export async function bigMap(kind: 'colour' | 'normal'): Promise<Uint8Array> {
  const data = new Uint8Array(SIDE * SIDE * 3);
  let seed = 12345;
  const random = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed >>> 24;
  };
  for (let y = 0, at = 0; y < SIDE; y += 1) {
    for (let x = 0; x < SIDE; x += 1, at += 3) {
      if (kind === 'colour') {
        const grain = random() >> 3;
        data.set([150 + grain, 80 + grain, 40 + (grain >> 1)], at);
      } else {
        const [p, q] = [
          0.4 * Math.cos(x / 37) * Math.sin(y / 29) + random() / 4000,
          0.4 * Math.sin(x / 37) * Math.cos(y / 29) + random() / 4000,
        ];
        const length = Math.hypot(p, q, 1);
        data.set(
          [(127.5 * (1 - p / length)) | 0, (127.5 * (1 - q / length)) | 0, (127.5 * (1 + 1 / length)) | 0],
          at,
        );
      }
    }
  }
  return encodePng({ width: SIDE, height: SIDE, components: 3, data });
}

/** Decodes only; the yardstick. */
export async function decodeOnly(bytes: Uint8Array): Promise<void> {
  await decodeImage(bytes, 'map.png');
}

/** Decodes, looks at the pixels and says what the image is. */
export async function decodeAndClassify(bytes: Uint8Array): Promise<string> {
  const facts = lookAtPixels(await decodeImage(bytes, 'map.png'));
  const [map] = detectMaps([{ path: 'map.png', info: null, facts }]);
  return map.readings[0]?.channel ?? 'unknown';
}
