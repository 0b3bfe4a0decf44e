/** Hashes over bytes of the file, which formulas ask for before anybody has read these bytes. */
import { bufferSource, copyOf, readChunks } from '../../bytes';
import { createHasher } from '../../codecs';
import { sameValue, type Blank, type SpanPlace, type Value } from '../formula/value';
import type { OpenedArchive } from './opened-archive';

export interface SpanRequest extends SpanPlace {
  readonly hasher: string;
  readonly from: number;
  readonly to: number;
  readonly blank: Blank | undefined;
}

/** Gives known values and remembers what was asked for. */
export class LateHashes {
  private readonly known = new Map<string, Value>();
  private readonly asked = new Map<string, SpanRequest>();

  get(request: SpanRequest): Value {
    const key = keyOf(request);
    this.asked.set(key, request);
    // Until it is known, the hash of nothing represents it: of the right kind, and the right length.
    return this.known.has(key) ? this.known.get(key) : createHasher(request.hasher).digest();
  }
  /**
   * Works out what was asked for since the last time.
   *
   * @param again also what is known already, because the bytes may have changed
   * @returns whether any value is new or another one
   */
  async answer(
    read: (request: SpanRequest) => AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
    again = false,
  ): Promise<boolean> {
    const requests = [...this.asked.values()];
    this.asked.clear();
    let changed = false;
    for (const request of requests) {
      const key = keyOf(request);
      if (!again && this.known.has(key)) continue;
      const value = await hashSpan(request, read(request));
      if (this.known.has(key) && sameValue(this.known.get(key), value)) continue;
      this.known.set(key, value);
      changed = true;
    }
    return changed;
  }

  /** The same for bytes that are in memory. */
  answerNow(read: (request: SpanRequest) => Uint8Array): boolean {
    let changed = false;
    for (const [key, request] of this.asked) {
      const value = createHasherOver(request, read(request));
      if (this.known.has(key) && sameValue(this.known.get(key), value)) continue;
      this.known.set(key, value);
      changed = true;
    }
    this.asked.clear();
    return changed;
  }
}

function createHasherOver({ hasher, from, blank }: SpanRequest, bytes: Uint8Array): Value {
  const machine = createHasher(hasher);
  machine.update(blanked(bytes, from, blank));
  return machine.digest();
}

function keyOf({ hasher, space, volume, from, to, blank }: SpanRequest): string {
  return `${hasher}:${space ?? `file ${volume}`}:${from}:${to}:${blank === undefined ? '' : `${blank.at}+${blank.length}=${blank.fill}`}`;
}

async function hashSpan(
  { hasher, from, blank }: SpanRequest,
  chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
): Promise<Value> {
  const machine = createHasher(hasher);
  let at = from;
  for await (const chunk of chunks) {
    machine.update(blanked(chunk, at, blank));
    at += chunk.length;
  }
  return machine.digest();
}

function blanked(chunk: Uint8Array, at: number, blank: Blank | undefined): Uint8Array {
  if (blank === undefined) return chunk;
  const from = Math.max(blank.at - at, 0);
  const to = Math.min(blank.at + blank.length - at, chunk.length);
  if (from >= to) return chunk;
  const copy = copyOf(chunk);
  copy.fill(blank.fill, from, to);
  return copy;
}

/** Bytes of the file a span covers, for hashes over it. */
export function spanBytes(archive: OpenedArchive, { space, volume, from, to }: SpanRequest): AsyncIterable<Uint8Array> {
  const region = space === undefined ? undefined : archive.regions.get(space);
  const plain = region?.unlocked === true ? region.plain : undefined;
  const file = archive.volumes[volume]?.source ?? archive.source;
  const source = plain === undefined ? file : bufferSource(plain, file.name);
  return readChunks(source, from, Math.max(0, to - from));
}
