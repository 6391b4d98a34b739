/**
 * What a table says of a word of a file: only its own entries, since `constructor` and its like are words as
 * well.
 */
export function own<T>(table: Readonly<Partial<Record<string, T>>>, word: string): T | undefined {
  return Object.hasOwn(table, word) ? table[word] : undefined;
}
