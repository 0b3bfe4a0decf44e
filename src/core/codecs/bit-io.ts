/** Bits within bytes, from the lowest of each byte (as DEFLATE has them) or from the highest. */
import { broken } from './own-fault';

/** Which bit of a byte is the first. */
export type BitOrder = 'low' | 'high';

/** Reads numbers of up to 25 bits. */
export class BitReader {
  private held = 0;
  private count = 0;
  constructor(
    private readonly bytes: Uint8Array,
    private readonly order: BitOrder,
    private readonly name: string,
    private at = 0,
  ) {}

  /** @throws FormatError `codec-failed` behind the last bit */
  bits(count: number): number {
    while (this.count < count) {
      const byte = this.bytes[this.at++];
      if (byte === undefined) throw broken(this.name, 'the stretch ends within a code', this.bytes.length);
      this.held = this.order === 'low' ? this.held | (byte << this.count) : ((this.held << 8) | byte) >>> 0;
      this.count += 8;
    }
    this.count -= count;
    if (this.order === 'low') {
      const value = this.held & ((1 << count) - 1);
      this.held >>>= count;
      return value;
    }
    const value = (this.held >>> this.count) & ((1 << count) - 1);
    this.held &= (1 << this.count) - 1;
    return value;
  }
  /** The same from whole bytes on: what is left of the present byte is skipped. */
  toByte(): void {
    const whole = this.count >> 3;
    this.at -= whole;
    this.held = 0;
    this.count = 0;
  }
  /** Bytes as they stand, from a whole byte on. @throws FormatError `codec-failed` when there are fewer */
  take(length: number): Uint8Array {
    this.toByte();
    if (this.at + length > this.bytes.length) throw broken(this.name, 'bytes run over the end of the stretch', this.at);
    this.at += length;
    return this.bytes.subarray(this.at - length, this.at);
  }
  /** The byte at which the next bit is. */
  get place(): number {
    return Math.min(this.bytes.length, this.at - (this.count >> 3));
  }
}

/** Writes numbers of up to 25 bits. */
export class BitWriter {
  private bytes = new Uint8Array(1024);
  private length = 0;
  private held = 0;
  private count = 0;
  constructor(private readonly order: BitOrder) {}

  bits(value: number, count: number): void {
    this.held = this.order === 'low' ? this.held | (value << this.count) : (this.held << count) | value;
    this.count += count;
    while (this.count >= 8) {
      if (this.order === 'low') {
        this.byte(this.held & 0xff);
        this.held >>>= 8;
        this.count -= 8;
      } else {
        this.count -= 8;
        this.byte((this.held >>> this.count) & 0xff);
        this.held &= (1 << this.count) - 1;
      }
    }
  }
  /** Zeros up to the end of the byte, and all bytes. */
  finish(): Uint8Array {
    if (this.count > 0) this.bits(0, 8 - this.count);
    return this.bytes.slice(0, this.length);
  }
  private byte(value: number): void {
    if (this.length === this.bytes.length) {
      const larger = new Uint8Array(this.length * 2);
      larger.set(this.bytes);
      this.bytes = larger;
    }
    this.bytes[this.length++] = value;
  }
}
