import { cp, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { APART, buildInto } from '../core/src/built.mjs';
import { ROOT, run, say } from './lib/run.mjs';

/**
 * `npm run build:cli`: the command line as a package of its own, which `npm i -g FILE` installs and which
 * runs without this repository. Commands load what they need when they are called, so the code lies in pieces
 * side by side. What brings binaries or files of its own stays a dependency.
 */
const out = resolve(process.argv[2] ?? join(ROOT, 'cli/dist'));
const cli = JSON.parse(await readFile(join(ROOT, 'cli/package.json'), 'utf8'));
const core = JSON.parse(await readFile(join(ROOT, 'core/package.json'), 'utf8'));
await rm(out, { recursive: true, force: true });
await mkdir(out, { recursive: true });
await buildInto(join(out, 'lib'), { kinkajou: 'cli/src/packaged.ts' });

const engines = JSON.parse(await readFile(join(ROOT, 'package.json'), 'utf8')).engines;
// Of three it is the transcoder of textures, a file of its own, that is looked for.
const dependencies = Object.fromEntries(
  [...APART, 'three'].map((name) => [name, core.dependencies[name] ?? cli.dependencies[name]]),
);
const manifest = {
  name: 'kinkajou',
  version: cli.version,
  description: 'Moves textured models between applications without losing their look.',
  license: cli.license,
  type: 'module',
  engines,
  bin: { kinkajou: 'lib/kinkajou.js' },
  files: ['lib', 'README.md', 'LICENSE'],
  dependencies,
};
await writeFile(join(out, 'package.json'), `${JSON.stringify(manifest, null, 2)}\n`);
await cp(join(ROOT, 'LICENSE'), join(out, 'LICENSE'));
await cp(join(ROOT, 'cli/README.md'), join(out, 'README.md'));
const packed = JSON.parse(
  await run('npm', ['pack', '--json', '--pack-destination', out], {
    cwd: out,
    stdio: ['ignore', 'pipe', 'ignore'],
  }),
);
say(join(out, packed[0].filename));
