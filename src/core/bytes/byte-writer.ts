/** Writes values one after the other into memory that grows. */
export class ByteWriter {
  private buffer = new Uint8Array(1024);
  private view = new DataView(this.buffer.buffer);
  length = 0;

  /** Everything written so far, as a view that the next write may outdate. */
  bytes(): Uint8Array {
    return this.buffer.subarray(0, this.length);
  }

  put(bytes: Uint8Array): void {
    const at = this.grow(bytes.length);
    this.buffer.set(bytes, at);
  }
  fill(length: number, value: number): void {
    const at = this.grow(length);
    this.buffer.fill(value, at, at + length);
  }
  u8(value: number): void {
    const at = this.grow(1);
    this.buffer[at] = value;
  }
  u16(value: number, little: boolean): void {
    const at = this.grow(2);
    this.view.setUint16(at, value, little);
  }
  u32(value: number, little: boolean): void {
    const at = this.grow(4);
    this.view.setUint32(at, value, little);
  }
  u64(value: number | bigint, little: boolean): void {
    const at = this.grow(8);
    this.view.setBigUint64(at, BigInt.asUintN(64, BigInt(value)), little);
  }
  f32(value: number, little: boolean): void {
    const at = this.grow(4);
    this.view.setFloat32(at, value, little);
  }
  f64(value: number, little: boolean): void {
    const at = this.grow(8);
    this.view.setFloat64(at, value, little);
  }

  private grow(length: number): number {
    const at = this.length;
    const needed = at + length;
    if (needed > this.buffer.length) {
      const larger = new Uint8Array(Math.max(needed, this.buffer.length * 2));
      larger.set(this.buffer.subarray(0, at));
      this.buffer = larger;
      this.view = new DataView(larger.buffer);
    }
    this.length = needed;
    return at;
  }
}
