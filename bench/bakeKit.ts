import { readFileSync } from 'node:fs';
import { deserialize } from 'node:v8';
import { enginePacked } from '@kinkajou/core/destinations/enginePacked';
import { bakeImages } from '@kinkajou/core/handoff/bake/bakeImages';
import { planHandoff } from '@kinkajou/core/handoff/plan/plan';
import { listModels, mendAsset, openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import sharp from 'sharp';

/** A kit of fourteen materials, mended, with the plan of its packed maps for an engine. */
export async function openKit(files: Record<string, Uint8Array>) {
  const source = memorySource('kit', files);
  const asset = await openAsset(source, listModels(source)[0]);
  const { state } = mendAsset(asset.source, asset.images, 'all');
  return { plan: planHandoff(state, asset.images, enginePacked, 'kit'), read: asset.read };
}

/** The bollard kit, opened. */
export type Kit = Awaited<ReturnType<typeof openKit>>;

/** Our baking, several images at a time, as a handoff does it. */
export async function bakeOurs({ plan, read }: Kit): Promise<void> {
  await bakeImages(plan.images, read);
}

const AT_A_TIME = 2;

/** The same sums in a bare script: sharp decodes and encodes, loops between, two images at a time. */
export async function bakeBare({ plan, read }: Kit): Promise<void> {
  const queue = [...plan.images];
  const work = async () => {
    for (let image = queue.shift(); image; image = queue.shift()) {
      if (image.copyOf) {
        await read(image.copyOf);
        continue;
      }
      const { width, height, components } = image;
      const out = new Uint8Array(width * height * components.length);
      const decoded = new Map<string, { data: Buffer; channels: number }>();
      for (const [at, source] of components.entries()) {
        if (source.from === 'constant') {
          const code = Math.round(source.value * 255);
          for (let i = at; i < out.length; i += components.length) out[i] = code;
          continue;
        }
        let pixels = decoded.get(source.path);
        if (!pixels) {
          const { data, info } = await sharp(await read(source.path))
            .raw()
            .toBuffer({ resolveWithObject: true });
          pixels = { data, channels: info.channels };
          decoded.set(source.path, pixels);
        }
        const { data, channels } = pixels;
        const part = source.component === 'rgb' ? source.part : 'rgba'.indexOf(source.component);
        const from = channels < 3 ? 0 : part;
        const turned = source.invert !== source.flip;
        for (let i = at, k = from; i < out.length; i += components.length, k += channels)
          out[i] = turned ? 255 - data[k] : data[k];
      }
      await sharp(out, { raw: { width, height, channels: components.length as 1 | 2 | 3 | 4 } })
        .toColourspace(components.length < 3 ? 'b-w' : 'srgb')
        .png({ compressionLevel: 6 })
        .toBuffer();
    }
  };
  await Promise.all(Array.from({ length: AT_A_TIME }, work));
}

// Run as a process of its own: bakes the kit of a file in one of the two ways and prints the largest resident
// size in bytes.
const [, script, way, path] = process.argv;
if (script?.endsWith('bakeKit.ts') && way) {
  const kit = await openKit(deserialize(readFileSync(path)) as Record<string, Uint8Array>);
  if (way === 'ours') await bakeOurs(kit);
  if (way === 'bare') await bakeBare(kit);
  console.log(Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync('/proc/self/status', 'utf8'))?.[1]) * 1024);
}
