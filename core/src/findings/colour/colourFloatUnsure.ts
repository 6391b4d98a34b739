import type { Edit } from '../../asset/asset.ts';
import { PRIMARIES } from '../../colour/primaries.ts';
import { SPACES } from '../../colour/spaces.ts';
import { type EncodingState, tagOf } from '../../maps/encodingState.ts';
import { TOLD } from '../../maps/judgeEncoding.ts';
import type { Finding, FindingChoice } from '../finding.ts';
import type { Check } from '../findingContext.ts';
import { addressOf } from '../slots/slotFinding.ts';
import type { FloatColour } from './floatEncoding.ts';

const SHOWN = 12;
/** Less saturated than this an image looks the same in all primaries. */
const SATURATED = 0.08;

/** Float colour of which nothing tells how its numbers stand to light: one question for all such maps. */
export const colourFloatUnsure: Check = ({ source, floats }) => {
  const unsure = floats().filter(({ judged, tag, unstated, settled }) => {
    // A word for a linear space is a statement; where nothing speaks against it, it holds.
    const stated = !unstated && judged.state === 'linear' && tag.state === 'linear';
    return !settled && !stated && judged.confidence < TOLD;
  });
  return question(source.name, unsure, {
    code: 'colour.floatUnsure',
    severity: 'warning',
    title: 'Linear or still encoded?',
    message: (what) =>
      `${what} may be linear light or still encoded: nothing in name, header or numbers decides it.`,
    choices: (['linear', 'encoded', 'encodedTwice'] as const).map((state) => ({
      id: state,
      label: LABELS[state],
      tag: ({ linear }) => tagOf(state, linear),
    })),
  });
};

/**
 * Linear float colour of which nothing tells the primaries. Rec.709 is what the standard of EXR assumes, and
 * what is taken.
 */
export const colourPrimariesUnstated: Check = ({ source, floats }) => {
  const unstated = floats().filter(({ slot, judged, settled, unstated: open }) => {
    const coloured = (slot.facts?.saturation ?? 0) > SATURATED;
    return coloured && open && !settled && judged.linear === null && judged.confidence >= TOLD;
  });
  return question(source.name, unstated, {
    code: 'colour.primariesUnstated',
    severity: 'note',
    title: 'In which primaries?',
    message: (what) => `Nothing states the primaries of ${what}; Rec.709 is taken.`,
    choices: PRIMARIES.map(({ linear }) => ({
      id: linear,
      label: SPACES[linear].title,
      tag: ({ judged }) => tagOf(judged.state, linear),
    })),
  });
};

const LABELS: Record<Exclude<EncodingState, 'darkened'>, string> = {
  linear: 'Linear light',
  encoded: 'Still encoded',
  encodedTwice: 'Encoded twice',
};

interface Question extends Pick<Finding, 'code' | 'severity' | 'title'> {
  message(what: string): string;
  choices: { id: string; label: string; tag(colour: FloatColour): ReturnType<typeof tagOf> }[];
}

function question(
  subject: string,
  colours: readonly FloatColour[],
  { code, severity, title, message, choices }: Question,
): Finding[] {
  const [first] = colours;
  if (!first) return [];
  const paths = [...new Set(colours.flatMap(({ slot }) => slot.file?.path ?? []))];
  return [
    {
      code,
      step: 'colour',
      severity,
      key: code,
      title,
      subject,
      message: message(paths.length === 1 ? paths[0] : `${paths.length} float images such as ${paths[0]}`),
      evidence: colours
        .slice(0, SHOWN)
        .map(({ slot, judged }) => `${slot.file?.path}: ${judged.evidence[0]}`),
      mend: null,
      safe: false,
      mendLabel: '',
      choices: choices.map((choice) => asChoice(choice, colours)),
      target: { material: first.slot.material.key, channel: first.slot.channel, image: first.slot.entry.key },
    },
  ];
}

/** One edit for each way of reading that the answer comes to. */
function asChoice(
  { id, label, tag }: Question['choices'][number],
  colours: readonly FloatColour[],
): FindingChoice {
  const byTag = new Map<string, FloatColour[]>();
  for (const colour of colours) {
    const key = JSON.stringify(tag(colour));
    byTag.set(key, [...(byTag.get(key) ?? []), colour]);
  }
  const edits = [...byTag].map(
    ([key, ofSpace]): Edit => ({
      kind: 'adjustSlots',
      slots: ofSpace.map(({ slot }) => addressOf(slot)),
      change: JSON.parse(key),
      origin: { from: 'hand', detail: label },
    }),
  );
  return { id, label, reason: '', images: [], edits };
}
