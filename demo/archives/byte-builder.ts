/** Bytes one after the other: for writers of archives that share nothing with the engine they test. */
export class ByteBuilder {
  private parts: Buffer[] = [];
  length = 0;

  constructor(private readonly little = true) {}

  raw(bytes: Uint8Array): this {
    this.parts.push(Buffer.from(bytes));
    this.length += bytes.length;
    return this;
  }
  private number(size: number, put: (bytes: Buffer) => void): this {
    const bytes = Buffer.alloc(size);
    put(bytes);
    return this.raw(bytes);
  }
  u8(value: number): this {
    return this.number(1, (b) => b.writeUInt8(value));
  }
  u16(value: number): this {
    return this.number(2, (b) => (this.little ? b.writeUInt16LE(value) : b.writeUInt16BE(value)));
  }
  u24(value: number): this {
    return this.number(3, (b) => (this.little ? b.writeUIntLE(value, 0, 3) : b.writeUIntBE(value, 0, 3)));
  }
  u32(value: number): this {
    return this.number(4, (b) => (this.little ? b.writeUInt32LE(value >>> 0) : b.writeUInt32BE(value >>> 0)));
  }
  u64(value: number | bigint): this {
    return this.number(8, (b) => (this.little ? b.writeBigUInt64LE(BigInt(value)) : b.writeBigUInt64BE(BigInt(value))));
  }
  f32(value: number): this {
    return this.number(4, (b) => (this.little ? b.writeFloatLE(value) : b.writeFloatBE(value)));
  }
  varint(value: number): this {
    let left = value;
    const bytes: number[] = [];
    do {
      bytes.push((left & 0x7f) | (left > 0x7f ? 0x80 : 0));
      left = Math.floor(left / 128);
    } while (left > 0);
    return this.raw(Uint8Array.from(bytes));
  }
  text(value: string, encoding: BufferEncoding = 'utf8'): this {
    return this.raw(Buffer.from(value, encoding));
  }
  textZ(value: string): this {
    return this.text(value).u8(0);
  }
  /** A text in a field of fixed size. */
  fixed(value: string, size: number): this {
    return this.text(value).fill(size - Buffer.byteLength(value));
  }
  i64(value: bigint): this {
    return this.u64(BigInt.asUintN(64, value));
  }
  /** A text with its length in one byte in front. */
  text8(value: string): this {
    return this.u8(Buffer.byteLength(value)).text(value);
  }
  fill(length: number, byte = 0): this {
    return this.raw(Buffer.alloc(length, byte));
  }
  align(step: number, byte = 0): this {
    return this.fill((step - (this.length % step)) % step, byte);
  }
  bytes(): Uint8Array {
    return new Uint8Array(Buffer.concat(this.parts));
  }
}
