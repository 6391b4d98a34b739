import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { deserialize, serialize } from 'node:v8';
import sharp from 'sharp';
import type { DemoParcel } from '../../../demo/src/scene.ts';
import { decodeImage } from '../images/decode.ts';
import { encodeImage } from '../images/encode.ts';

const GENERATOR = fileURLToPath(new URL('../../../demo/src/', import.meta.url));

/**
 * A parcel of the harbour; computed once for the generator as it stands, then kept among the temporary files.
 */
export async function harbourParcel(make: () => Promise<DemoParcel>): Promise<DemoParcel> {
  const hash = createHash('sha256');
  for (const file of readdirSync(GENERATOR)
    .sort()
    .filter((name) => name.endsWith('.ts')))
    hash.update(file).update(readFileSync(join(GENERATOR, file)));
  const folder = join(tmpdir(), `kinkajou-harbour-${hash.digest('hex').slice(0, 12)}`);
  const path = join(folder, make.name);
  try {
    return deserialize(readFileSync(path)) as DemoParcel;
  } catch {
    const parcel = await make();
    mkdirSync(folder, { recursive: true });
    const temporary = `${path}.${process.pid}`;
    writeFileSync(temporary, serialize(parcel));
    renameSync(temporary, path);
    return parcel;
  }
}

/**
 * The same with its PNG and EXR images brought down to a size, for tests that are not about pixels in number.
 */
export async function smallParcel(make: () => Promise<DemoParcel>, size: number): Promise<DemoParcel> {
  const parcel = await harbourParcel(make);
  const files: DemoParcel['files'] = {};
  for (const [path, bytes] of Object.entries(parcel.files)) {
    const { width = 0 } = path.endsWith('.png') ? await sharp(bytes).metadata() : {};
    if (path.endsWith('.exr')) files[path] = await smallExr(bytes, size);
    else
      files[path] =
        width > size
          ? new Uint8Array(await sharp(bytes).resize(size, undefined, { kernel: 'nearest' }).png().toBuffer())
          : bytes;
  }
  return { ...parcel, files };
}

/** Every so manieth pixel, as halves. */
async function smallExr(bytes: Uint8Array, size: number): Promise<Uint8Array> {
  const image = await decodeImage(bytes, 'harbour.exr');
  const step = Math.max(1, Math.floor(image.width / size));
  if (step === 1) return bytes;
  const [width, height] = [Math.floor(image.width / step), Math.floor(image.height / step)];
  const data = new Float32Array(width * height * image.components);
  for (let i = 0; i < data.length; i += 1) {
    const [pixel, component] = [Math.floor(i / image.components), i % image.components];
    const from = Math.floor(pixel / width) * step * image.width + (pixel % width) * step;
    data[i] = image.data[from * image.components + component];
  }
  return encodeImage({ width, height, components: image.components, data }, 'exr', { depth: 16 });
}
