import { mkdir, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromiumPath, ensureDebianPackages, ensureNpmPackages } from './lib/packages.mjs';
import { freePort, ROOT, run, say } from './lib/run.mjs';

/**
 * `npm test`: the same set-up as the demo, then unit tests and browser tests against the real production
 * build. `npm test -- lint browser` runs only the parts named: types, lint (style, imports, unused code),
 * unit, browser. Any other word picks test files by name: `npm test -- browser surface`.
 */
const PARTS = ['types', 'lint', 'unit', 'browser'];
const only = process.argv.slice(2).filter((word) => PARTS.includes(word));
const picked = process.argv.slice(2).filter((word) => !PARTS.includes(word));
await ensureDebianPackages({ testTools: true });
await ensureNpmPackages();
const { startPostgres } = await import('./lib/postgres.mjs');
const { ensureBuild, migrate, startApplication } = await import('./lib/application.mjs');
const { checks } = await import('./lib/checks.mjs');

const dataFolder = join(ROOT, '.data', 'test');
// Search folders and watched folders of the browser tests lie among the temporary files.
process.env.KINKAJOU_FOLDERS = tmpdir();
const tally = { passed: 0, failed: 0 };
const stops = [];
await rm(dataFolder, { recursive: true, force: true });
await mkdir(dataFolder, { recursive: true });
try {
  for (const name of ['types', 'lint']) await step(name, () => check(name), true);
  // Those in the browser wait more than they work, so the others are done meanwhile, whenever a processor is
  // free.
  await Promise.all([step('unit tests', unitTests), step('browser tests', browserTests)]);
} finally {
  for (const stop of stops.reverse()) await stop();
}
say(`${tally.passed} passed, ${tally.failed} failed`);
process.exit(tally.failed > 0 ? 1 : 0);

/** The checks that need no test, in two parts as they always were. */
async function check(part) {
  const failed = await checks(
    part === 'types' ? ['types of core', 'types of web'] : ['style', 'imports', 'unused'],
  );
  if (failed.length > 0) throw new Error(failed.map(({ name, output }) => `${name}:\n${output}`).join('\n'));
}

function runs(part) {
  return only.length === 0 || only.includes(part);
}

/** Runs one part; a part that breaks before it can count its own tests counts as one failure. */
async function step(name, work, counts = false) {
  if (!runs(name.split(' ')[0])) return;
  say(`${name} ...`);
  try {
    await work();
    if (counts) tally.passed += 1;
  } catch (error) {
    say(error.message);
    tally.failed += 1;
  }
}

/** The server's tests wait for their database most of the time, so that those of the core run beside them. */
async function unitTests() {
  await Promise.all(
    (picked.length > 0 ? [['core', 'web', 'apart']] : [['core'], ['web', 'apart']]).map(unitTestsOf),
  );
}

async function unitTestsOf(projects) {
  const file = join(dataFolder, `unit-${projects.join('-')}.json`);
  const args = [
    'run',
    ...picked,
    ...projects.map((name) => `--project=${name}`),
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${file}`,
  ];
  const vitest = join(ROOT, 'node_modules/.bin/vitest');
  await (runs('browser') ? run('nice', ['-n', '10', vitest, ...args]) : run(vitest, args)).catch(() => {});
  const { numPassedTests, numFailedTests, testResults } = JSON.parse(await readFile(file, 'utf8'));
  const broken = testResults.filter(
    (result) => result.status === 'failed' && result.assertionResults.length === 0,
  ).length;
  tally.passed += numPassedTests;
  tally.failed += numFailedTests + broken;
}

/** Two at the same time, each with an application and a shelf of its own. */
async function browserTests() {
  const specs = await specFiles();
  if (specs.length === 0) return;
  await ensureBuild();
  const addresses = await Promise.all(['test-1', 'test-2'].slice(0, specs.length).map(applicationFor));
  const file = join(dataFolder, 'browser.json');
  const env = {
    ...process.env,
    KINKAJOU_ADDRESSES: addresses.join(' '),
    KINKAJOU_CHROMIUM: chromiumPath(),
    PLAYWRIGHT_JSON_OUTPUT_NAME: file,
  };
  const args = ['test', ...specs, `--output=${join(dataFolder, 'results')}`, '--reporter=list,json'];
  // Beside other tests what it says is held back until it is whole.
  const options = { cwd: join(ROOT, 'e2e'), env, quiet: runs('unit') };
  const output = await run(join(ROOT, 'node_modules/.bin/playwright'), args, options).catch(
    (error) => error.output,
  );
  if (output) say(output);
  const { stats, errors } = JSON.parse(await readFile(file, 'utf8'));
  tally.passed += stats.expected + stats.flaky;
  // A file that could not be read at all is one that failed.
  tally.failed += stats.unexpected + errors.length;
}

async function specFiles() {
  const names = await readdir(join(ROOT, 'e2e'));
  return names.filter(
    (name) =>
      name.endsWith('.spec.ts') && (picked.length === 0 || picked.some((word) => name.includes(word))),
  );
}

async function applicationFor(name) {
  const database = await startPostgres(name, { throwaway: true });
  stops.push(database.stop);
  await migrate({ DATABASE_URL: database.url });
  const application = await startApplication({
    databaseUrl: database.url,
    dataFolder: join(dataFolder, name),
    port: await freePort(),
  });
  stops.push(application.stop);
  // The first request waits until the server has read its own code.
  await fetch(application.address).then((answer) => answer.text());
  return application.address;
}
