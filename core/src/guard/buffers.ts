/**
 * Buffers that are worth handing over instead of copying; small ones may be slices of a pool that others use.
 */
const WORTH_MOVING = 65_536;

/** All large buffers that a value holds, each once. */
export function buffersOf(value: unknown): ArrayBuffer[] {
  const buffers = new Set<ArrayBuffer>();
  const seen = new Set<object>();
  const visit = (value: unknown) => {
    if (typeof value !== 'object' || value === null || seen.has(value)) return;
    seen.add(value);
    if (ArrayBuffer.isView(value)) {
      if (value.buffer instanceof ArrayBuffer && value.buffer.byteLength >= WORTH_MOVING)
        buffers.add(value.buffer);
      return;
    }
    for (const child of value instanceof Map || value instanceof Set ? value.values() : Object.values(value))
      visit(child);
  };
  visit(value);
  return [...buffers];
}
