import { mkdir, mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { encodePng } from '../../../core/src/images/encode.ts';

const CRATE =
  'mtllib crate.mtl\no Lid\nusemtl Plank\nv 0 0 0\nv 2 0 0\nv 2 3 0\nv 0 3 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n';

/**
 * A new folder with a crate of one square: `crate` names an image that lies in `elsewhere`, `tinted` has it
 * beside it and halves it by a grey.
 */
export async function crateFolder(): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-cli-'));
  const png = await encodePng({ width: 4, height: 4, components: 3, data: new Uint8Array(48).fill(120) });
  for (const name of ['elsewhere', 'crate', 'tinted']) await mkdir(join(folder, name));
  for (const name of ['elsewhere', 'tinted']) await writeFile(join(folder, name, 'plank.png'), png);
  for (const name of ['crate', 'tinted']) await writeFile(join(folder, name, 'crate.obj'), CRATE);
  const library = (grey: number, path: string) =>
    `newmtl Plank\nKd ${grey} ${grey} ${grey}\nmap_Kd ${path}\n`;
  await writeFile(join(folder, 'crate/crate.mtl'), library(1, '/home/mara/plank.png'));
  await writeFile(join(folder, 'tinted/crate.mtl'), library(0.5, 'plank.png'));
  return folder;
}
