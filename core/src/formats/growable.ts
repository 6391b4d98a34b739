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
    if (this.length === this.values.length) {
      const wider = new Int32Array(this.values.length * 2);
      wider.set(this.values);
      this.values = wider;
    }
    this.values[this.length] = value;
    this.length += 1;
  }

  finish(): Int32Array {
    return this.values.slice(0, this.length);
  }
}
