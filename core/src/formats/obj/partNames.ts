/**
 * The names of parts in OBJ, which has each once: a second `Bolt` is called `Bolt (2)`, unless another part is called so by
 * itself.
 */
export function objPartNames(names: readonly string[]): string[] {
  const kept = new Set(names);
  const taken = new Set<string>();
  return names.map((name) => {
    let unique = name;
    for (let i = 2; taken.has(unique) || (i > 2 && kept.has(unique)); i += 1) unique = `${name} (${i})`;
    taken.add(unique);
    return unique;
  });
}
