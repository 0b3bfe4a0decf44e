import { FormatError } from '../faults';

export type Endianness = 'little' | 'big';

/**
 * A synchronous reader over fetched bytes. `position` counts from the start of `bytes`; faults carry `base + position`,
 * so that they point into the file (or the plain region) the bytes came from.
 */
export class Cursor {
  position = 0;
  private readonly view: DataView;

  constructor(
    readonly bytes: Uint8Array,
    readonly base = 0,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  get offset(): number {
    return this.base + this.position;
  }

  get left(): number {
    return this.bytes.length - this.position;
  }

  /** Moves on by `length` bytes and returns where they began. */
  advance(length: number): number {
    const start = this.position;
    if (length < 0 || length > this.bytes.length - start) {
      throw new FormatError({
        code: 'cut-short',
        offset: this.offset,
        expected: `${length.toLocaleString('en')} more bytes`,
        found: `${this.left.toLocaleString('en')}`,
      });
    }
    this.position = start + length;
    return start;
  }

  /** A view of the next `length` bytes. */
  take(length: number): Uint8Array {
    const start = this.advance(length);
    return this.bytes.subarray(start, start + length);
  }

  u8(): number {
    return this.view.getUint8(this.advance(1));
  }
  i8(): number {
    return this.view.getInt8(this.advance(1));
  }
  u16(little: boolean): number {
    return this.view.getUint16(this.advance(2), little);
  }
  i16(little: boolean): number {
    return this.view.getInt16(this.advance(2), little);
  }
  u32(little: boolean): number {
    return this.view.getUint32(this.advance(4), little);
  }
  i32(little: boolean): number {
    return this.view.getInt32(this.advance(4), little);
  }
  f32(little: boolean): number {
    return this.view.getFloat32(this.advance(4), little);
  }
  f64(little: boolean): number {
    return this.view.getFloat64(this.advance(8), little);
  }

  /** A number while it is exact, else a bigint: 64-bit hashes keep every bit, 64-bit offsets stay cheap. */
  u64(little: boolean): number | bigint {
    const at = this.advance(8);
    const high = this.view.getUint32(little ? at + 4 : at, little);
    if (high < 0x200000) return high * 0x100000000 + this.view.getUint32(little ? at : at + 4, little);
    return this.view.getBigUint64(at, little);
  }
  i64(little: boolean): number | bigint {
    const value = this.view.getBigInt64(this.advance(8), little);
    const small = Number(value);
    return Number.isSafeInteger(small) ? small : value;
  }
}
