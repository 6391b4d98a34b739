import { collectFacts, withDamage } from '@kinkajou/core/asset/collectFacts';
import { KinkajouError } from '@kinkajou/core/errors';
import { writeModel } from '@kinkajou/core/formats/writeModel';
import { decodeImage } from '@kinkajou/core/images/decode';
import { inspectReport, mendAsset, openAsset } from '@kinkajou/core/inspect';
import { lookAtPixels } from '@kinkajou/core/maps/pixelFacts';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { damage, generator } from './damage.ts';
import { makeSeeds, type Seed } from './seeds.ts';

/**
 * What became of one broken file. `stumbled` are refusals in our words for which a reader had none of its
 * own.
 */
export interface Outcome {
  n: number;
  path: string;
  what: 'read' | 'refused' | 'stumbled' | 'raw';
  code: string;
  detail: string;
}

/** Words that are JavaScript's, a library's or the machine's, and nobody's reason. */
const RAW =
  /Cannot read|is not a function|is not iterable|Invalid array length|Invalid typed array|out of (range|bounds)|outside the bounds|\bundefined\b|\bNaN\b|Unexpected token|\/(work|home|tmp|root)\/|node_modules|at \w+ \(|ENO|Maximum call stack|offset is|must be (an|a|of)|vips|ERR_/;

const [first, step] = process.argv.slice(2).map(Number);
// What libraries mutter is not looked at.
for (const level of ['log', 'info', 'warn', 'error'] as const) console[level] = () => undefined;
const seeds = await makeSeeds();
process.send?.({ ready: seeds.map(({ path }) => path) });
for (let n = first; ; n += step) {
  const seed = seeds[n % seeds.length];
  process.send?.({ begun: n, path: seed.path });
  process.send?.(await tried(n, seed));
  // Messages go out between files.
  await new Promise((resolve) => setImmediate(resolve));
}

async function tried(n: number, seed: Seed): Promise<Outcome> {
  const bytes = damage(seed.bytes, generator(n));
  const of = (what: Outcome['what'], code: string, detail: string): Outcome => ({
    n,
    path: seed.path,
    what,
    code,
    detail,
  });
  try {
    const text = await (seed.kind === 'image' ? look(seed.path, bytes) : walk(seed, bytes));
    const raw = RAW.exec(text);
    return raw
      ? of('raw', 'words', text.slice(Math.max(0, raw.index - 80), raw.index + 80))
      : of('read', '', '');
  } catch (error) {
    if (!(error instanceof KinkajouError))
      return of(
        'raw',
        (error as Error).name,
        String((error as Error).stack)
          .split('\n')
          .slice(0, 4)
          .join(' | '),
      );
    const said = `${error.message} ${error.hint}`;
    if (RAW.test(said)) return of('raw', error.code, said);
    const cause = error.cause as Error | undefined;
    if (cause)
      return of(
        'stumbled',
        error.code,
        String(cause.stack ?? cause)
          .split('\n')
          .slice(0, 3)
          .join(' | '),
      );
    return of('refused', error.code, '');
  }
}

async function look(path: string, bytes: Uint8Array): Promise<string> {
  lookAtPixels(await decodeImage(bytes, path));
  return '';
}

/** What a person would do: open, look, mend, and write it in another format. */
async function walk({ path, beside }: Seed, bytes: Uint8Array): Promise<string> {
  const asset = await openAsset(memorySource('fuzz', { ...beside, [path]: bytes }), path);
  const { facts, damaged } = await collectFacts(asset.images, asset.read);
  const { state, findings } = mendAsset(asset.source, withDamage(asset.images, damaged), 'safe', { facts });
  const report = inspectReport(asset, state, findings);
  for (const name of ['out.obj', 'out.usdc', 'out.fbx'])
    writeModel({ ...asset.document, materials: state.materials }, name);
  return report.findings.map(({ message }) => message).join('\n');
}
