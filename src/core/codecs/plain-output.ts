/** Plain bytes in the making: grown as they come, never beyond what is promised or allowed, and copied from themselves. */
import type { CodecContext } from './codec';
import { broken } from './own-fault';
import { checkedSize, overLimit, tooLong } from './plain-size';

const FIRST_BYTES = 1 << 16;

export class PlainOutput {
  private bytes: Uint8Array;
  length = 0;
  constructor(
    private readonly name: string,
    private readonly context: CodecContext,
  ) {
    this.bytes = new Uint8Array(Math.min(context.plainSize ?? FIRST_BYTES, context.maxPlainBytes, 1 << 26));
  }
  /** True when the promised bytes are there. */
  get isFull(): boolean {
    return this.length === this.context.plainSize;
  }
  byte(value: number): void {
    this.room(1);
    this.bytes[this.length++] = value;
  }
  put(bytes: Uint8Array): void {
    this.room(bytes.length);
    this.bytes.set(bytes, this.length);
    this.length += bytes.length;
  }
  /**
   * Bytes from `distance` before on, which may run into those that it makes.
   *
   * @param fill the byte that is before the first; without it, nothing does
   * @param at the place in the stretch that asks for it, for faults
   */
  copy(distance: number, length: number, at: number, fill?: number): void {
    if (distance > this.length && fill === undefined)
      throw broken(this.name, 'a match begins before the plain bytes', at);
    this.room(length);
    const { bytes } = this;
    let from = this.length - distance;
    for (let i = 0; i < length; i++, from++) bytes[this.length++] = from < 0 ? fill! : bytes[from]!;
  }
  /** @throws FormatError `size-differs` when fewer than promised */
  finish(): Uint8Array {
    return checkedSize(this.bytes.subarray(0, this.length), this.name, this.context);
  }

  private room(count: number): void {
    const needed = this.length + count;
    const { plainSize, maxPlainBytes } = this.context;
    if (plainSize !== undefined && needed > plainSize && plainSize <= maxPlainBytes)
      throw tooLong(this.name, plainSize);
    if (needed > maxPlainBytes) throw overLimit(this.name, this.context);
    if (needed <= this.bytes.length) return;
    const larger = new Uint8Array(Math.min(maxPlainBytes, Math.max(needed, this.bytes.length * 2)));
    larger.set(this.bytes.subarray(0, this.length));
    this.bytes = larger;
  }
}
