import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, open, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ROOT, run, say } from './run.mjs';
import { workerArguments } from './serverBuild.mjs';

const WEB = join(ROOT, 'web');
const SOURCES = ['web', 'core/src', 'package-lock.json'];
const NOT_SOURCE = /(^|\/)(node_modules|\.next|\.data|tsconfig\.tsbuildinfo|next-env\.d\.ts)$|\.test\.tsx?$/;

/** Makes the production build unless one of the same sources is there. */
export async function ensureBuild() {
  const stamp = join(WEB, '.next', 'kinkajou-sources');
  const sources = await hashSources();
  if (
    existsSync(join(WEB, '.next', 'BUILD_ID')) &&
    (await readFile(stamp, 'utf8').catch(() => '')) === sources
  )
    return;
  say('Building the application ...');
  await run(process.execPath, [join(ROOT, 'node_modules/next/dist/bin/next'), 'build'], {
    cwd: WEB,
    quiet: true,
    env: { ...process.env, NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1' },
  });
  await writeFile(stamp, sources);
}

async function hashSources() {
  const hash = createHash('sha256');
  const visit = async (path) => {
    if (NOT_SOURCE.test(path)) return;
    const info = await stat(join(ROOT, path));
    if (info.isFile()) hash.update(path).update(await readFile(join(ROOT, path)));
    else for (const name of (await readdir(join(ROOT, path))).sort()) await visit(`${path}/${name}`);
  };
  for (const source of SOURCES) await visit(source);
  return hash.digest('hex');
}

export function migrate(env) {
  return run(process.execPath, ['--import', 'tsx', join(WEB, 'server/db/migrate.ts')], {
    quiet: true,
    env: { ...process.env, ...env },
  });
}

/** One that ends so often before the application was ever well is given up; afterwards none is. */
const RESTARTS = 5;
const RESTARTS_WITHIN_MS = 60_000;
/** The first is started again soon, those that go on ending after ever longer. */
const RESTART_AFTER_MS = 500;
const LONGEST_PAUSE_MS = 10_000;

/**
 * Longer than those who ask again and again pause, so that none asks over a connection that is just being
 * closed.
 */
const KEEP_ALIVE_MS = 65_000;

/** How long to wait before a process that ended so often of late is started again. */
export function pauseBefore(recentEnds) {
  return Math.min(LONGEST_PAUSE_MS, RESTART_AFTER_MS * 2 ** Math.max(0, recentEnds - 2));
}

/**
 * Starts the server and its workers, one unless told. Their output goes to log files in the data folder.
 * `onEnd` is told of each that ended by itself, and whether it is started again.
 */
export async function startApplication({
  databaseUrl,
  dataFolder,
  port,
  host = '127.0.0.1',
  workers = 1,
  onEnd = () => undefined,
}) {
  await mkdir(dataFolder, { recursive: true });
  const env = {
    ...process.env,
    NODE_ENV: 'production',
    NEXT_TELEMETRY_DISABLED: '1',
    DATABASE_URL: databaseUrl,
    KINKAJOU_DATA: dataFolder,
  };
  const common = { env, dataFolder, onEnd };
  const children = [await supervise({ label: 'server', args: serverArgs(port, host), cwd: WEB, ...common })];
  for (let i = 1; i <= workers; i += 1)
    children.push(
      await supervise({
        label: i === 1 ? 'worker' : `worker-${i}`,
        args: await workerArguments(),
        cwd: ROOT,
        ...common,
      }),
    );
  const address = `http://${host}:${port}`;
  const stop = () => Promise.all(children.map((child) => child.stop()));
  try {
    await waitForHealth(address, children, workers > 0);
    for (const child of children) child.wasWell = true;
  } catch (error) {
    await stop();
    throw error;
  }
  return { address, stop, children };
}

function serverArgs(port, host) {
  return [
    join(ROOT, 'node_modules/next/dist/bin/next'),
    'start',
    '-p',
    String(port),
    '-H',
    host,
    '--keepAliveTimeout',
    String(KEEP_ALIVE_MS),
  ];
}

/**
 * A process that is started again when it ends by itself. `ended` tells its exit code where it never came up.
 */
export async function supervise({ label, args, cwd, env, dataFolder, onEnd }) {
  const logFile = join(dataFolder, `${label}.log`);
  const ends = [];
  const state = { label, logFile, child: null, ended: null, stopping: false, wasWell: false, stop };
  async function begin() {
    const log = await open(logFile, 'a');
    state.child = spawn(process.execPath, args, { cwd, env, stdio: ['ignore', log.fd, log.fd] });
    await log.close();
    state.child.once('exit', (code, signal) => {
      if (state.stopping) return;
      ends.push(Date.now());
      const recent = ends.filter((time) => time > Date.now() - RESTARTS_WITHIN_MS).length;
      const again = state.wasWell || recent < RESTARTS;
      onEnd({ label, logFile, reason: signal ?? code, again });
      if (again) setTimeout(() => state.stopping || void begin(), pauseBefore(recent));
      else state.ended = signal ?? code;
    });
  }
  async function stop() {
    state.stopping = true;
    await stopChild(state.child);
  }
  await begin();
  return state;
}

function stopChild(child) {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    const hard = setTimeout(() => child.kill('SIGKILL'), 8000);
    child.once('exit', () => {
      clearTimeout(hard);
      resolve();
    });
    child.kill('SIGTERM');
  });
}

/** Without workers of its own the server waits for none: they may come later, on other machines. */
async function waitForHealth(address, children, withWorker) {
  const until = Date.now() + 90_000;
  let last = 'no answer';
  while (Date.now() < until) {
    const dead = children.find((child) => child.ended !== null);
    if (dead)
      throw new Error(
        `the ${dead.label} ended; see ${dead.logFile}\n${(await readFile(dead.logFile, 'utf8')).slice(-2000)}`,
      );
    try {
      const health = await (await fetch(`${address}/api/health`)).json();
      if (health.ok || (!withWorker && health.database === 'ok' && health.blobs === 'ok')) return;
      last = JSON.stringify(health);
    } catch (error) {
      last = String(error);
    }
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
  throw new Error(`the application did not become healthy: ${last}`);
}
