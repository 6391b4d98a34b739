/** Several lists of numbers one after the other. */
export function concatenated(lists: readonly Float64Array[]): Float64Array {
  const out = new Float64Array(lists.reduce((sum, { length }) => sum + length, 0));
  let index = 0;
  for (const list of lists) {
    out.set(list, index);
    index += list.length;
  }
  return out;
}
