import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { APART, buildInto, keepBuild, stampOf } from '../../core/src/built.mjs';
import { ROOT } from './run.mjs';

const WEB = join(ROOT, 'web');
const SOURCES = ['core/src', 'cli/src', 'web/server', 'web/worker'];

/** The build of a worker and of the commands about a server's data; null where none can be kept. */
export async function serverFolder() {
  const { dependencies } = JSON.parse(await readFile(join(WEB, 'package.json'), 'utf8'));
  const apart = [...APART, ...Object.keys(dependencies).filter((name) => !name.startsWith('@kinkajou/'))];
  const kept = join(WEB, 'node_modules/.cache/kinkajou');
  const entries = {
    main: 'web/worker/main.ts',
    heartbeat: 'web/worker/heartbeat.mjs',
    keep: 'web/server/keep/main.ts',
  };
  return keepBuild(kept, await stampOf(ROOT, SOURCES), (making) => buildInto(making, entries, apart));
}

/**
 * How Node.js starts a worker: from a build of its sources, which is made when they have changed, and takes a
 * third of the time; from the sources themselves where none can be kept.
 */
export async function workerArguments() {
  const folder = await serverFolder();
  return folder ? [join(folder, 'main.js')] : ['--import', 'tsx', join(WEB, 'worker/main.ts')];
}
