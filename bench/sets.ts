import { initialState } from '@kinkajou/core/asset/asset';
import { collectFacts } from '@kinkajou/core/asset/collectFacts';
import { createContext } from '@kinkajou/core/findings/context';
import { encodePng } from '@kinkajou/core/images/encode';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { extent } from './extent.ts';

/** Materials that images are matched with. */
export const MATERIALS = extent(40, 4);
const CHANNELS = [
  'basecolor',
  'normal',
  'roughness',
  'metallic',
  'ao',
  'height',
  'emissive',
  'opacity',
  'specular',
  'curvature',
];
const SIDE = extent(256, 32);

/**
 * A white model beside ten images for each of its materials, in sets whose names relate to the materials' by
 * their words alone.
 */
export async function whiteKit(): Promise<ReturnType<typeof memorySource>> {
  const files: Record<string, Uint8Array> = {};
  const lines: string[] = [];
  for (let i = 0; i < MATERIALS; i += 1) {
    const name = `${['bollard', 'cleat', 'ladder', 'rail'][i % 4]}_${String(i).padStart(2, '0')}`;
    const first = i * 4;
    lines.push(`usemtl M_${name}`, `v 0 ${i} 0`, `v 1 ${i} 0`, `v 1 ${i + 1} 0`, `v 0 ${i + 1} 0`);
    lines.push(
      'vt 0.1 0.1',
      'vt 0.7 0.1',
      'vt 0.7 0.8',
      'vt 0.1 0.8',
      `f ${[1, 2, 3, 4].map((k) => `${first + k}/${first + k}`).join(' ')}`,
    );
    for (const [k, channel] of CHANNELS.entries())
      files[`maps/T_${name}_${channel}.png`] = await grain(
        i * 100 + k,
        channel === 'basecolor' || channel === 'normal' ? 3 : 1,
      );
  }
  files['kit.obj'] = new TextEncoder().encode(lines.join('\n'));
  return memorySource('kit', files);
}

async function grain(seed: number, components: 1 | 3): Promise<Uint8Array> {
  const data = new Uint8Array(SIDE * SIDE * components);
  let state = seed + 1;
  for (let i = 0; i < data.length; i += 1) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    data[i] = 100 + (state >>> 26);
  }
  return encodePng({ width: SIDE, height: SIDE, components, data });
}

/**
 * Reads the model and looks at all images, then works out what is whose; milliseconds of both, and how many
 * slots are filled.
 */
export async function matchKit(
  source: ReturnType<typeof memorySource>,
): Promise<{ reading: number; matching: number; filled: number }> {
  const start = performance.now();
  const asset = await openAsset(source, 'kit.obj');
  const { facts } = await collectFacts(asset.images, asset.read);
  const read = performance.now();
  const context = createContext(asset.source, initialState(asset.source), asset.images, { facts });
  const { fills } = context.settlement();
  return { reading: read - start, matching: performance.now() - read, filled: fills.length };
}
