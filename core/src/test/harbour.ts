import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { deserialize, serialize } from 'node:v8';
import { atScale } from '../../../demo/src/scale.ts';
import type { DemoParcel } from '../../../demo/src/scene.ts';

/** Share of a round shape's steps that small parcels have. */
const SHAPES = 0.35;
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

/** The same with images of so many texels at most and round shapes of fewer steps, for tests of neither. */
export function smallParcel(make: () => Promise<DemoParcel>, texels: number): Promise<DemoParcel> {
  return atScale({ texels, shapes: SHAPES }, make);
}
