/**
 * A short name for each path: its file name, and where several share one, as many of the folders above it as
 * tell them apart (`mr/hull_color.png`, `sg/hull_color.png`). Linear in the paths for names that are unique.
 */
export function distinctNames(paths: Iterable<string>): Map<string, string> {
  const byName = new Map<string, string[]>();
  for (const path of new Set(paths)) {
    const name = tail(path, 1);
    byName.set(name, [...(byName.get(name) ?? []), path]);
  }
  const names = new Map<string, string>();
  for (const [name, same] of byName) {
    if (same.length === 1) names.set(same[0], name);
    else for (const path of same) names.set(path, telling(path, same));
  }
  return names;
}

/** The shortest end of a path that no other path has. */
function telling(path: string, same: readonly string[]): string {
  const depth = path.split(/[\\/]/).length;
  for (let parts = 2; parts < depth; parts += 1) {
    const end = tail(path, parts);
    if (same.every((other) => other === path || tail(other, parts) !== end)) return end;
  }
  return path;
}

function tail(path: string, parts: number): string {
  return path.split(/[\\/]/).slice(-parts).join('/');
}
