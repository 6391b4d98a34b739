/** A name safe for files and scenes anywhere: ASCII letters, digits, `_` and `-`; accents dropped, never empty. */
export function cleanName(name: string, fallback = 'part'): string {
  const ascii = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replaceAll('ß', 'ss')
    .replace(/[^A-Za-z0-9_-]+/g, '_')
    .replace(/_{2,}/g, '_')
    .replace(/^_+|_+$/g, '');
  return ascii.slice(0, 120) || fallback;
}

/**
 * Hands out clean names, each once, without regard to case: `Hull`, `Hull_2`. Names that are `reserved` go to nobody but
 * the first who asks for just that, so that a second `Hull` does not take the name of a `Hull_2` that comes later.
 */
export function createNamer(reserved: readonly string[] = []): (name: string, fallback?: string) => string {
  const taken = new Set<string>();
  const kept = new Set(reserved.map((name) => cleanName(name, '').toLowerCase()));
  return (name, fallback) => {
    const clean = cleanName(name, fallback);
    let unique = clean;
    for (let i = 2; taken.has(unique.toLowerCase()) || (i > 2 && kept.has(unique.toLowerCase())); i += 1) unique = `${clean}_${i}`;
    taken.add(unique.toLowerCase());
    return unique;
  };
}
