import { bufferSource, copyOf, type ByteSource } from './byte-source';

/** Where bytes are written, in order. `close` makes them durable; without it nothing may look finished. */
export interface ByteSink {
  write(bytes: Uint8Array): Promise<void>;
  /** Leaves so many bytes as they are in what it started from; absent in sinks that start from nothing. */
  skip?(length: number): Promise<void>;
  /** What has been written so far, to be read back before it gets its name; absent where it cannot be read. */
  written?(): Promise<ByteSource>;
  close(): Promise<void>;
  /** Gives up: what was written so far is thrown away. Never throws. */
  abandon(): Promise<void>;
}

/** Room for bytes that are needed again soon, such as a packed entry before its place is known. */
export interface Scratch {
  /** Takes all bytes of `chunks` and gives them back as a source. */
  keep(chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>, name: string): Promise<ByteSource>;
  /** Lets go of everything that was kept. */
  release(): Promise<void>;
}

/** A sink that gathers in memory; `bytes()` is what was written. */
export function memorySink(): ByteSink & { bytes(): Uint8Array } {
  let parts: Uint8Array[] = [];
  return {
    write: async (bytes) => void parts.push(copyOf(bytes)),
    written: async () => bufferSource(joined(parts), 'memory'),
    close: async () => {},
    abandon: async () => void (parts = []),
    bytes: () => joined(parts),
  };
}

/** A scratch in memory, for small things and tests. */
export function memoryScratch(): Scratch {
  return {
    keep: async (chunks, name) => bufferSource(await collect(chunks), name),
    release: async () => {},
  };
}

/** All chunks in one array. */
export async function collect(chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  for await (const chunk of chunks) parts.push(chunk);
  return joined(parts);
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const [only] = parts;
  if (parts.length === 1 && only !== undefined) return only;
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}
