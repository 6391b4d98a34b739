import type { Edit, SlotAddress } from '../asset/asset.ts';
import type { RuleOutcome } from './applyRules.ts';

/** Two rules that say otherwise of the same; the later one holds. */
export interface RuleConflict {
  rule: string;
  over: string;
  /** What both speak of, in words. */
  about: string;
}

/** Something that an edit says: the field, whose it is, and its value. */
interface Saying {
  of: readonly [field: string, ...owner: string[]];
  value: unknown;
}

/** What rules say of one asset that an earlier one said otherwise, each pair of rules once for each thing. */
export function conflictsIn(outcomes: readonly RuleOutcome[]): RuleConflict[] {
  const statements = new Map<string, { rule: string; by: string; value: string }>();
  const conflicts: RuleConflict[] = [];
  for (const { rulebook, rule, edits } of outcomes) {
    const by = JSON.stringify([rulebook, rule]);
    for (const { of, value } of edits.flatMap(sayingsOf)) {
      const key = JSON.stringify(of);
      const before = statements.get(key);
      const text = JSON.stringify(value) ?? '';
      if (before && before.by !== by && before.value !== text)
        conflicts.push({ rule, over: before.rule, about: inWords(of) });
      statements.set(key, { rule, by, value: text });
    }
  }
  return conflicts;
}

function inWords([field, ...owner]: Saying['of']): string {
  return `${field} of ${owner.join(', ')}`;
}

const slot = ({ material, channel }: SlotAddress, field: string): Saying['of'] => [field, material, channel];

/**
 * An image that is assigned brings a tag and a direction along, which a rule about tags is free to set: these
 * are no part of it.
 */
function sayingsOf(edit: Edit): Saying[] {
  switch (edit.kind) {
    case 'setValues':
      return edit.slots.map((address) => ({ of: slot(address, 'value'), value: edit.value }));
    case 'adjustSlots':
      return edit.slots.flatMap((address) =>
        Object.entries(edit.change).map(([field, value]) => ({ of: slot(address, field), value })),
      );
    case 'assignSlots':
      return [
        ...edit.assignments.map((given) => ({
          of: slot(given, 'image'),
          value: [given.image, given.component, given.invert],
        })),
        ...(edit.clears ?? []).map((address) => ({ of: slot(address, 'image'), value: null })),
      ];
    case 'pasteSlots':
      return edit.slots.map((given) => ({
        of: slot(given, 'image'),
        value: given.content?.map?.image ?? given.content?.value ?? null,
      }));
    case 'clearSlots':
      return edit.slots.map((address) => ({ of: slot(address, 'image'), value: null }));
    case 'linkImages':
      return edit.links.map(({ image, path }) => ({ of: ['link', image], value: path }));
    case 'unlinkImages':
      return edit.images.map((image) => ({ of: ['link', image], value: null }));
    case 'setAlpha':
      return edit.materials.flatMap((material) =>
        Object.entries(edit.change).map(([field, value]) => ({ of: [field, material], value })),
      );
    case 'renameMaterials':
      return edit.names.map(({ material, name }) => ({ of: ['name', material], value: name }));
    case 'numberMaterials':
      return edit.numbers.map(({ material, number }) => ({ of: ['number', material], value: number }));
    case 'bindNodes':
      return edit.nodes.map((node) => ({ of: ['material', node], value: edit.material }));
    case 'replaceMaterials':
      return edit.materials.map((material) => ({ of: ['all', material], value: edit.by.name }));
    case 'setIntake':
      return Object.entries(edit.choice).map(([field, value]) => ({ of: [field, 'the model'], value }));
    case 'editParts':
      return partSayings(edit.change);
    default:
      return [];
  }
}

/**
 * How a part is cut, grouped or turned can be said again on top; what holds alone is its name, its pivot and
 * its shape.
 */
function partSayings(change: Extract<Edit, { kind: 'editParts' }>['change']): Saying[] {
  if (change.do === 'rename')
    return change.names.map(({ part, name }) => ({ of: ['name', part], value: name }));
  if (change.do === 'pivot') return change.parts.map((part) => ({ of: ['pivot', part], value: change.at }));
  if (change.do === 'drop' || change.do === 'restore')
    return change.parts.map((part) => ({ of: ['presence', part], value: change.do }));
  if (change.do !== 'collision') return [];
  const { parts, do: _, ...shape } = change;
  return parts.map((part) => ({ of: ['collision', part], value: shape }));
}
