import { findMaterial, usesOfImages } from '../../asset/asset.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { SetQuestion } from '../../sets/matchSets.ts';
import type { SetEvidence } from '../../sets/setEvidence.ts';
import type { Finding } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import { editsOfSet, isAskedAbout } from './settlement.ts';

/**
 * A material for which several sets of images may be meant, or one that nothing speaks for: asked once for
 * all its channels.
 */
export const setAmbiguous: Check = (context) =>
  context.settlement().matching.questions.map((question) => questionFinding(question, context));

function questionFinding(question: SetQuestion, context: FindingContext): Finding {
  const { state } = context;
  const { material: key, candidates } = question;
  const material = findMaterial(state, key);
  const choices = material ? candidates.map((candidate) => editsOfSet(material, candidate, context)) : [];
  const lost = lostImages(question, context);
  const [first] = candidates;
  const names = candidates
    .slice(0, 3)
    .map(({ set }) => `"${set.label}"${set.folder ? ` in ${set.folder}` : ''}`);
  const more = candidates.length > 3 ? ` or one of ${candidates.length - 3} others` : '';
  return {
    code: 'set.ambiguous',
    step: 'slots',
    severity: lost.length > 0 ? 'error' : 'warning',
    key: `set.ambiguous:${key}`,
    title: 'Which images belong here?',
    subject: key,
    message:
      candidates.length === 1
        ? `The set ${names[0]} may belong to ${key}; little speaks for it.`
        : `${names.join(', ')}${more} may belong to ${key}; choose one, and all its channels follow.`,
    evidence: [...lost.map((written) => `written as ${written}`), ...candidates.map(evidenceLine)],
    mend: null,
    safe: false,
    mendLabel: 'Choose',
    choices: choices.filter(({ edits }) => edits.length > 0),
    target: { material: key, image: first.set.members[0]?.map.path },
  };
}

function evidenceLine({ set, score, reasons }: SetEvidence): string {
  const channels = set.members.map(({ reading }) => channelInWords(reading.channel)).join(', ');
  return `${set.label} (${channels}): ${reasons.join('; ') || 'nothing speaks for it'} (${score.toFixed(2)})`;
}

/** Images that the material names and that only the answer can find. */
function lostImages({ material }: SetQuestion, context: FindingContext): string[] {
  const uses = usesOfImages(context.state);
  return context.state.images
    .filter(
      ({ key, status }) =>
        status === 'missing' && (uses.get(key) ?? []).some((slot) => slot.material === material),
    )
    .filter(({ key }) => isAskedAbout(uses.get(key) ?? [], context.settlement().matching.questions))
    .map(({ written }) => written);
}
