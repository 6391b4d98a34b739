/**
 * Buffers that are worth handing over instead of copying; small ones may be slices of a pool that others use.
 */
const WORTH_MOVING = 65_536;

/** All large buffers that a value holds, each once. */
export function buffersOf(value: unknown): ArrayBuffer[] {
  const found = new Set<ArrayBuffer>();
  const seen = new Set<object>();
  const visit = (one: unknown) => {
    if (typeof one !== 'object' || one === null || seen.has(one)) return;
    seen.add(one);
    if (ArrayBuffer.isView(one)) {
      if (one.buffer instanceof ArrayBuffer && one.buffer.byteLength >= WORTH_MOVING) found.add(one.buffer);
      return;
    }
    for (const child of one instanceof Map || one instanceof Set ? one.values() : Object.values(one))
      visit(child);
  };
  visit(value);
  return [...found];
}
