import { join } from 'node:path';
import { ROOT, run } from './run.mjs';

const bin = (name) => join(ROOT, 'node_modules/.bin', name);
/** Where a check keeps what it knows of files that did not change, beside what TypeScript keeps. */
const kept = (name) => join(ROOT, '.data/types', name);
/** What imports are followed in; tests of the page and the demo data stand apart. */
const CRUISED = ['core/src', 'cli/src', 'web/server', 'web/worker', 'web/app', 'web/features', 'web/ui'];

/**
 * Each check by its name: a command and what it is given. The workspaces' types are two programs: what runs
 * without a browser, and the page with its tests.
 */
const CHECKS = {
  'types of core': () => tsc('tsconfig.node.json'),
  'types of web': () => tsc('tsconfig.page.json'),
  style: () =>
    run(bin('biome'), ['check', '.', '--max-diagnostics=40', '--error-on-warnings'], { quiet: true }),
  imports: () =>
    run(
      bin('depcruise'),
      [
        '--config',
        '.dependency-cruiser.mjs',
        '--cache',
        kept('imports'),
        '--cache-strategy',
        'content',
        ...CRUISED,
      ],
      { quiet: true },
    ),
  unused: () =>
    run(bin('knip'), ['--no-progress', '--cache', '--cache-location', kept('unused')], { quiet: true }),
};

/** The compiler of version 7, three times as fast; that of version 5 is there for dependency-cruiser. */
function tsc(program) {
  return run(join(ROOT, 'node_modules/typescript-7/bin/tsc'), ['-p', program], { quiet: true });
}

/**
 * Runs those that are named, else all, two at a time. Returns the ones that found something, with what they
 * said.
 */
export async function checks(names = []) {
  const wanted = Object.entries(CHECKS).filter(([name]) => names.length === 0 || names.includes(name));
  const failed = [];
  const next = async () => {
    for (let one = wanted.shift(); one; one = wanted.shift()) {
      const [name, work] = one;
      await work().catch((error) => failed.push({ name, output: error.output ?? error.message }));
    }
  };
  await Promise.all([next(), next()]);
  return failed;
}
