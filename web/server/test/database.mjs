import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { migrate } from '../../../scripts/lib/application.mjs';
import { isRunning, removePostgres, startPostgres } from '../../../scripts/lib/postgres.mjs';

/**
 * One PostgreSQL for the run, brought to the newest schema, and a folder for blobs that is thrown away. A
 * second run at the same time has its own.
 */
export default async function setup() {
  const name = (await isRunning('unit')) ? `unit-${process.pid}` : 'unit';
  const database = await startPostgres(name, { throwaway: true });
  await migrate({ DATABASE_URL: database.url });
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-unit-'));
  Object.assign(process.env, {
    DATABASE_URL: database.url,
    KINKAJOU_DATA: folder,
    KINKAJOU_FOLDERS: tmpdir(),
    KINKAJOU_LOG: 'silent',
  });
  return async () => {
    await database.stop();
    if (name !== 'unit') await removePostgres(name);
    await rm(folder, { recursive: true, force: true });
  };
}
