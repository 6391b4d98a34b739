import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { findDestination } from '@kinkajou/core/destinations/destinations';
import { applyBindings } from '@kinkajou/core/asset/applyBindings';
import type { AssetState } from '@kinkajou/core/asset/asset';
import { type Destination, parseProfile } from '@kinkajou/core/destinations/profile';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { encodePng } from '@kinkajou/core/images/encode';
import type { OpenAsset } from '@kinkajou/core/inspect';
import { drawThumbnail } from '@kinkajou/core/preview/thumbnail';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { cleanName } from '@kinkajou/core/parcel/names';
import { mendLevel, mendWithFacts } from './facts.ts';
import { withAssets } from './openPath.ts';
import { EXIT, type Output } from './output.ts';

interface HandoffOptions {
  to: string;
  out: string;
  search: string[];
  mend: string;
  variant?: string;
  json?: boolean;
}

/** A built-in destination by its id, or one of one's own from a JSON file. */
async function destinationOf(word: string): Promise<Destination> {
  if (!word.endsWith('.json')) {
    const known = findDestination(word);
    if (known) return known;
    throw new KinkajouError('call.destination', `there is no destination "${word}"`, {}, 'See "kinkajou destinations", or name a JSON file.');
  }
  let text: string;
  try {
    text = await readFile(word, 'utf8');
  } catch {
    throw new KinkajouError('call.destination', 'this profile cannot be read', { file: word }, 'Check the spelling.');
  }
  try {
    return parseProfile(JSON.parse(text));
  } catch (error) {
    throw toKinkajouError(error, 'profile.invalid', { file: word });
  }
}

/** The asset as it stands, for the receiver's sheet. */
async function pictureOf(asset: OpenAsset, state: AssetState): Promise<Uint8Array | null> {
  const picture = await drawThumbnail(applyBindings(asset.document, state), state, asset.read, 480, 360);
  return picture && encodePng(picture);
}

/** Writes the package into `--out`; with several models in one path, each into a folder of its own name. */
export async function runHandoff(path: string, options: HandoffOptions, output: Output): Promise<number> {
  const destination = await destinationOf(options.to);
  const level = mendLevel(options.mend);
  const variant = options.variant ?? destination.variants[0];
  if (!destination.variants.includes(variant))
    throw new KinkajouError('call.variant', `--variant is "${variant}"; ${destination.id} takes ${destination.variants.join(' or ')}`);
  const { results: made, unreadable } = await withAssets(path, options.search, output, async (given) => {
    const { asset, edits, state, findings } = await mendWithFacts(given, level, output);
    const result = await handOff({
      document: asset.document,
      source: asset.source,
      state,
      edits,
      findings,
      images: asset.images,
      destination,
      variant,
      read: asset.read,
      picture: await pictureOf(asset, state),
      progress: (share, doing) => output.message(`${Math.round(share * 100)}% ${doing}`),
    });
    return { name: cleanName(asset.source.name, 'asset'), ...result };
  });
  const folders = new Set<string>();
  for (const { name, files, receipt } of made) {
    let folder = made.length === 1 ? options.out : join(options.out, name);
    for (let i = 2; folders.has(folder); i += 1) folder = join(options.out, `${name}_${i}`);
    folders.add(folder);
    for (const [file, bytes] of files) {
      await mkdir(dirname(join(folder, file)), { recursive: true });
      await writeFile(join(folder, file), bytes);
    }
    if (!options.json) {
      output.text(`${folder}: ${receipt.verdict}, ${receipt.outputs.map((file) => file.path).join(', ')}`);
      for (const loss of receipt.losses) output.text(`  ${loss}`);
      for (const check of receipt.readBack.checks.filter((one) => !one.ok))
        output.text(`  failed: ${check.check}: expected ${check.expected}, found ${check.found}`);
    }
  }
  if (options.json) output.json(made.length === 1 ? made[0].receipt : { receipts: made.map((one) => one.receipt) });
  const unsettled = unreadable > 0 || made.some(({ receipt }) => receipt.verdict === 'failed' || receipt.openFindings.length > 0);
  return unsettled ? EXIT.errorsRemain : EXIT.done;
}
