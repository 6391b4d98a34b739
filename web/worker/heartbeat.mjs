import { setTimeout as wait } from 'node:timers/promises';
import { workerData } from 'node:worker_threads';
import pg from 'pg';

/**
 * Keeps a worker's leases while its own thread computes: that may take minutes without a pause. When the
 * process ends, so does this thread, and the leases lapse. A thread that has not counted on for
 * `stuckSeconds` never will; the process is ended, so that another can take over.
 */
const { databaseUrl, worker, ticks, leaseSeconds, stuckSeconds } = workerData;
const EVERY_MS = (leaseSeconds * 1000) / 6;
const SEEN =
  'insert into workers (id, seen_at) values ($1, now()) on conflict (id) do update set seen_at = now()';
const LEASES = `update jobs set lease_until = now() + make_interval(secs => $2) where worker = $1 and state = 'running'`;

let client = null;
let last = Atomics.load(ticks, 0);
let alive = Date.now();
for (;;) {
  const now = Atomics.load(ticks, 0);
  if (now !== last) alive = Date.now();
  last = now;
  if (Date.now() - alive > stuckSeconds * 1000) process.kill(process.pid, 'SIGKILL');
  try {
    client ??= await connect();
    await client.query(SEEN, [worker]);
    await client.query(LEASES, [worker, leaseSeconds]);
  } catch {
    // The database is away; the next round tries again.
    await client?.end().catch(() => undefined);
    client = null;
  }
  await wait(EVERY_MS);
}

async function connect() {
  const fresh = new pg.Client({ connectionString: databaseUrl, connectionTimeoutMillis: 5000 });
  fresh.on('error', () => {
    client = null;
  });
  await fresh.connect();
  return fresh;
}
