import { checks } from './lib/checks.mjs';
import { ensureNpmPackages } from './lib/packages.mjs';
import { say } from './lib/run.mjs';

/**
 * `npm run check`: types, style, circles and directions of imports, and what nobody uses; all that needs no
 * test.
 */
await ensureNpmPackages();
const failed = await checks(process.argv.slice(2));
for (const { name, output } of failed) say(`\n${name} found something:\n${output}`);
say(
  failed.length === 0
    ? 'All is well.'
    : `${failed.length} of the checks found something: ${failed.map(({ name }) => name).join(', ')}`,
);
process.exit(failed.length === 0 ? 0 : 1);
