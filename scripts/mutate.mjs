import { execFileSync } from 'node:child_process';
import { mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, relative } from 'node:path';
import { ROOT, run, say } from './lib/run.mjs';

/**
 * `npm run mutate -- handoff formats/usd` draws mutants of those folders of core at random and tells how many
 * the tests notice. `--since COMMIT` takes the lines changed since then instead; `--mutants 60` how many a
 * folder; `--seed N` draws the same ones again. What a folder's own tests let pass is tried once more with
 * all tests, unless `--own` is given; slow suites that prove whole walks are left out there unless `--all`
 * is.
 */
const NAMED = ['formats', 'handoff', 'compare', 'findings', 'edits', 'materials', 'maps', 'links', 'colour'];
/** Minutes each, and what they alone would notice is left to them. */
const SLOW = [
  'core/src/handoff/{kit,destinations,compareHandoff,alteredPackages}.test.ts',
  'bench/**',
  'cli/**',
  'core/src/images/**',
  'demo/**',
];
/** Lines around which mutants are drawn; the tool makes several a line. */
const LINES_PER_MUTANT = 0.6;

const { folders, mutants, since, seed, all, ownOnly } = readArguments(process.argv.slice(2));
const random = generator(seed);
say(`seed ${seed}`);
const work = join(ROOT, '.data', 'mutate');
await mkdir(work, { recursive: true });
const scores = [];
for (const [name, ranges] of since
  ? [[`since ${since}`, changedLines(since)]]
  : await Promise.all(folders.map(async (folder) => [folder, await drawLines(folder)]))) {
  if (ranges.length === 0) continue;
  const { killed, survived, total } = await mutateTwice(name, ranges);
  scores.push(`${name}: ${killed} of ${total} noticed (${percent(killed, total)}), ${survived.length} not`);
  say(scores[scores.length - 1]);
  for (const words of survived) say(`  ${words}`);
}
if (scores.length > 1) for (const line of scores) say(line);

function readArguments(list) {
  const out = {
    folders: [],
    mutants: 60,
    since: null,
    seed: Date.now() % 1_000_000,
    all: false,
    ownOnly: false,
  };
  for (let i = 0; i < list.length; i += 1) {
    if (list[i] === '--mutants') out.mutants = Number(list[++i]);
    else if (list[i] === '--since') out.since = list[++i];
    else if (list[i] === '--seed') out.seed = Number(list[++i]);
    else if (list[i] === '--all') out.all = true;
    else if (list[i] === '--own') out.ownOnly = true;
    else out.folders.push(list[i]);
  }
  if (!(out.mutants > 0) || !Number.isFinite(out.seed)) throw new Error('--mutants and --seed take numbers');
  if (out.folders.length === 0) out.folders = NAMED;
  return out;
}

