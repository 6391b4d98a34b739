import { writeSync } from 'node:fs';
import { workerData } from 'node:worker_threads';

/**
 * Ends the process when its own thread has not counted on for so long over one file. Only the system can stop
 * a thread that never comes back, so this is for programs that do one thing.
 */
const { counts, name, seconds } = workerData;
const [TICK, WORKING] = [0, 1];
const LOOK_MS = 200;
let last = -1;
let since = Date.now();
for (;;) {
  Atomics.wait(counts, WORKING, 0);
  Atomics.wait(counts, TICK, Atomics.load(counts, TICK), LOOK_MS);
  const now = Atomics.load(counts, TICK);
  if (now !== last || Atomics.load(counts, WORKING) === 0) {
    last = now;
    since = Date.now();
  }
  if (Date.now() - since < seconds * 1000) continue;
  const length = name[0];
  const path = new TextDecoder().decode(name.slice(1, 1 + length));
  writeSync(
    2,
    `${path}: it was not read after ${Math.round(seconds)} seconds, so it was given up. It may be damaged; export it again.\n`,
  );
  process.kill(process.pid, 'SIGTERM');
}
