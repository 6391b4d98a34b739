import { execFileSync } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ROOT, say } from './lib/run.mjs';

/**
 * `npm run licences`: writes docs/licences.md from what is installed for use, and fails where a package names
 * no licence.
 */
const listed = JSON.parse(
  execFileSync('npm', ['ls', '--all', '--omit=dev', '--json', '--long'], {
    cwd: ROOT,
    encoding: 'utf8',
    maxBuffer: 1 << 28,
    stdio: ['ignore', 'pipe', 'ignore'],
  }),
);
const found = new Map();
await visit(listed.dependencies ?? {});
const rows = [...found.values()].sort((a, b) => Number(a.name > b.name) - Number(a.name < b.name));
const none = rows.filter(({ licence }) => licence === '');
const text = [
  '# Licences of what is used',
  '',
  'Packages that are installed to run Kinkajou, with the licence that each names; written by `npm run licences`.',
  '',
  '| Package | Version | Licence |',
  '|---|---|---|',
  ...rows.map(({ name, version, licence }) => `| ${name} | ${version} | ${licence || 'none named'} |`),
  '',
].join('\n');
await writeFile(join(ROOT, 'docs/licences.md'), text);
say(`${rows.length} packages, ${new Set(rows.map(({ licence }) => licence)).size} licences`);
for (const { name } of none) say(`${name} names no licence`);
process.exit(none.length === 0 ? 0 : 1);

async function visit(dependencies) {
  for (const [name, { version, path, dependencies: further = {} }] of Object.entries(dependencies)) {
    if (!name.startsWith('@kinkajou/') && path && !found.has(`${name}@${version}`))
      found.set(`${name}@${version}`, { name, version, licence: await licenceOf(path) });
    await visit(further);
  }
}

async function licenceOf(path) {
  const { license, licenses } = JSON.parse(
    await readFile(join(path, 'package.json'), 'utf8').catch(() => '{}'),
  );
  if (typeof license === 'string') return license;
  const named =
    license?.type ?? (Array.isArray(licenses) ? licenses.map(({ type }) => type).join(' or ') : '');
  if (named) return named;
  const text = await readFile(join(path, 'LICENSE'), 'utf8').catch(() => '');
  return text.startsWith('MIT License') ? 'MIT (by its file)' : '';
}
