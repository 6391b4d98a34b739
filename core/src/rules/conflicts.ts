import type { Edit, SlotAddress } from '../asset/asset.ts';
import type { RuleOutcome } from './applyRules.ts';

/** Two rules that say otherwise of the same; the later one holds. */
export interface RuleConflict {
  rule: string;
  over: string;
  /** What both speak of, in words. */
  about: string;
}

/** Something that an edit says: of what, in words, and what. */
interface Saying {
  about: string;
  value: unknown;
}

/** What rules say of one asset that an earlier one said otherwise, each pair of rules once for each thing. */
export function conflictsIn(outcomes: readonly RuleOutcome[]): RuleConflict[] {
  const said = new Map<string, { rule: string; value: string }>();
  const conflicts: RuleConflict[] = [];
  for (const { rule, edits } of outcomes) {
    for (const { about, value } of edits.flatMap(sayingsOf)) {
      const before = said.get(about);
      const text = JSON.stringify(value) ?? '';
      if (before && before.rule !== rule && before.value !== text) conflicts.push({ rule, over: before.rule, about });
      said.set(about, { rule, value: text });
    }
  }
  return conflicts;
}

const slot = ({ material, channel }: SlotAddress, what: string) => `${what} of ${material}, ${channel}`;

/** An image that is assigned brings a tag and a direction along, which a rule about tags is free to set: these are no part of it. */
function sayingsOf(edit: Edit): Saying[] {
  switch (edit.kind) {
    case 'setValues':
      return edit.slots.map((address) => ({ about: slot(address, 'value'), value: edit.value }));
    case 'adjustSlots':
      return edit.slots.flatMap((address) => Object.entries(edit.change).map(([field, value]) => ({ about: slot(address, field), value })));
    case 'assignSlots':
      return [
        ...edit.assignments.map((given) => ({ about: slot(given, 'image'), value: [given.image, given.component, given.invert] })),
        ...(edit.clears ?? []).map((address) => ({ about: slot(address, 'image'), value: null })),
      ];
    case 'pasteSlots':
      return edit.slots.map((given) => ({ about: slot(given, 'image'), value: given.content?.map?.image ?? given.content?.value ?? null }));
    case 'clearSlots':
      return edit.slots.map((address) => ({ about: slot(address, 'image'), value: null }));
    case 'linkImages':
      return edit.links.map(({ image, path }) => ({ about: `link of ${image}`, value: path }));
    case 'unlinkImages':
      return edit.images.map((image) => ({ about: `link of ${image}`, value: null }));
    case 'setAlpha':
      return edit.materials.flatMap((material) => Object.entries(edit.change).map(([field, value]) => ({ about: `${field} of ${material}`, value })));
    case 'renameMaterials':
      return edit.names.map(({ material, name }) => ({ about: `name of ${material}`, value: name }));
    case 'numberMaterials':
      return edit.numbers.map(({ material, number }) => ({ about: `number of ${material}`, value: number }));
    case 'bindNodes':
      return edit.nodes.map((node) => ({ about: `material of ${node}`, value: edit.material }));
    case 'replaceMaterials':
      return edit.materials.map((material) => ({ about: `all of ${material}`, value: edit.by.name }));
    case 'setIntake':
      return Object.entries(edit.choice).map(([field, value]) => ({ about: `${field} of the model`, value }));
    case 'editParts':
      return partSayings(edit.change);
    default:
      return [];
  }
}

/** How a part is cut, grouped or turned can be said again on top; what holds alone is its name, its pivot and its shape. */
function partSayings(change: Extract<Edit, { kind: 'editParts' }>['change']): Saying[] {
  if (change.do === 'rename') return change.names.map(({ part, name }) => ({ about: `name of ${part}`, value: name }));
  if (change.do === 'pivot') return change.parts.map((part) => ({ about: `pivot of ${part}`, value: change.at }));
  if (change.do === 'drop' || change.do === 'restore') return change.parts.map((part) => ({ about: `presence of ${part}`, value: change.do }));
  if (change.do !== 'collision') return [];
  const { parts, do: _, ...shape } = change;
  return parts.map((part) => ({ about: `collision of ${part}`, value: shape }));
}
