import { type AssetImage, type SlotAddress, usesOfImages } from '../../asset/asset.ts';
import type { Candidate } from '../../links/rank.ts';
import { parseWrittenPath, writtenName } from '../../links/writtenPath.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Finding, FindingChoice } from '../finding.ts';
import type { FindingContext } from '../findingContext.ts';
import { isAskedAbout } from '../slots/settlement.ts';

/** How a missing image can be found again; each kind has its own finding. */
export type MissingKind = 'missing' | 'ambiguous' | 'caseOnly' | 'outside';

/** An image that the model names and the parcel lacks, who needs it, and what might be it. */
export interface MissingImage {
  kind: MissingKind;
  image: AssetImage;
  slots: SlotAddress[];
  candidates: readonly Candidate[];
}

/** Candidates nearer to the best than this make a choice that a person must take. */
const RIVAL = 0.06;

/** Images that slots read and that are not there, sorted by how they can be found. */
export function missingImages(
  { state, candidatesOf, settlement }: FindingContext,
  required: MissingKind,
): MissingImage[] {
  const uses = usesOfImages(state);
  const { matching, rewired } = settlement();
  const { questions } = matching;
  return (
    state.images
      .filter((image) => image.status === 'missing' && uses.has(image.key))
      // One question about the set stands for all its images, unless a file is plain by its name.
      .filter((image) => candidatesOf(image)[0]?.safe || !isAskedAbout(uses.get(image.key) ?? [], questions))
      .map((image) => {
        const candidates = candidatesOf(image);
        // Slots of one written path that belong to different sets are told apart slot by slot.
        const kind = rewired.has(image.key) && !candidates[0]?.safe ? 'missing' : kindOf(image, candidates);
        return { kind, image, slots: uses.get(image.key) ?? [], candidates };
      })
      .filter(({ kind }) => kind === required)
  );
}

function kindOf(image: AssetImage, candidates: readonly Candidate[]): MissingKind {
  const [best, second] = candidates;
  if (!best || (best.safe && best.ofSet)) return 'missing';
  if (!best.safe) return second && best.score - second.score < RIVAL ? 'ambiguous' : 'missing';
  if (best.reasons[0] === 'same name but for case or accents') return 'caseOnly';
  const { absolute, climbs } = parseWrittenPath(image.written);
  return absolute || climbs ? 'outside' : 'missing';
}

/** What all findings about a missing image share; the mend links the best candidate. */
export function missingFinding(
  { kind, image, slots, candidates }: MissingImage,
  title: string,
  message: string,
): Finding {
  const [best] = candidates;
  const reason = best?.reasons.join(', ') ?? '';
  return {
    code: `link.${kind}`,
    step: 'links',
    severity: 'error',
    key: `link.${kind}:${image.key}`,
    title,
    subject: writtenName(image.written),
    message,
    evidence: [
      `written as ${image.written}`,
      ...candidates.map((c) => `${c.path}: ${c.reasons.join(', ')} (${c.score.toFixed(2)})`),
    ],
    mend: best
      ? {
          kind: 'linkImages',
          links: [{ image: image.key, path: best.path, reason }],
          origin: { from: 'evidence', detail: reason },
        }
      : null,
    safe: best?.safe ?? false,
    mendLabel: linkLabel(best),
    ...(best && !best.safe ? { choices: candidates.map((candidate) => linkChoice(image, candidate)) } : {}),
    target: { image: image.key, material: slots[0]?.material, channel: slots[0]?.channel },
  };
}

function linkLabel(best: Candidate): string {
  if (best) return best.safe ? 'Link' : 'Link best';
  return '';
}

function linkChoice({ key, written }: AssetImage, { path, reasons, score }: Candidate): FindingChoice {
  const reason = reasons.join(', ');
  const origin = { from: 'hand' as const, detail: `chosen for ${writtenName(written)}` };
  return {
    id: path,
    label: path.slice(path.lastIndexOf('/') + 1),
    reason: `${reason} (${score.toFixed(2)})`,
    images: [path],
    edits: [{ kind: 'linkImages', links: [{ image: key, path, reason }], origin }],
  };
}

/** `Hull, baseColor; Deck, baseColor`. */
export function usesInWords(slots: readonly SlotAddress[]): string {
  return slots.map((slot) => `${slot.material}, ${channelInWords(slot.channel)}`).join('; ');
}
