/** What makes one keyed list of another: some go, then others are put in at their places, in order. */
export interface KeyedDelta<T> {
  gone: string[];
  put: { index: number; item: T }[];
}

/**
 * The difference between two lists of plain JSON whose items have keys; null where they are equal. What
 * stayed but for its order goes and is put in again. Costs one pass and the JSON of both.
 */
export function deltaOf<T>(
  before: readonly T[],
  after: readonly T[],
  keyOf: (item: T) => string,
): KeyedDelta<T> | null {
  const texts = new Map(before.map((item) => [keyOf(item), JSON.stringify(item)]));
  const same = new Set(after.filter((item) => texts.get(keyOf(item)) === JSON.stringify(item)).map(keyOf));
  const keptKeys = inOrder(
    before.map(keyOf).filter((key) => same.has(key)),
    after.map(keyOf),
  );
  const gone = before.map(keyOf).filter((key) => !keptKeys.has(key));
  const put = after.flatMap((item, index) => (keptKeys.has(keyOf(item)) ? [] : [{ index, item }]));
  return gone.length + put.length === 0 ? null : { gone, put };
}

/**
 * Keys of the first list that also follow each other in the second; greedily, so not always as many as could
 * be.
 */
function inOrder(first: readonly string[], second: readonly string[]): Set<string> {
  const places = new Map(second.map((key, index) => [key, index]));
  const keptKeys = new Set<string>();
  let last = -1;
  for (const key of first) {
    const index = places.get(key) ?? -1;
    if (index <= last) continue;
    keptKeys.add(key);
    last = index;
  }
  return keptKeys;
}

/** The list after a delta; `before` itself where there is none. */
export function applyDelta<T>(
  before: readonly T[],
  delta: KeyedDelta<T> | null,
  keyOf: (item: T) => string,
): T[] {
  if (!delta) return before as T[];
  const gone = new Set(delta.gone);
  const list = before.filter((item) => !gone.has(keyOf(item)));
  for (const { index, item } of delta.put) list.splice(index, 0, item);
  return list;
}
