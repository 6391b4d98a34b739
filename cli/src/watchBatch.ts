import { createHash } from 'node:crypto';
import { readdir, stat } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { KinkajouError } from '@kinkajou/core/errors';
import { type BatchOptions, runBatch } from './batch.ts';
import { EXIT, type Output } from './output.ts';

/** Between two looks; what is the same at two of them has come to rest. */
const EVERY_MS = 2000;

interface Watching {
  signal: AbortSignal;
  everyMs?: number;
}

/**
 * Hands over what lies below a folder, and whatever comes or changes there from then on, once it has come to
 * rest. Ends when the signal says so, with the exit code of the last run.
 */
export async function watchBatch(
  dir: string,
  options: BatchOptions,
  output: Output,
  { signal, everyMs = EVERY_MS }: Watching,
): Promise<number> {
  if (options.json)
    throw new KinkajouError(
      'call.watch',
      'a run that goes on has no one JSON document',
      {},
      'Leave --json out; batch.json is written anew each time.',
    );
  let exit: number = EXIT.done;
  let [seen, done]: (string | null)[] = [null, null];
  while (!signal.aborted) {
    const stamp = await stampOf(dir, resolve(options.out));
    if (stamp === seen && stamp !== done) {
      exit = await runOnce(dir, { ...options, resume: options.resume || done !== null }, output);
      done = stamp;
      output.message(`Watching ${dir}; Ctrl-C ends it.`);
    }
    seen = stamp;
    await pause(everyMs, null, { signal }).catch(() => undefined);
  }
  return exit;
}

/** A folder without models may get some. */
async function runOnce(dir: string, options: BatchOptions, output: Output): Promise<number> {
  try {
    return await runBatch(dir, options, output);
  } catch (error) {
    if (!(error instanceof KinkajouError) || error.code !== 'parcel.noModel') throw error;
    output.message(error.toText());
    return EXIT.errorsRemain;
  }
}

/** Names, sizes and times of all files below a folder, but for those that are written. */
async function stampOf(dir: string, out: string): Promise<string> {
  const hash = createHash('sha256');
  const entries = await readdir(dir, { recursive: true, withFileTypes: true });
  const paths = entries.filter((entry) => entry.isFile()).map((entry) => join(entry.parentPath, entry.name));
  for (const path of paths.sort()) {
    if (resolve(path).startsWith(out + sep)) continue;
    const found = await stat(path).catch(() => null);
    if (found) hash.update(`${path} ${found.size} ${found.mtimeMs}\n`);
  }
  return hash.digest('hex');
}
