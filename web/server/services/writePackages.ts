import { lstat, mkdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { KinkajouError } from '@kinkajou/core/errors';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { packagesToGive } from './runPackages.ts';
import { allowedFolder } from './searchRoots.ts';
import { readOfPackage, unpackPackage } from './unpackPackage.ts';

/** Packages that were written to a folder of the server. */
export interface WrittenPackages {
  folder: string;
  /** Folders that were written, one a package. */
  written: string[];
  /** What was not made, with the reason. */
  lost: string[];
}

const LISTED = 5;

/**
 * Has the packages of a run written into a folder on the server's disk. Returns the job's id; throws where
 * the folder may not be used.
 */
export async function requestWriting(run: string, path: string): Promise<string> {
  const folder = await allowedFolder(path);
  await packagesToGive(run);
  return enqueue('write-packages', { run, folder });
}

/**
 * The job: each package appears whole, in a folder of its own. Nothing that exists is written over; begun
 * anew it goes on.
 */
export async function writePackages({
  id,
  data: { run, folder },
  attempt,
  signal,
  progress,
}: JobRun<'write-packages'>): Promise<WrittenPackages> {
  const { made, lost } = await packagesToGive(run);
  const written: string[] = [];
  const occupied: string[] = [];
  for (const one of made) {
    if (!(await exists(join(folder, one.folder)))) continue;
    if (attempt > 1 && (await liesThere(one.zip, join(folder, one.folder)))) written.push(one.folder);
    else occupied.push(one.folder);
  }
  if (occupied.length > 0) {
    const more = occupied.length > LISTED ? ` and ${occupied.length - LISTED} more` : '';
    const names = occupied.slice(0, LISTED).join(', ');
    throw new KinkajouError(
      'out.occupied',
      `${names}${more} lie there already`,
      { file: folder },
      'Name an empty folder; nothing that exists is written over.',
    );
  }
  const work = join(folder, `.kinkajou-${id}`);
  try {
    for (const [i, one] of made.entries()) {
      signal.throwIfAborted();
      progress(i / made.length, `writing ${one.folder}, ${i + 1} of ${made.length}`);
      if (written.includes(one.folder)) continue;
      await rm(work, { recursive: true, force: true });
      await mkdir(work);
      await unpackPackage(one.zip, work);
      await rename(work, join(folder, one.folder));
      written.push(one.folder);
    }
  } finally {
    await rm(work, { recursive: true, force: true });
  }
  return { folder, written, lost };
}

function exists(path: string): Promise<boolean> {
  return lstat(path).then(
    () => true,
    () => false,
  );
}

/**
 * Whether it is this very package that an earlier attempt wrote: receipts tell every file by its checksum.
 */
async function liesThere(zip: string, folder: string): Promise<boolean> {
  const found = await readFile(join(folder, RECEIPT)).catch(() => null);
  return found !== null && Buffer.compare(found, await readOfPackage(zip, RECEIPT)) === 0;
}

const RECEIPT = 'receipt.json';
