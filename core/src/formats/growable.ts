/** A Float64Array that grows by doubling. */
export class FloatList {
  values: Float64Array;
  length = 0;

  constructor(capacity = 1024) {
    this.values = new Float64Array(capacity);
  }

  push(value: number): void {
    if (this.length === this.values.length) this.grow();
    this.values[this.length] = value;
    this.length += 1;
  }

  /** Three values with one look at the room. */
  pushThree(x: number, y: number, z: number): void {
    if (this.length + 3 > this.values.length) this.grow();
    const { values, length } = this;
    values[length] = x;
    values[length + 1] = y;
    values[length + 2] = z;
    this.length = length + 3;
  }

  /** The values without spare room. */
  finish(): Float64Array {
    return this.values.slice(0, this.length);
  }

  private grow(): void {
    const wider = new Float64Array(this.values.length * 2);
    wider.set(this.values);
    this.values = wider;
  }
}

/** An Int32Array that grows by doubling. */
export class IntList {
  values: Int32Array;
  length = 0;

  constructor(capacity = 1024) {
    this.values = new Int32Array(capacity);
  }

  push(value: number): void {
    if (this.length === this.values.length) this.grow();
    this.values[this.length] = value;
    this.length += 1;
  }

  /** Three values with one look at the room. */
  pushThree(first: number, second: number, third: number): void {
    if (this.length + 3 > this.values.length) this.grow();
    const { values, length } = this;
    values[length] = first;
    values[length + 1] = second;
    values[length + 2] = third;
    this.length = length + 3;
  }

  finish(): Int32Array {
    return this.values.slice(0, this.length);
  }

  private grow(): void {
    const wider = new Int32Array(this.values.length * 2);
    wider.set(this.values);
    this.values = wider;
  }
}
