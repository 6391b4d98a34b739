import type { RuleConflict } from '@kinkajou/core/rules/conflicts';
import type { Action, Conditions, OneOrMore, Rule, Rulebook } from '@kinkajou/core/rules/rulebook';
import { UNITS } from '@kinkajou/core/rules/rulebook';
import { ALPHA_MODES, CHANNELS, COLOUR_SPACES, COMPONENTS } from '@kinkajou/core/scene/material';
import { COLLISIONS, PIVOTS } from '@kinkajou/core/scene/partChange';

/** Name of a condition. */
export type Condition = keyof Conditions;

/** How each condition reads before its patterns. */
export const CONDITION_WORDS: Record<Condition, string> = {
  asset: 'the asset is called',
  parcel: 'the parcel is called',
  file: 'the model file is',
  format: 'the format is',
  writtenBy: 'the file was written by',
  part: 'the part is called',
  group: 'it lies below the group',
  material: 'the material is called',
  image: 'the image is called',
  channel: 'the channel is',
  space: 'the colour space is',
  finding: 'the finding is',
  confidence: 'it is sure by',
  size: 'the longest side in metres is',
};

/** A field of an action, as the card asks for it. */
export interface ActionField {
  name: string;
  label: string;
  /** `numbers` takes one or three of them, `list` words with commas between. */
  kind: 'text' | 'number' | 'numbers' | 'flag' | 'list';
  options?: readonly string[];
}

const text = (name: string, label = name): ActionField => ({ name, label, kind: 'text' });
const one = (name: string, options: readonly string[], label = name): ActionField => ({
  name,
  label,
  kind: 'text',
  options,
});

/** What each action says, and what is to be told of it. */
export const ACTION_WORDS: Record<Action['do'], { label: string; fields: readonly ActionField[] }> = {
  mend: { label: 'mend it', fields: [] },
  leave: { label: 'leave it as it is', fields: [] },
  ask: { label: 'ask a person', fields: [] },
  tag: { label: 'tag the image as', fields: [one('space', COLOUR_SPACES, '')] },
  link: { label: 'find in another folder', fields: [text('from'), text('to')] },
  assign: {
    label: 'assign the image to',
    fields: [
      one('channel', CHANNELS, ''),
      one('component', COMPONENTS),
      { name: 'invert', label: 'inverted', kind: 'flag' },
    ],
  },
  normal: { label: 'take normals as', fields: [one('normalY', ['Y+', 'Y-'], '')] },
  set: {
    label: 'set the value of',
    fields: [one('channel', CHANNELS, ''), { name: 'value', label: 'to', kind: 'numbers' }],
  },
  alpha: {
    label: 'set alpha',
    fields: [one('mode', ALPHA_MODES), { name: 'cutoff', label: 'cut-off', kind: 'number' }],
  },
  replaceMaterial: { label: 'replace the material with', fields: [text('with', '')] },
  renameMaterial: { label: 'rename the material to', fields: [text('to', '')] },
  numberMaterial: { label: 'number the material', fields: [{ name: 'number', label: '', kind: 'number' }] },
  drop: { label: 'drop the part', fields: [] },
  renamePart: { label: 'rename the part to', fields: [text('to', '')] },
  giveMaterial: { label: 'give the part the material', fields: [text('material', '')] },
  pivot: { label: 'put the pivot at', fields: [one('at', PIVOTS, '')] },
  collision: {
    label: 'give a shape for collision',
    fields: [
      one('shape', COLLISIONS, ''),
      { name: 'hulls', label: 'at most', kind: 'number' },
      { name: 'error', label: 'error', kind: 'number' },
      { name: 'keep', label: 'share of triangles', kind: 'number' },
    ],
  },
  axes: {
    label: 'stand it up',
    fields: [
      one('up', ['X', 'Y', 'Z']),
      one('unit', Object.keys(UNITS)),
      { name: 'turn', label: 'turned by', kind: 'numbers' },
      { name: 'scale', label: 'scaled by', kind: 'number' },
    ],
  },
  handOff: { label: 'hand it off to', fields: [{ name: 'to', label: '', kind: 'list' }] },
};

/** A pattern or several as they are typed: with commas between. Regular expressions stay whole. */
export function patternsText(value: OneOrMore): string {
  return [value].flat().join(', ');
}

