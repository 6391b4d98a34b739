/** Points at their places, so that one can ask which of them lies where; those nearer than the tolerance are one. */
export class Cloud {
  /** x, y, z of each place. */
  readonly places: number[] = [];
  private readonly cells = new Map<number, number[]>();
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
    const known = this.find(x, y, z);
    if (known >= 0) return known;
    const index = this.size;
    this.places.push(x, y, z);
    const key = this.key(Math.floor(x / this.side), Math.floor(y / this.side), Math.floor(z / this.side));
    const cell = this.cells.get(key);
    if (cell) cell.push(index);
    else this.cells.set(key, [index]);
    return index;
  }

  /** The nearest place within the tolerance, or -1. */
  find(x: number, y: number, z: number): number {
    let [best, nearest] = [-1, this.tolerance * this.tolerance];
    const [x0, x1] = this.span(x);
    const [y0, y1] = this.span(y);
    const [z0, z1] = this.span(z);
    for (let i = x0; i <= x1; i += 1)
      for (let j = y0; j <= y1; j += 1)
        for (let k = z0; k <= z1; k += 1) {
          for (const index of this.cells.get(this.key(i, j, k)) ?? []) {
            const at = index * 3;
            const distance = (this.places[at] - x) ** 2 + (this.places[at + 1] - y) ** 2 + (this.places[at + 2] - z) ** 2;
            if (distance <= nearest) [best, nearest] = [index, distance];
          }
        }
    return best;
  }

  private span(value: number): [number, number] {
    return [Math.floor((value - this.tolerance) / this.side), Math.floor((value + this.tolerance) / this.side)];
  }

  private key(i: number, j: number, k: number): number {
    return (Math.imul(i, 73_856_093) ^ Math.imul(j, 19_349_663) ^ Math.imul(k, 83_492_791)) | 0;
  }
}