/** The same numbers in 0..1 for the same seed. */
function generator(start) {
  let state = start >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

async function sourcesUnder(folder) {
  const base = join(ROOT, 'core', 'src', folder);
  const files = await readdir(base, { recursive: true });
  return files
    .filter((file) => /\.ts$/.test(file) && !/\.(test|d)\.ts$/.test(file))
    .map((file) => join(base, file));
}

/** Random lines that hold code, as `file:line-line`. */
async function drawLines(folder) {
  const lines = [];
  for (const file of await sourcesUnder(folder)) {
    const text = await readFile(file, 'utf8');
    text.split('\n').forEach((line, i) => {
      if (/[=<>+*/?!&|(]|return|true|false/.test(line) && !/^\s*(import|export type|\/\/|\*|\/\*)/.test(line))
        lines.push(`${relative(ROOT, file)}:${i + 1}-${i + 1}`);
    });
  }
  const drawn = new Set();
  while (drawn.size < Math.min(lines.length, Math.ceil(mutants * LINES_PER_MUTANT)))
    drawn.add(lines[Math.floor(random() * lines.length)]);
  return [...drawn];
}

function changedLines(commit) {
  const diff = execFileSync('git', ['diff', '-U0', commit, '--', 'core/src'], {
    cwd: ROOT,
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  const ranges = [];
  let file = '';
  for (const line of diff.split('\n')) {
    if (line.startsWith('+++ b/')) file = line.slice(6);
    const [, start, count = '1'] = /^@@ .* \+(\d+)(?:,(\d+))? @@/.exec(line) ?? [];
    if (start && Number(count) > 0 && /\.ts$/.test(file) && !/\.(test|d)\.ts$/.test(file))
      ranges.push(`${file}:${start}-${Number(start) + Number(count) - 1}`);
  }
  while (ranges.length > Math.ceil(mutants * LINES_PER_MUTANT))
    ranges.splice(Math.floor(random() * ranges.length), 1);
  return ranges;
}

/** A folder's own tests first; they take seconds and notice most. */
async function mutateTwice(name, ranges) {
  const folder = `core/src/${name.split('/')[0]}/**`;
  const slow = all ? [] : SLOW;
  // A folder's own tests are its own, however slow.
  const others = slow.filter((tests) => tests !== folder);
  const own = since ? null : await mutate(name, ranges, [`${folder}/*.test.ts`], others);
  const described = (result) => ({ ...result, survived: result.survived.map(({ words }) => words) });
  if (own && (ownOnly || own.survived.length === 0)) return described(own);
  const survivors = own ? own.survived.map(({ range }) => range) : ranges;
  const every = ['{core,cli,demo}/src/**/*.test.ts', 'bench/**/*.test.ts'];
  const rest = await mutate(`${name}, all tests`, survivors, every, slow);
  const unnoticed = new Set(rest.survived.map(({ words }) => words));
  const survived = (own ?? rest).survived.map(({ words }) => words).filter((words) => unnoticed.has(words));
  const total = own?.total ?? rest.total;
  return { total, killed: total - survived.length, survived };
}

/** Mutates with these tests, without those that are `left` out. */
async function mutate(name, ranges, tests, left) {
  const vitest = join(work, 'vitest.config.mjs');
  await writeFile(
    vitest,
    `export default { test: { include: ${JSON.stringify(tests)}, exclude: ${JSON.stringify(left)}, testTimeout: 120000, hookTimeout: 120000, maxWorkers: 1 } };\n`,
  );
  const report = join(work, 'report.json');
  await rm(report, { force: true });
  const config = join(work, 'stryker.config.json');
  await writeFile(
    config,
    JSON.stringify({
      testRunner: 'vitest',
      plugins: ['@stryker-mutator/vitest-runner'],
      vitest: { configFile: vitest, related: true },
      mutate: ranges,
      coverageAnalysis: 'perTest',
      ignoreStatic: true,
      concurrency: 2,
      timeoutMS: 60_000,
      dryRunTimeoutMinutes: 20,
      disableTypeChecks: false,
      reporters: ['json'],
      jsonReporter: { fileName: report },
      tempDirName: join(work, 'copy'),
      cleanTempDir: 'always',
      ignorePatterns: ['.data', 'web/.next', 'docs', 'e2e', 'test-results'],
      allowEmpty: true,
    }),
  );
  say(`${name}: ${ranges.length} places ...`);
  await run(join(ROOT, 'node_modules/.bin/stryker'), ['run', config], { cwd: ROOT, quiet: true }).catch(
    (error) => say(error.message),
  );
  const { files } = JSON.parse(await readFile(report, 'utf8'));
  const made = Object.entries(files).flatMap(([path, { mutants: list }]) =>
    list.map((mutant) => ({ path, ...mutant })),
  );
  const counted = made.filter(({ status }) =>
    ['Killed', 'Timeout', 'Survived', 'NoCoverage'].includes(status),
  );
  const survived = counted.filter(({ status }) => status === 'Survived' || status === 'NoCoverage');
  return {
    total: counted.length,
    killed: counted.length - survived.length,
    survived: survived.map(({ path, location: { start, end }, replacement }) => ({
      // Ranges count columns from 0, places in reports from 1.
      range: `${path}:${start.line}:${start.column - 1}-${end.line}:${end.column - 1}`,
      words: `${path}:${start.line}:${start.column} ${replacement.replaceAll(/\s+/g, ' ').slice(0, 80)}`,
    })),
  };
}

function percent(part, whole) {
  return whole === 0 ? 'none' : `${((100 * part) / whole).toFixed(0)} %`;
}
