import { statfs } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { blobs } from '../blobs.ts';
import { pool } from '../db/client.ts';
import { dataFolder } from '../env.ts';
import { namedBlobs, requiredBlobs } from './used.ts';

/** What was looked at, and how it is. */
export interface Checked {
  part: 'database' | 'blobs' | 'jobs' | 'workers' | 'disk' | 'limits';
  ok: boolean;
  text: string;
}

const LOW_DISK = 2 * 1024 ** 3;
const SHOWN = 5;

/**
 * Looks at database, contents by checksum, jobs, workers, disk and limits; one line each, and one for each
 * thing that is wrong.
 */
export async function examine(): Promise<Checked[]> {
  const out: Checked[] = [];
  const client = await pool().connect();
  try {
    const { rows } = await client.query<{ version: string; parcels: number; assets: number }>(
      "select current_setting('server_version') as version, (select count(*)::int from parcels) as parcels, (select count(*)::int from assets) as assets",
    );
    const [{ version, parcels, assets }] = rows;
    out.push({
      part: 'database',
      ok: true,
      text: `PostgreSQL ${version}, ${parcels} parcels, ${assets} assets`,
    });
    out.push(...(await examineBlobs(await requiredBlobs(client), await namedBlobs(client))));
    const { rows: late } = await client.query<{ kind: string; count: number }>(
      "select kind, count(*)::int as count from jobs where state = 'running' and lease_until < now() - interval '1 minute' group by kind",
    );
    for (const { kind, count } of late)
      out.push({
        part: 'jobs',
        ok: false,
        text: `${count} of kind ${kind} are left from a worker that is gone; a worker takes them up again`,
      });
    if (late.length === 0) out.push({ part: 'jobs', ok: true, text: 'none is left hanging' });
    const { rows: alive } = await client.query<{ count: number }>(
      "select count(*)::int as count from workers where seen_at > now() - interval '15 seconds'",
    );
    const { count: workers } = alive[0];
    out.push({
      part: 'workers',
      ok: workers > 0,
      text:
        workers > 0
          ? `${workers} at work, ${availableParallelism()} processors`
          : 'none is at work; start one with the server',
    });
  } finally {
    client.release();
  }
  const { bavail, bsize } = await statfs(dataFolder());
  const free = bavail * bsize;
  out.push({ part: 'disk', ok: free > LOW_DISK, text: `${gigabytes(free)} GB free for ${dataFolder()}` });
  const limits = Object.entries(limitsFromEnvironment()).map(
    ([name, value]) => `${name} ${value.toLocaleString('en')}`,
  );
  out.push({ part: 'limits', ok: true, text: limits.join(', ') });
  return out;
}

/** What is used must be there, and be what its name says. */
async function examineBlobs(used: ReadonlySet<string>, named: ReadonlySet<string>): Promise<Checked[]> {
  const [changed, idle]: [string[], string[]] = [[], []];
  const there = new Set<string>();
  for await (const { hash } of blobs.list()) {
    if (hash === null) continue;
    there.add(hash);
    if (!named.has(hash)) idle.push(hash);
    if (used.has(hash) && !(await blobs.isWhole(hash))) changed.push(hash);
  }
  const missing = [...used].filter((hash) => !there.has(hash));
  const problem = (hashes: readonly string[], what: string): Checked[] =>
    hashes.length === 0
      ? []
      : [
          {
            part: 'blobs',
            ok: false,
            text: `${hashes.length} ${what}: ${listed(hashes)}; drop the same files again, and they are whole`,
          },
        ];
  return [
    {
      part: 'blobs',
      ok: missing.length + changed.length === 0,
      text: `${there.size - idle.length} contents in use, ${idle.length} that nothing refers to`,
    },
    ...problem(missing, 'are missing'),
    ...problem(changed, 'were changed in the store'),
  ];
}

function listed(hashes: readonly string[]): string {
  const rest = hashes.length - SHOWN;
  return (
    hashes
      .slice(0, SHOWN)
      .map((hash) => hash.slice(0, 12))
      .join(', ') + (rest > 0 ? ` and ${rest} more` : '')
  );
}

function gigabytes(bytes: number): string {
  return (bytes / 1024 ** 3).toFixed(1);
}
