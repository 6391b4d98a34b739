export const FLOAT = 5126;
export const BYTES = 5121;
export const SHORTS = 5123;
const WIDTH: Record<number, number> = { [FLOAT]: 4, [BYTES]: 1, [SHORTS]: 2 };
const LETTERS: Record<number, string> = { 1: 'SCALAR', 2: 'VEC2', 3: 'VEC3', 4: 'VEC4', 16: 'MAT4' };

/** The buffer of a glTF, number by number, with what tells of its places. */
export class GltfBytes {
  readonly bytes: number[] = [];
  readonly accessors: object[] = [];
  readonly bufferViews: object[] = [];

  /** Rows of numbers at the end of the buffer; told by the accessor's number. */
  accessor(rows: readonly (readonly number[])[], type = FLOAT, normalized = false): number {
    const ends = (pick: (...values: number[]) => number) =>
      rows[0].map((_, k) => pick(...rows.map((row) => (type === FLOAT ? Math.fround(row[k]) : row[k]))));
    this.accessors.push({
      bufferView: this.view(rows, type),
      componentType: type,
      count: rows.length,
      type: LETTERS[rows[0].length],
      ...(normalized ? { normalized } : {}),
      min: ends(Math.min),
      max: ends(Math.max),
    });
    return this.accessors.length - 1;
  }

  view(rows: readonly (readonly number[])[], type: number): number {
    while (this.bytes.length % 4 !== 0) this.bytes.push(0);
    const start = this.bytes.length;
    const data = new DataView(new ArrayBuffer(rows.flat().length * WIDTH[type]));
    rows.flat().forEach((value, i) => {
      if (type === FLOAT) data.setFloat32(i * 4, value, true);
      else if (type === BYTES) data.setUint8(i, value);
      else data.setUint16(i * 2, value, true);
    });
    this.bytes.push(...new Uint8Array(data.buffer));
    this.bufferViews.push({ buffer: 0, byteOffset: start, byteLength: data.byteLength });
    return this.bufferViews.length - 1;
  }
}
