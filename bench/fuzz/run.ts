import { type ChildProcess, fork } from 'node:child_process';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Outcome } from './child.ts';
import { damage, generator } from './damage.ts';
import { makeSeeds } from './seeds.ts';

/**
 * `npm run fuzz -- MINUTES [FIRST]`: breaks files of every format in random ways and lets guarded processes
 * open them. Tells what was read, refused in our words, refused without a reason of its own, and what went
 * wrong: raw words, silence of half a minute, a process that died. Files of the last kinds are kept under
 * `.data/fuzz`.
 */
const SILENCE_MS = 30_000;
const AT_A_TIME = 2;

const minutes = Number(process.argv[2] ?? 10);
const start = Number(process.argv[3] ?? Date.now() % 1_000_000_000);
if (!(minutes > 0) || !Number.isInteger(start))
  throw new Error('npm run fuzz -- MINUTES [FIRST]: both are numbers');
const folder = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'fuzz');
await mkdir(folder, { recursive: true });
const seeds = await makeSeeds();
const counts = new Map<string, number>();
const kept = new Map<string, { example: string; count: number }>();
const until = Date.now() + minutes * 60_000;
process.stdout.write(`from ${start}, for ${minutes} minutes\n`);
await Promise.all(Array.from({ length: AT_A_TIME }, (_, lane) => runLane(start + lane)));
report();

/** One process after the other, each going on behind the file that ended the last one. */
async function runLane(first: number): Promise<void> {
  let next = first;
  while (Date.now() < until) next = (await runChild(next)) + AT_A_TIME;
}

function runChild(first: number): Promise<number> {
  return new Promise((resolve) => {
    const child = fork(new URL('./child.ts', import.meta.url), [String(first), String(AT_A_TIME)], {
      execArgv: ['--import', 'tsx', '--max-old-space-size=3000'],
      stdio: 'ignore',
    });
    let [current, silent] = [first, false];
    let ready = false;
    let silence = timer(child);
    const end = setTimeout(() => child.kill('SIGKILL'), Math.max(0, until - Date.now()));
    child.on('message', (message: { ready?: string[]; begun?: number } | Outcome) => {
      clearTimeout(silence);
      silence = setTimeout(() => {
        silent = true;
        child.kill('SIGKILL');
      }, SILENCE_MS);
      if ('what' in message) void note(message);
      else if (message.ready) ready = true;
      else current = message.begun ?? current;
    });
    child.on('exit', () => {
      clearTimeout(silence);
      clearTimeout(end);
      if (ready && Date.now() < until) void keep(silent ? 'silent' : 'died', current, '');
      resolve(current);
    });
  });
}

/** Reading the seeds may take a while. */
function timer(child: ChildProcess): NodeJS.Timeout {
  return setTimeout(() => child.kill('SIGKILL'), SILENCE_MS * 4);
}

async function note({ n, what, code, detail, path }: Outcome): Promise<void> {
  counts.set(what, (counts.get(what) ?? 0) + 1);
  if (what === 'read' || what === 'refused') return;
  await keep(what, n, `${path}: ${code}: ${detail}`);
}

async function keep(what: string, n: number, detail: string): Promise<void> {
  const seed = seeds[n % seeds.length];
  if (what === 'silent' || what === 'died') counts.set(what, (counts.get(what) ?? 0) + 1);
  const key = `${what} ${seed.path} ${detail.replace(/\d+/g, '#').slice(0, 160)}`;
  const before = kept.get(key);
  if (before) {
    before.count += 1;
    return;
  }
  const example = join(folder, `${what}-${n}-${seed.path.replaceAll('/', '_')}`);
  kept.set(key, { example: `${example}\n    ${detail}`, count: 1 });
  await writeFile(example, damage(seed.bytes, generator(n)));
}

function report(): void {
  const total = [...counts.values()].reduce((sum, count) => sum + count, 0);
  process.stdout.write(
    `${total.toLocaleString('en')} broken files: ${[...counts].map(([what, count]) => `${count.toLocaleString('en')} ${what}`).join(', ')}\n`,
  );
  for (const [key, { example, count }] of [...kept].sort((a, b) => b[1].count - a[1].count))
    process.stdout.write(`${count} x ${key.split(' ')[0]}: ${example}\n`);
}
