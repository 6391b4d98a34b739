import { createHash } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

/**
 * The code as one build, made when it is first wanted and kept until a source changes. A thread or command
 * that starts from it is there in a fifth of the time that a loader for TypeScript takes.
 */
const ROOT = fileURLToPath(new URL('../../', import.meta.url));
const SOURCES = ['core/src', 'cli/src'];
/** Beside core's own packages, so that what is not built in is found as core finds it. */
const KEPT = join(ROOT, 'core/node_modules/.cache/kinkajou');
/** Others may still be running from it. */
const STALE_MS = 24 * 3600 * 1000;
/** What brings binaries or files of its own, and is not built in. */
export const APART = ['sharp', 'draco3dgltf', 'gltf-validator', 'piscina'];
const THREADS = {
  batchThread: 'cli/src/batchWork.ts',
  thread: 'core/src/guard/threadWork.ts',
  watchdog: 'core/src/guard/watchdog.mjs',
  bakeThread: 'core/src/handoff/bake/bakeWorker.ts',
};

/** The folder of the build of the sources as they are; null where none can be made or kept. */
export async function builtFolder() {
  return keepBuild(KEPT, await stampOf(ROOT, SOURCES), (folder) =>
    buildInto(folder, { main: 'cli/src/main.ts' }, APART),
  );
}

/** A folder below `kept` that is called like the stamp, made if it is not there; null where it cannot be. */
export async function keepBuild(kept, stamp, make) {
  const folder = join(kept, stamp);
  if (await exists(join(folder, 'done'))) return folder;
  const making = `${folder}.${process.pid}.${Math.random().toString(36).slice(2)}`;
  try {
    await mkdir(making, { recursive: true });
    await make(making);
    await writeFile(join(making, 'package.json'), '{ "type": "module" }\n');
    await writeFile(join(making, 'done'), '');
    await rename(making, folder);
    await sweep(kept, folder);
  } catch {
    await rm(making, { recursive: true, force: true }).catch(() => undefined);
    // Somebody else may have been faster.
    return (await exists(join(folder, 'done'))) ? folder : null;
  }
  return folder;
}

/** What does the work of a thread: from the build, else from its source. */
export async function workOf(thread) {
  const folder = await builtFolder();
  if (folder) return (await import(join(folder, `${thread}.js`))).default;
  const { register } = await import('tsx/esm/api');
  register();
  return (await import(join(ROOT, THREADS[thread]))).default;
}

/**
 * Builds the threads and further entries side by side, in pieces that are loaded when they are needed. Packages
 * that are `apart` are not built in.
 */
export async function buildInto(folder, entries, apart = APART) {
  const { build } = await import('esbuild');
  await build({
    absWorkingDir: ROOT,
    entryPoints: { ...entries, ...THREADS },
    outdir: folder,
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    mainFields: ['module', 'main'],
    target: 'node20',
    minifySyntax: true,
    legalComments: 'linked',
    logLevel: 'silent',
    external: apart.flatMap((name) => [name, `${name}/*`]),
    // What was written for the other way of loading modules asks for them by name.
    banner: {
      js: "import { createRequire as requireOf } from 'node:module';\nconst require = requireOf(import.meta.url);",
    },
    plugins: [
      {
        name: 'threads',
        setup(setup) {
          setup.onLoad(
            { filter: /[\\/](core[\\/]src|cli[\\/]src|web[\\/]worker)[\\/].*\.(ts|mjs)$/ },
            sideBySide,
          );
          setup.onLoad({ filter: /[\\/]web[\\/]server[\\/].*\.ts$/ }, inPlace);
        },
      },
    ],
  });
}

/** All pieces lie in one folder, so a thread's file is beside whoever starts it. */
async function sideBySide({ path }) {
  const text = await readFile(path, 'utf8');
  const contents = text.replaceAll(
    /new URL\('[./\w]*?(\w+)\.(?:ts|mjs)', import\.meta\.url\)/g,
    "new URL('./$1.js', import.meta.url)",
  );
  return { contents, loader: path.endsWith('.ts') ? 'ts' : 'js' };
}

/** What the server names beside its sources stays there: the steps of its database. */
async function inPlace({ path }) {
  const text = await readFile(path, 'utf8');
  return {
    contents: text.replaceAll('import.meta.url', JSON.stringify(pathToFileURL(path).href)),
    loader: 'ts',
  };
}

/** Another one for other sources below `root`, another place or another Node.js; tests are no sources. */
export async function stampOf(root, sources) {
  const hash = createHash('sha256').update(`${root} ${process.version}\n`);
  const lock = await stat(join(root, 'package-lock.json')).catch(() => null);
  hash.update(`${lock?.mtimeMs}\n`);
  for (const source of sources)
    for (const line of await linesOf(join(root, source), source)) hash.update(`${line}\n`);
  return hash.digest('hex').slice(0, 20);
}

async function linesOf(folder, name) {
  const entries = (await readdir(folder, { withFileTypes: true })).sort((a, b) => (a.name < b.name ? -1 : 1));
  const lines = await Promise.all(
    entries.map(async (entry) => {
      const [path, inner] = [join(folder, entry.name), `${name}/${entry.name}`];
      if (entry.isDirectory()) return entry.name === 'test' ? [] : linesOf(path, inner);
      if (!/\.(ts|mjs|json)$/.test(entry.name) || entry.name.endsWith('.test.ts')) return [];
      const { mtimeMs, size } = await stat(path);
      return [`${inner} ${mtimeMs} ${size}`];
    }),
  );
  return lines.flat();
}

async function exists(path) {
  return stat(path).then(
    () => true,
    () => false,
  );
}

async function sweep(kept, own) {
  for (const name of await readdir(kept)) {
    const path = join(kept, name);
    if (path !== own && Date.now() - (await stat(path)).mtimeMs > STALE_MS)
      await rm(path, { recursive: true, force: true });
  }
}
