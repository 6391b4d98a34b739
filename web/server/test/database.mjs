import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { migrate } from '../../../scripts/lib/application.mjs';
import { startPostgres } from '../../../scripts/lib/postgres.mjs';

/** One PostgreSQL for the run, brought to the newest schema, and a folder for blobs that is thrown away. */
export default async function setup() {
  const database = await startPostgres('unit', { throwaway: true });
  await migrate({ DATABASE_URL: database.url });
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-unit-'));
  Object.assign(process.env, { DATABASE_URL: database.url, KINKAJOU_DATA: folder, KINKAJOU_FOLDERS: tmpdir(), KINKAJOU_LOG: 'silent' });
  return async () => {
    await database.stop();
    await rm(folder, { recursive: true, force: true });
  };
}
