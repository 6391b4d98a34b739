import { createUnique } from '../../parcel/names.ts';

/**
 * The names of parts in OBJ, which has each once: a second `Bolt` is called `Bolt (2)`, unless another part
 * is called so by itself.
 */
export function objPartNames(names: readonly string[]): string[] {
  return names.map(createUnique({ kept: new Set(names), numbered: (name, number) => `${name} (${number})` }));
}
