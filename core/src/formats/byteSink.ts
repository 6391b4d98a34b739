/** Bytes that grow by doubling, little-endian. */
export class ByteSink {
  length = 0;
  private buffer = new Uint8Array(1 << 16);
  private view = new DataView(this.buffer.buffer);

  u8(value: number): void {
    this.reserve(1);
    this.buffer[this.length] = value;
    this.length += 1;
  }

  u32(value: number): void {
    this.reserve(4);
    this.view.setUint32(this.length, value, true);
    this.length += 4;
  }

  u64(value: number | bigint): void {
    this.reserve(8);
    this.view.setBigUint64(this.length, BigInt(value), true);
    this.length += 8;
  }

  f64(value: number): void {
    this.reserve(8);
    this.view.setFloat64(this.length, value, true);
    this.length += 8;
  }

  /** A number of so many bytes, set by the caller in the byte order it chooses. */
  number(size: number, set: (view: DataView, offset: number) => void): void {
    this.reserve(size);
    set(this.view, this.length);
    this.length += size;
  }

  bytes(values: Uint8Array): void {
    this.reserve(values.length);
    this.buffer.set(values, this.length);
    this.length += values.length;
  }

  /** One byte per character. */
  text(characters: string): void {
    this.reserve(characters.length);
    for (let i = 0; i < characters.length; i += 1) this.buffer[this.length + i] = characters.charCodeAt(i);
    this.length += characters.length;
  }

  zeros(count: number): void {
    this.reserve(count);
    this.buffer.fill(0, this.length, this.length + count);
    this.length += count;
  }

  align(to: number): void {
    this.zeros((to - (this.length % to)) % to);
  }

  patchU32(offset: number, value: number): void {
    this.view.setUint32(offset, value, true);
  }

  patchU64(offset: number, value: number): void {
    this.view.setBigUint64(offset, BigInt(value), true);
  }

  finish(): Uint8Array {
    return this.buffer.slice(0, this.length);
  }

  private reserve(count: number): void {
    if (this.length + count <= this.buffer.length) return;
    const wider = new Uint8Array(Math.max(this.buffer.length * 2, this.length + count));
    wider.set(this.buffer.subarray(0, this.length));
    this.buffer = wider;
    this.view = new DataView(wider.buffer);
  }
}