/** Patterns as they are typed, with commas between; an expression between slashes is one. */
export function patternsOf(typed: string): OneOrMore {
  const trimmed = typed.trim();
  if (trimmed.startsWith('/')) return trimmed;
  const list = trimmed.split(',').map((word) => word.trim());
  const some = list.filter((word) => word !== '');
  return some.length === 1 ? some[0] : some;
}

/** A field's value as it is typed; '' where there is none. */
export function fieldText(action: Action, { name }: ActionField): string {
  const value = (action as unknown as Record<string, unknown>)[name];
  if (Array.isArray(value)) return value.join(name === 'to' ? ', ' : ' ');
  return value === undefined ? '' : String(value);
}

/** The action with a field as it was typed; what is left empty goes. */
export function withField(action: Action, { name, kind }: ActionField, typed: string): Action {
  const { [name]: _, ...rest } = action as unknown as Record<string, unknown>;
  // A prefix of nothing is every path.
  const mayBeEmpty = action.do === 'link' && name === 'from';
  if (typed.trim() === '' && !mayBeEmpty) return rest as unknown as Action;
  return { ...rest, [name]: typedValue(kind, typed) } as unknown as Action;
}

function typedValue(kind: ActionField['kind'], typed: string): unknown {
  if (kind === 'flag') return typed === 'true';
  if (kind === 'list') return patternsOf(typed);
  if (kind === 'text') return typed;
  const numbers = typed
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  return numbers.length === 1 ? numbers[0] : numbers;
}

/** A rule's conditions as a sentence. */
export function whenInWords(when: Conditions): string {
  const parts = (Object.keys(CONDITION_WORDS) as Condition[]).flatMap((name) => {
    const value = when[name];
    return value === undefined ? [] : [`${CONDITION_WORDS[name]} ${[value].flat().join(' or ')}`];
  });
  return parts.length === 0 ? 'For every asset' : `Where ${parts.join(' and ')}`;
}

/** Actions as one sentence. */
export function thenInWords(actions: readonly Action[]): string {
  return actions
    .map((action) => {
      const { label, fields } = ACTION_WORDS[action.do];
      const told = fields.flatMap((field) => {
        const value = fieldText(action, field);
        if (value === '' || (field.kind === 'flag' && value !== 'true')) return [];
        return field.kind === 'flag' ? [field.label] : [`${field.label} ${value}`.trim()];
      });
      return [label, ...told].join(' ');
    })
    .join(', then ');
}

/** What became of a rulebook from one state to the next, rule by rule; '' where only their order did. */
export function changesBetween(before: Rulebook, after: Rulebook): string {
  const text = (rule: Rule) => JSON.stringify(rule);
  const [old, now] = [
    new Map(before.rules.map((rule) => [rule.name, rule])),
    new Map(after.rules.map((rule) => [rule.name, rule])),
  ];
  const added = [...now.keys()].filter((name) => !old.has(name));
  const gone = [...old.keys()].filter((name) => !now.has(name));
  const changed = [...now].filter(([name, rule]) => {
    const other = old.get(name);
    return other && text(other) !== text(rule);
  });
  const lists: [string, string[]][] = [
    ['new', added],
    ['changed', changed.map(([name]) => name)],
    ['gone', gone],
  ];
  const words = lists.flatMap(([word, names]) => (names.length > 0 ? [`${word}: ${names.join(', ')}`] : []));
  if (before.title !== after.title) words.unshift(`called ${after.title}`);
  return words.join('; ') || 'another order';
}

/** Two rules that contradict each other, and in how many assets. */
export interface ConflictPair extends RuleConflict {
  assets: number;
}

/** Pairs of rules that contradict each other over many assets, with one thing that they speak of. */
export function conflictPairs(outcomes: readonly { conflicts?: readonly RuleConflict[] }[]): ConflictPair[] {
  const pairs = new Map<string, ConflictPair>();
  for (const { conflicts = [] } of outcomes) {
    const here = new Set<string>();
    for (const conflict of conflicts) {
      const key = JSON.stringify([conflict.rule, conflict.over]);
      const pair = pairs.get(key) ?? { ...conflict, assets: 0 };
      if (!here.has(key)) pair.assets += 1;
      here.add(key);
      pairs.set(key, pair);
    }
  }
  return [...pairs.values()].sort((a, b) => b.assets - a.assets);
}
