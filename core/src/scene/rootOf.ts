/** The one that stands for all that were joined with it; the way there is shortened for the next who asks. */
export function rootOf(parent: Uint32Array, index: number): number {
  let top = index;
  while (parent[top] !== top) top = parent[top];
  for (let step = index; parent[step] !== top; ) {
    const next = parent[step];
    parent[step] = top;
    step = next;
  }
  return top;
}
