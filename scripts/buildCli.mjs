import { cp, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { build } from 'esbuild';
import { ROOT, run, say } from './lib/run.mjs';

/**
 * `npm run build:cli`: the command line as a package of its own, which `npm i -g FILE` installs and which
 * runs without this repository. Commands load what they need when they are called, so the code lies in pieces
 * side by side. What brings binaries or files of its own stays a dependency.
 */
const out = resolve(process.argv[2] ?? join(ROOT, 'cli/dist'));
const APART = ['sharp', 'draco3dgltf', 'gltf-validator', 'piscina', 'three'];
const ENTRIES = {
  kinkajou: 'cli/src/packaged.ts',
  batchThread: 'cli/src/batchThread.mjs',
  thread: 'core/src/guard/thread.mjs',
  watchdog: 'core/src/guard/watchdog.mjs',
  bakeThread: 'core/src/handoff/bake/bakeThread.mjs',
};

const cli = JSON.parse(await readFile(join(ROOT, 'cli/package.json'), 'utf8'));
const core = JSON.parse(await readFile(join(ROOT, 'core/package.json'), 'utf8'));
await rm(out, { recursive: true, force: true });
await mkdir(out, { recursive: true });
await build({
  absWorkingDir: ROOT,
  entryPoints: ENTRIES,
  outdir: join(out, 'lib'),
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  mainFields: ['module', 'main'],
  target: 'node20',
  minifySyntax: true,
  legalComments: 'linked',
  logLevel: 'warning',
  external: APART.filter((name) => name !== 'three').flatMap((name) => [name, `${name}/*`]),
  // What was written for the other way of loading modules asks for them by name.
  banner: {
    js: "import { createRequire as requireOf } from 'node:module';\nconst require = requireOf(import.meta.url);",
  },
  plugins: [
    {
      name: 'threads',
      setup: (setup) => setup.onLoad({ filter: /[\\/](core|cli)[\\/]src[\\/].*\.(ts|mjs)$/ }, sideBySide),
    },
  ],
});

const engines = JSON.parse(await readFile(join(ROOT, 'package.json'), 'utf8')).engines;
const dependencies = Object.fromEntries(
  APART.map((name) => [name, core.dependencies[name] ?? cli.dependencies[name]]),
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

/**
 * All pieces lie in one folder, so a thread's file is beside whoever starts it; and threads need no loader
 * for TypeScript there.
 */
async function sideBySide({ path }) {
  const text = await readFile(path, 'utf8');
  const contents = text
    .replace("import { register } from 'tsx/esm/api';", '')
    .replace(/^register\(\);$/m, '')
    .replaceAll(/import\(new URL\('(\.\/[\w./]+)', import\.meta\.url\)\.href\)/g, "import('$1')")
    .replaceAll(
      /new URL\('[./\w]*?(\w+)\.(?:ts|mjs)', import\.meta\.url\)/g,
      "new URL('./$1.js', import.meta.url)",
    );
  return { contents, loader: path.endsWith('.ts') ? 'ts' : 'js' };
}
