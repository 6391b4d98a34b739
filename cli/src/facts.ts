import { type AssetState, type Edit, initialState } from '@kinkajou/core/asset/asset';
import { collectFacts } from '@kinkajou/core/asset/collectFacts';
import { makeMaps } from '@kinkajou/core/asset/makeMaps';
import { ownImages } from '@kinkajou/core/asset/ownImages';
import { KinkajouError } from '@kinkajou/core/errors';
import { type MendLevel, type Mended, mendAsset, type OpenAsset, withImages } from '@kinkajou/core/inspect';
import type { PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import type { Output } from './output.ts';

const TELL_FROM = 20;

/** Looks at the pixels of the images that the model may call its own, and of those that it reads from elsewhere. */
export async function factsOf(asset: OpenAsset, output: Output): Promise<Map<string, PixelFacts>> {
  return look(asset, initialState(asset.source), new Map(), output);
}

/** Mended, with the images that mends made beside the asset's own. */
export interface MendedAsset extends Mended {
  asset: OpenAsset;
}

/**
 * Mends an asset with the facts of its images; those that a mend brought in from elsewhere are looked at too. Mends that
 * need new images make them, unless `make` is false.
 */
export async function mendWithFacts(
  given: OpenAsset,
  level: MendLevel,
  output: Output,
  { known, make = true }: { known?: Map<string, PixelFacts>; make?: boolean } = {},
): Promise<MendedAsset> {
  const facts = known ?? (await factsOf(given, output));
  let asset = given;
  let before: Edit[] = [];
  for (;;) {
    const mended = mendAsset(asset.source, asset.images, level, { facts, before });
    const looked = facts.size;
    await look(asset, mended.state, facts, output);
    if (facts.size > looked) continue;
    const wanted = mended.findings.find((finding) => finding.make && make && level !== 'none' && (level === 'all' || finding.safe));
    if (!wanted?.make) return { ...mended, asset };
    const { files, edit } = await makeMaps(wanted.make, mended.state, asset.read, { limits: limitsFromEnvironment() });
    if (!edit) return { ...mended, asset };
    output.message(`${wanted.subject}: ${wanted.mendLabel}`);
    asset = await withImages(asset, new Map(files.map(({ path, bytes }) => [path, bytes])), limitsFromEnvironment());
    before = [...mended.edits, edit];
  }
}

async function look(asset: OpenAsset, state: AssetState, facts: Map<string, PixelFacts>, output: Output): Promise<Map<string, PixelFacts>> {
  const own = new Set(ownImages(asset.source, asset.images).map((image) => image.path));
  const used = new Set(state.images.map((image) => image.resolved));
  const wanted = asset.images.filter((image) => (own.has(image.path) || used.has(image.path)) && !facts.has(image.sha256));
  const found = await collectFacts(wanted, asset.read, (done, total) => {
    if (total >= TELL_FROM && done % TELL_FROM === 0) output.message(`looked at ${done} of ${total} images`);
  });
  for (const [hash, one] of found) facts.set(hash, one);
  return facts;
}

/** Throws `call.mend` for a word that is no level. */
export function mendLevel(word: string): MendLevel {
  if (word === 'all' || word === 'safe' || word === 'none') return word;
  throw new KinkajouError('call.mend', `--mend is "${word}"; it takes all, safe or none`);
}
