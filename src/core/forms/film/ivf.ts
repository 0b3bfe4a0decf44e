/** IVF: frames one after the other, each with its length and number, as programs read VP8 and VP9. */

export interface IvfFacts {
  /** Four characters of the codec, such as `VP90`. */
  readonly codec: string;
  readonly width: number;
  readonly height: number;
  /** Frames a second. */
  readonly rate: number;
}

/** Frames a second are kept as a fraction of this. */
const TICKS = 1000;

/** @returns the header and then each frame behind its own */
export async function* writeIvf(
  { codec, width, height, rate }: IvfFacts,
  frames: AsyncIterable<Uint8Array>,
): AsyncGenerator<Uint8Array> {
  const head = Buffer.alloc(32);
  head.write('DKIF', 0, 'latin1');
  head.writeUInt16LE(32, 6);
  head.write(codec, 8, 4, 'latin1');
  head.writeUInt16LE(width, 12);
  head.writeUInt16LE(height, 14);
  head.writeUInt32LE(Math.round(rate * TICKS), 16);
  head.writeUInt32LE(TICKS, 20);
  yield head;
  let number = 0;
  for await (const frame of frames) {
    const before = Buffer.alloc(12);
    before.writeUInt32LE(frame.length, 0);
    before.writeBigUInt64LE(BigInt(number++), 4);
    yield before;
    yield frame;
  }
}
