/**
 * Paths by a hash of what they are looked up by: one table of numbers, with nothing made for each path. Who looks
 * something up tells apart what shares a hash.
 */
export class PathTable {
  private readonly hashes: Int32Array;
  /** The first path of each bucket and the next one of each path, by number; -1 where there is none. */
  private readonly heads: Int32Array;
  private readonly next: Int32Array;

  /** Paths without a hash are not in it. */
  constructor(
    private readonly paths: readonly string[],
    hashOf: (path: string) => number | null,
  ) {
    this.hashes = new Int32Array(paths.length);
    this.next = new Int32Array(paths.length);
    this.heads = new Int32Array(2 ** Math.ceil(Math.log2(paths.length + 1) + 1)).fill(-1);
    // From the last on, so that the paths of a bucket come in their order.
    for (let i = paths.length - 1; i >= 0; i -= 1) {
      const hash = hashOf(paths[i]);
      if (hash === null) continue;
      const bucket = hash & (this.heads.length - 1);
      this.hashes[i] = hash;
      this.next[i] = this.heads[bucket];
      this.heads[bucket] = i;
    }
  }

  /** Paths of this hash, in their order. */
  get(hash: number): string[] {
    const found: string[] = [];
    for (let i = this.heads[hash & (this.heads.length - 1)]; i >= 0; i = this.next[i])
      if (this.hashes[i] === hash) found.push(this.paths[i]);
    return found;
  }
}
