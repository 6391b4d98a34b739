/**
 * A name safe for files and scenes anywhere: ASCII letters, digits, `_` and `-`; accents dropped, never
 * empty.
 */
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

interface UniqueNames {
  /** Names that go to nobody but the first who asks for just that. */
  kept?: ReadonlySet<string>;
  numbered?(name: string, number: number): string;
  /** What two names must not share. */
  keyOf?(name: string): string;
}

/**
 * Hands out names, each once: `Hull`, `Hull_2`. A second `Hull` does not take the name of a `Hull_2` that is
 * kept for a later one.
 */
export function createUnique({
  kept: reserved = new Set(),
  numbered = (name, number) => `${name}_${number}`,
  keyOf = (name) => name,
}: UniqueNames = {}): (name: string) => string {
  const taken = new Set<string>();
  const numbers = new Map<string, number>();
  return (name) => {
    let number = numbers.get(keyOf(name)) ?? 1;
    let unique = number === 1 ? name : numbered(name, number);
    while (taken.has(keyOf(unique)) || (number > 1 && reserved.has(keyOf(unique)))) {
      number += 1;
      unique = numbered(name, number);
    }
    numbers.set(keyOf(name), number);
    taken.add(keyOf(unique));
    return unique;
  };
}

/** The same with clean names, without regard to case. */
export function createNamer(reserved: readonly string[] = []): (name: string, fallback?: string) => string {
  const keyOf = (name: string) => name.toLowerCase();
  const unique = createUnique({ kept: new Set(reserved.map((name) => keyOf(cleanName(name, '')))), keyOf });
  return (name, fallback) => unique(cleanName(name, fallback));
}
