import { createUnique } from '../../parcel/names.ts';

/**
 * A name as USD allows it for prims and properties: letters, digits and underscores, not starting with a
 * digit.
 */
export function cleanIdentifier(name: string, fallback: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .replace(/^_+(?=[A-Za-z])|_+$/g, '');
  const safe = /^[0-9]/.test(plain) ? `_${plain}` : plain;
  return safe === '' || /^_+$/.test(safe) ? fallback : safe;
}

/** Names as identifiers, to be kept for those who have them. */
export function identifiersOf(items: readonly { name: string }[]): ReadonlySet<string> {
  return new Set(items.map(({ name }) => cleanIdentifier(name, '')));
}

/** Hands out identifiers, each once; those that are `kept` only to the first who asks for just that. */
export function createIdentifiers(
  reserved?: ReadonlySet<string>,
): (name: string, fallback?: string) => string {
  const unique = createUnique({ kept: reserved });
  return (name, fallback = 'part') => unique(cleanIdentifier(name, fallback));
}
