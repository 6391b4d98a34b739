/** The same answer for the same thing, worked out when it is first asked for. */
export function remember<K, V>(work: (key: K) => V): (key: K) => V {
  const existing = new Map<K, V>();
  return (key) => {
    if (!existing.has(key)) existing.set(key, work(key));
    return existing.get(key) as V;
  };
}

/** What is worked out when it is first asked for, and kept. */
export function once<T>(work: () => T): () => T {
  let made: { value: T } | null = null;
  return () => {
    made ??= { value: work() };
    return made.value;
  };
}
