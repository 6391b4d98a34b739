/**
 * Points at their places, so that one can ask which of them lies where; those nearer than the tolerance are
 * one.
 */
export class Cloud {
  /** x, y, z of each place. */
  readonly places: number[] = [];
  /** The last place of each cell, and for each place the one before it in its cell; -1 for none. */
  private readonly last = new Map<number, number>();
  private readonly before: number[] = [];
  private readonly side: number;

  constructor(private readonly tolerance: number) {
    // A cell is so large that most places lie in the midst of one.
    this.side = Math.max(tolerance, Number.MIN_VALUE * 1e20) * 8;
  }

  get size(): number {
    return this.places.length / 3;
  }

  /** Number of the place at a point, made where there is none yet. */
  add(x: number, y: number, z: number): number {
    const existing = this.find(x, y, z);
    if (existing >= 0) return existing;
    const index = this.size;
    this.places.push(x, y, z);
    const key = this.key(Math.floor(x / this.side), Math.floor(y / this.side), Math.floor(z / this.side));
    this.before.push(this.last.get(key) ?? -1);
    this.last.set(key, index);
    return index;
  }

  /**
   * The nearest place within the tolerance, or within another of at most twice that, or -1. Asked for every
   * corner, so that it makes no lists or functions of its own.
   */
  find(x: number, y: number, z: number, tolerance = this.tolerance): number {
    const { side, places } = this;
    const x0 = Math.floor((x - tolerance) / side);
    const y0 = Math.floor((y - tolerance) / side);
    const z0 = Math.floor((z - tolerance) / side);
    // A cell is larger than twice the tolerance, so that no more than two are met. Counted from 0, since far
    // out a number plus one is itself.
    const across = Math.min(1, Math.floor((x + tolerance) / side) - x0);
    const up = Math.min(1, Math.floor((y + tolerance) / side) - y0);
    const deep = Math.min(1, Math.floor((z + tolerance) / side) - z0);
    let best = -1;
    let nearest = tolerance * tolerance;
    for (let i = 0; i <= across; i += 1)
      for (let j = 0; j <= up; j += 1)
        for (let k = 0; k <= deep; k += 1)
          for (
            let index = this.last.get(this.key(x0 + i, y0 + j, z0 + k)) ?? -1;
            index >= 0;
            index = this.before[index]
          ) {
            const dx = places[index * 3] - x;
            const dy = places[index * 3 + 1] - y;
            const dz = places[index * 3 + 2] - z;
            const distance = dx * dx + dy * dy + dz * dz;
            if (distance > nearest) continue;
            best = index;
            nearest = distance;
          }
    return best;
  }

  /** All places within twice the tolerance. */
  near(x: number, y: number, z: number): number[] {
    const { side, places } = this;
    const reach = this.tolerance * 2;
    const cells = [x, y, z].map((value) => [
      ...new Set([Math.floor((value - reach) / side), Math.floor((value + reach) / side)]),
    ]);
    const found: number[] = [];
    for (const i of cells[0])
      for (const j of cells[1])
        for (const k of cells[2])
          for (let index = this.last.get(this.key(i, j, k)) ?? -1; index >= 0; index = this.before[index])
            if (
              Math.hypot(places[index * 3] - x, places[index * 3 + 1] - y, places[index * 3 + 2] - z) <=
                reach &&
              !found.includes(index)
            )
              found.push(index);
    return found;
  }

  private key(i: number, j: number, k: number): number {
    return (Math.imul(i, 73_856_093) ^ Math.imul(j, 19_349_663) ^ Math.imul(k, 83_492_791)) | 0;
  }
}
