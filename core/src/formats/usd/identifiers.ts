/** A name as USD allows it for prims and properties: letters, digits and underscores, not starting with a digit. */
export function cleanIdentifier(name: string, fallback: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .replace(/^_+(?=[A-Za-z])|_+$/g, '');
  const safe = /^[0-9]/.test(plain) ? `_${plain}` : plain;
  return safe === '' || /^_+$/.test(safe) ? fallback : safe;
}

/** Hands out identifiers, each once; those that are `reserved` only to the first who asks for just that. */
export function createIdentifiers(reserved: readonly string[] = []): (name: string, fallback?: string) => string {
  const taken = new Set<string>();
  const kept = new Set(reserved.map((name) => cleanIdentifier(name, '')));
  return (name, fallback = 'part') => {
    const clean = cleanIdentifier(name, fallback);
    let unique = clean;
    for (let i = 2; taken.has(unique) || (i > 2 && kept.has(unique)); i += 1) unique = `${clean}_${i}`;
    taken.add(unique);
    return unique;
  };
}
