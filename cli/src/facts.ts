import { type AssetState, type Edit, initialState } from '@kinkajou/core/asset/asset';
import { collectFacts, createFactsCache, withDamage } from '@kinkajou/core/asset/collectFacts';
import { makeMaps } from '@kinkajou/core/asset/makeMaps';
import { ownImages } from '@kinkajou/core/asset/ownImages';
import { KinkajouError } from '@kinkajou/core/errors';
import type { Finding } from '@kinkajou/core/findings/finding';
import { type Mended, type MendLevel, mendAsset, type OpenAsset, withImages } from '@kinkajou/core/inspect';
import type { HouseWords } from '@kinkajou/core/maps/nameSpans';
import type { PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import type { PaintedModel } from '@kinkajou/core/sets/imageSet';
import type { Output } from './output.ts';

const TELL_FROM = 20;
/** Assets of one call share images of common ground. */
const cache = createFactsCache();

/** An asset whose pixels were looked at; images that turned out to be damaged are known to be so. */
export interface LookedAsset {
  asset: OpenAsset;
  facts: Map<string, PixelFacts>;
}

/**
 * Looks at the pixels of the images that the model may call its own, and of those that it reads from
 * elsewhere.
 */
export async function factsOf(asset: OpenAsset, output: Output): Promise<LookedAsset> {
  return look({ asset, facts: new Map() }, initialState(asset.source), output);
}

/** Mended, with the images that mends made beside the asset's own. */
export interface MendedAsset extends Mended {
  asset: OpenAsset;
}

/** What mending may be told. */
export interface MendOptions {
  /** Facts that were looked at already. */
  known?: Map<string, PixelFacts>;
  /** Whether mends that need new images make them. */
  make?: boolean;
  /** Words of one's own house. */
  house?: HouseWords;
  /** Answers to questions, as `MATERIAL=SET`. */
  choose?: readonly string[];
  /** The shading model of the destination. */
  prefers?: PaintedModel;
  /** Edits that were made already. */
  before?: readonly Edit[];
  /** Findings that no mend may touch. */
  spared?: (finding: Finding) => boolean;
}

/**
 * Mends an asset with the facts of its images; those that a mend brought in from elsewhere are looked at too.
 * Mends that need new images make them, unless `make` is false. Throws `call.choose` where an answer fits no
 * question.
 */
export async function mendWithFacts(
  given: OpenAsset,
  level: MendLevel,
  output: Output,
  {
    known: existing,
    make = true,
    house,
    choose = [],
    prefers,
    before: first = [],
    spared = () => false,
  }: MendOptions = {},
): Promise<MendedAsset> {
  let { asset, facts } = existing ? { asset: given, facts: existing } : await factsOf(given, output);
  let taken: Edit[] = [...first];
  const answers = [...choose];
  const madeAlready = new Set<string>();
  for (;;) {
    const mended = mendAsset(asset.source, asset.images, level, {
      facts,
      before: taken,
      house,
      prefers,
      spared,
    });
    const before = { asset, looked: facts.size };
    ({ asset, facts } = await look({ asset, facts }, mended.state, output));
    if (facts.size > before.looked || asset !== before.asset) continue;
    const answered = answers.length > 0 ? takeAnswer(mended.findings, answers) : null;
    if (answered) {
      taken = [...mended.edits, ...answered];
      continue;
    }
    // What was made and is found again stays to be seen.
    const required = mended.findings.find(
      (finding) =>
        finding.make &&
        make &&
        level !== 'none' &&
        (level === 'all' || finding.safe) &&
        !spared(finding) &&
        !madeAlready.has(JSON.stringify(finding.make)),
    );
    if (!required?.make) return { ...mended, asset };
    madeAlready.add(JSON.stringify(required.make));
    const { files, edit } = await makeMaps(required.make, mended.state, asset.read, {
      limits: limitsFromEnvironment(),
    });
    if (!edit) return { ...mended, asset };
    output.message(`${required.subject}: ${required.mendLabel}`);
    asset = await withImages(
      asset,
      new Map(files.map(({ path, bytes }) => [path, bytes])),
      limitsFromEnvironment(),
    );
    taken = [...mended.edits, edit];
  }
}

/** The edits of the first answer that fits a question; it is taken from the list. */
function takeAnswer(findings: readonly Finding[], answers: string[]): Edit[] | null {
  for (const [i, answer] of answers.entries()) {
    const index = answer.indexOf('=');
    const [subject, required] = [answer.slice(0, index).trim(), answer.slice(index + 1).trim()];
    for (const { subject: about, choices = [] } of findings) {
      const choice =
        about === subject
          ? choices.find(({ id, label, images }) => [id, label, ...images].includes(required))
          : undefined;
      if (!choice) continue;
      answers.splice(i, 1);
      return choice.edits;
    }
  }
  const asked = findings.flatMap(({ subject, choices = [] }) =>
    choices.map(({ label }) => `${subject}=${label}`),
  );
  throw new KinkajouError(
    'call.choose',
    `"${answers[0]}" answers no question`,
    {},
    asked.length > 0 ? `Questions are: ${asked.slice(0, 12).join('; ')}.` : 'Nothing is asked.',
  );
}

async function look({ asset, facts }: LookedAsset, state: AssetState, output: Output): Promise<LookedAsset> {
  const own = new Set(ownImages(asset.source, asset.images).map((image) => image.path));
  const used = new Set(state.images.map((image) => image.resolved));
  const required = asset.images.filter(
    (image) => (own.has(image.path) || used.has(image.path)) && !facts.has(image.sha256),
  );
  const progress = (done: number, total: number) => {
    if (total >= TELL_FROM && done % TELL_FROM === 0) output.message(`looked at ${done} of ${total} images`);
  };
  const found = await collectFacts(required, asset.read, {
    limits: limitsFromEnvironment(),
    cache,
    progress,
  });
  const images = withDamage(asset.images, found.damaged);
  return {
    asset: found.damaged.size > 0 ? { ...asset, images } : asset,
    facts: new Map([...facts, ...found.facts]),
  };
}

/** Throws `call.mend` for a word that is no level. */
export function mendLevel(word: string): MendLevel {
  if (word === 'all' || word === 'safe' || word === 'none') return word;
  throw new KinkajouError('call.mend', `--mend is "${word}"; it takes all, safe or none`);
}
