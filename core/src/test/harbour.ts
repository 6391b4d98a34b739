import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { deserialize, serialize } from 'node:v8';
import sharp from 'sharp';
import type { DemoParcel } from '../../../demo/src/scene.ts';

const GENERATOR = fileURLToPath(new URL('../../../demo/src/', import.meta.url));

/** A parcel of the harbour; computed once for the generator as it stands, then kept among the temporary files. */
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

/** The same with its PNG images brought down to a size, for tests that are not about pixels in number. */
export async function smallParcel(make: () => Promise<DemoParcel>, size: number): Promise<DemoParcel> {
  const parcel = await harbourParcel(make);
  const files: DemoParcel['files'] = {};
  for (const [path, bytes] of Object.entries(parcel.files)) {
    const { width = 0 } = path.endsWith('.png') ? await sharp(bytes).metadata() : {};
    files[path] = width > size ? new Uint8Array(await sharp(bytes).resize(size, undefined, { kernel: 'nearest' }).png().toBuffer()) : bytes;
  }
  return { ...parcel, files };
}
