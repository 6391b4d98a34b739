import { createHash } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isRoot, ROOT, run, say } from './run.mjs';

/** Without windows it opens a page in a seventh of the time; the whole of it does as well. */
const HEADLESS = '/usr/bin/chromium-headless-shell';
const CHROMIUM = [HEADLESS, '/usr/bin/chromium', '/usr/bin/chromium-browser'];

/** Folder of PostgreSQL's programs, or null. Debian keeps them out of the PATH, by version. */
export function postgresBin() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
  const found = versions
    .map((version) => join(base, version, 'bin'))
    .find((bin) => existsSync(join(bin, 'initdb')));
  if (found) return found;
  return (process.env.PATH ?? '').split(':').find((folder) => existsSync(join(folder, 'initdb'))) ?? null;
}

export function chromiumPath() {
  return CHROMIUM.find((path) => existsSync(path)) ?? null;
}

/** Installs Debian packages that are absent. As an ordinary user it can only say what is missing. */
export async function ensureDebianPackages({ postgres = true, chromium = true, testTools = false }) {
  const missing = [];
  if (postgres && !process.env.DATABASE_URL && !postgresBin()) missing.push('postgresql');
  if (chromium && !chromiumPath()) missing.push('chromium-headless-shell');
  if (testTools && !existsSync('/usr/bin/assimp')) missing.push('assimp-utils');
  if (testTools && !existsSync('/usr/share/assimp/models')) missing.push('assimp-testmodels');
  if (testTools && !existsSync('/usr/bin/oiiotool')) missing.push('openimageio-tools');
  if (testTools && !existsSync('/usr/share/doc/python3-pyopencolorio')) missing.push('python3-pyopencolorio');
  if (missing.length > 0 && !isRoot) {
    throw new Error(
      `These Debian packages are missing: ${missing.join(', ')}. Have them installed with "apt-get install ${missing.join(' ')}" and start again.`,
    );
  }
  if (missing.length > 0) await install(missing);
  // Tests open many pages: where only the whole browser is there, the smaller one is put beside it, and done
  // without if it cannot be had.
  const patience = ['-o', 'Acquire::Retries=0', '-o', 'Acquire::http::Timeout=20'];
  if (testTools && chromium && isRoot && !existsSync(HEADLESS))
    await install(['chromium-headless-shell'], patience).catch(() => {});
}

async function install(packages, options = []) {
  say(`Installing ${packages.join(', ')} ...`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await run('apt-get', [...options, 'update'], { quiet: true, env });
  await run('apt-get', [...options, 'install', '-y', '--no-install-recommends', ...packages], {
    quiet: true,
    env,
  });
}

/** Runs `npm ci` when node_modules is absent or made from another lock file. */
export async function ensureNpmPackages() {
  const lock = createHash('sha256')
    .update(await readFile(join(ROOT, 'package-lock.json')))
    .digest('hex');
  const stamp = join(ROOT, 'node_modules', '.kinkajou-lock');
  const known = await readFile(stamp, 'utf8').catch(() => '');
  if (known === lock) return;
  say('Installing npm packages ...');
  await run('npm', ['ci', '--no-audit', '--no-fund'], {
    quiet: true,
    env: { ...process.env, NODE_ENV: 'development' },
  });
  await mkdir(join(ROOT, 'node_modules'), { recursive: true });
  await writeFile(stamp, lock);
}
