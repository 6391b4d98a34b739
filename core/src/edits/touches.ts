import type { Edit, SlotAddress } from '../asset/asset.ts';
import { partsTouched } from '../scene/partChange.ts';

/**
 * What an edit changes, as addresses: `slot MATERIAL CHANNEL`, `material KEY` (all of it), `alpha KEY`,
 * `image KEY`, `node KEY` and `intake`, their parts as JSON so that no name can look like another. Two edits
 * whose addresses do not {@link overlap} give the same state in either order.
 */
export type Address = string;

const slot = ({ material, channel }: SlotAddress): Address => JSON.stringify(['slot', material, channel]);
const material = (key: string): Address => JSON.stringify(['material', key]);

/** What an edit changes, as addresses: edits that share none can be taken in any order. */
export function touchesOf(edit: Edit): Address[] {
  switch (edit.kind) {
    case 'linkImages':
      return edit.links.map(({ image }) => JSON.stringify(['image', image]));
    case 'unlinkImages':
      return edit.images.map((key) => JSON.stringify(['image', key]));
    case 'assignSlots':
      return [...edit.assignments, ...(edit.clears ?? [])]
        .map(slot)
        .concat((edit.workflows ?? []).map((change) => material(change.material)));
    case 'pasteSlots':
      return edit.slots.map(slot).concat((edit.workflows ?? []).map((change) => material(change.material)));
    case 'adjustSlots':
    case 'clearSlots':
    case 'unmapSlots':
    case 'setValues':
      return edit.slots.map(slot);
    case 'addMaterials':
      return edit.materials.map(({ name }) => material(name));
    case 'replaceMaterials':
      return edit.materials.map(material);
    case 'bindNodes':
      return edit.nodes.map((key) => JSON.stringify(['node', key]));
    case 'editParts':
      return partsTouched(edit.change).map((key) => JSON.stringify(['node', key]));
    case 'mergeMaterials':
      return [...edit.materials, edit.into].map(material);
    case 'dropMaterials':
      return edit.materials.map(material);
    case 'renameMaterials':
      return edit.names.map((named) => material(named.material));
    case 'numberMaterials':
      return edit.numbers.map((numbered) => material(numbered.material));
    case 'setIntake':
      return [JSON.stringify(['intake'])];
    case 'setAlpha': {
      const opacity = edit.change.opacity !== undefined;
      return edit.materials.flatMap((key) => [
        JSON.stringify(['alpha', key]),
        ...(opacity ? [slot({ material: key, channel: 'opacity' })] : []),
      ]);
    }
  }
}

/** Whether two sets of addresses have something in common; a whole material holds its slots and its alpha. */
export function overlap(first: readonly Address[], second: readonly Address[]): boolean {
  const others = new Set(second);
  return (
    first.some((address) => others.has(address)) || holdsPartOf(first, second) || holdsPartOf(second, first)
  );
}

function holdsPartOf(addresses: readonly Address[], others: readonly Address[]): boolean {
  const wholes = new Set(addresses.filter(isWhole));
  return wholes.size > 0 && others.some((address) => wholes.has(wholeOf(address)));
}

function isWhole(address: Address): boolean {
  return address.startsWith('["material"');
}

/** The whole of which an address is a part; itself where there is none. */
function wholeOf(address: Address): Address {
  const [what, key] = JSON.parse(address) as string[];
  return what === 'slot' || what === 'alpha' ? material(key) : address;
}
