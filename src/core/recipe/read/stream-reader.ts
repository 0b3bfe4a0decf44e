import { FormatError } from '../../faults';

/** Takes exact numbers of bytes from a stream of chunks. */
export class StreamReader {
  private readonly chunks: AsyncIterator<Uint8Array>;
  private held: Uint8Array = new Uint8Array(0);
  private position = 0;
  constructor(chunks: AsyncIterable<Uint8Array>) {
    this.chunks = chunks[Symbol.asyncIterator]();
  }

  /** @throws FormatError `cut-short` when the stream ends before */
  async take(length: number): Promise<Uint8Array> {
    if (this.held.length < length) {
      const parts = [this.held];
      let have = this.held.length;
      while (have < length) {
        const next = await this.chunks.next();
        if (next.done === true)
          throw new FormatError({
            code: 'cut-short',
            what: 'the bytes of an entry end within a block',
            expected: `${length.toLocaleString('en')} bytes`,
            found: have.toLocaleString('en'),
          });
        parts.push(next.value);
        have += next.value.length;
      }
      this.held = new Uint8Array(Buffer.concat(parts));
    }
    const taken = this.held.subarray(0, length);
    this.held = this.held.subarray(length);
    this.position += length;
    return taken;
  }
  /** Moves on to an offset in the stream. */
  async skipTo(offset: number): Promise<void> {
    if (offset > this.position) await this.take(offset - this.position);
  }
  async close(): Promise<void> {
    await this.chunks.return?.();
  }
}
