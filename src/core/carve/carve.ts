/** Finding what lies in a file no one knows the format of. */
import type { ByteSource } from '../bytes';
import { findCodec, prepareCodecs } from '../codecs';
import { throwIfStopped } from '../faults';
import { guessFromHead, type Kind } from '../game';
import { bmp, dds, gif, glb, jpeg, lz4, mp4, ogg, png, riff, zstd, type Extent } from './extents';
import { streamAt } from './streams';

export type FoundMethod = 'stored' | 'zlib' | 'gzip' | 'zstd' | 'lz4-frame';

/** Something found, at an offset of the file. */
export interface Found {
  readonly at: number;
  /** Bytes in the file. */
  readonly stored: number;
  /** Bytes unpacked. */
  readonly size: number;
  readonly method: FoundMethod;
  readonly kind: Kind;
  readonly extension: string;
}

interface Signature {
  readonly bytes: string;
  /** Bytes in front of the signature that belong to the thing. */
  readonly before?: number;
  readonly extent?: Extent;
  readonly packed?: Exclude<FoundMethod, 'stored'>;
}

const SIGNATURES: readonly Signature[] = [
  { bytes: '\x89PNG\r\n\x1a\n', extent: png },
  { bytes: '\xff\xd8\xff', extent: jpeg },
  { bytes: 'RIFF', extent: riff },
  { bytes: 'OggS', extent: ogg },
  { bytes: 'GIF8', extent: gif },
  { bytes: 'BM', extent: bmp },
  { bytes: 'DDS ', extent: dds },
  { bytes: 'glTF', extent: glb },
  { bytes: 'ftyp', before: 4, extent: mp4 },
  { bytes: '\x28\xb5\x2f\xfd', extent: zstd, packed: 'zstd' },
  { bytes: '\x04\x22\x4d\x18', extent: lz4, packed: 'lz4-frame' },
  { bytes: '\x1f\x8b\x08', packed: 'gzip' },
  ...['\x78\x01', '\x78\x5e', '\x78\x9c', '\x78\xda'].map((bytes): Signature => ({ bytes, packed: 'zlib' })),
];

const BY_FIRST = Array.from({ length: 256 }, (_, byte) =>
  SIGNATURES.filter(({ bytes }) => bytes.charCodeAt(0) === byte),
);

export interface CarveOptions {
  readonly signal?: AbortSignal;
  readonly progress?: (done: number) => void;
  /** Finds after which the rest is not looked through. */
  readonly most?: number;
}

const PIECE_BYTES = 1 << 20;
const LONGEST_SIGNATURE = 8;
/** A run of text shorter than this is more likely a name or chance. */
const LEAST_TEXT = 48;
/** Packed things above this are not unpacked to say what they are. */
const MAX_UNPACKED = 64 << 20;

/**
 * Pictures, sounds, films and meshes by their signatures, compressed streams by unpacking them, and runs of text, in the
 * order of their offsets. What lies inside a found thing is not looked for.
 *
 * @throws CancelledError when stopped
 */
export async function carve(source: ByteSource, options: CarveOptions = {}): Promise<Found[]> {
  await prepareCodecs();
  const { signal, progress, most = Infinity } = options;
  const found: Found[] = [];
  const text = new TextRuns();
  for (let start = 0; start < source.size && found.length < most;) {
    throwIfStopped(signal);
    progress?.(start);
    const end = Math.min(source.size, start + PIECE_BYTES);
    const bytes = await source.read(start, Math.min(source.size, end + LONGEST_SIGNATURE) - start);
    let next = end;
    for (let i = 0; start + i < end && found.length < most; i++) {
      const at = start + i;
      text.take(bytes[i]!, at);
      const begins = BY_FIRST[bytes[i]!]!.find((signature) => startsWith(bytes, i, signature.bytes));
      const one = begins === undefined ? undefined : await look(source, at, begins);
      if (one === undefined) continue;
      found.push(...text.end(one.at), one);
      text.begin();
      next = Math.max(end, one.at + one.stored);
      i = one.at + one.stored - start - 1;
    }
    start = next;
  }
  found.push(...text.end(source.size));
  const known: Found[] = [];
  for (const one of found.slice(0, most)) known.push(await named(source, one));
  progress?.(source.size);
  return known;
}

function startsWith(bytes: Uint8Array, at: number, signature: string): boolean {
  for (let i = 0; i < signature.length; i++) if (bytes[at + i] !== signature.charCodeAt(i)) return false;
  return true;
}

async function look(source: ByteSource, at: number, signature: Signature): Promise<Found | undefined> {
  const start = at - (signature.before ?? 0);
  const plain = { kind: 'bytes', extension: 'bin' } as const;
  if (signature.packed === 'zlib' || signature.packed === 'gzip') {
    const stream = await streamAt(source, start, signature.packed);
    if (stream === undefined) return undefined;
    const { stored } = stream;
    return {
      at: start,
      stored,
      size: stream.plain.length,
      method: signature.packed,
      ...guessFromHead(stream.plain.subarray(0, 256)),
    };
  }
  const stored = start < 0 ? undefined : await signature.extent!(source, start);
  if (stored === undefined) return undefined;
  if (signature.packed === undefined) return { at: start, stored, size: stored, method: 'stored', ...plain };
  if (stored > MAX_UNPACKED) return undefined;
  try {
    const packed = await source.read(start, stored);
    const bytes = findCodec(signature.packed)!.decode(packed, { params: {}, maxPlainBytes: MAX_UNPACKED * 4 });
    return {
      at: start,
      stored,
      size: bytes.length,
      method: signature.packed,
      ...guessFromHead(bytes.subarray(0, 256)),
    };
  } catch {
    // It only looked like one.
    return undefined;
  }
}

async function named(source: ByteSource, one: Found): Promise<Found> {
  if (one.method !== 'stored') return one;
  const head = await source.read(one.at, Math.min(256, one.stored));
  const { kind, extension } = guessFromHead(head);
  return { ...one, kind, extension };
}

/** Runs of printable ASCII with tabs and line ends. */
class TextRuns {
  private from = -1;
  private last = -1;
  private readonly runs: Found[] = [];

  begin(): void {
    this.from = -1;
  }

  take(byte: number, at: number): void {
    const printable = (byte >= 0x20 && byte < 0x7f) || byte === 0x0a || byte === 0x0d || byte === 0x09;
    if (printable) {
      if (this.from < 0) this.from = at;
      this.last = at;
    } else if (this.from >= 0) this.close(at);
  }

  /** The runs up to here. */
  end(at: number): Found[] {
    if (this.from >= 0) this.close(Math.min(at, this.last + 1));
    return this.runs.splice(0);
  }

  private close(end: number): void {
    const stored = end - this.from;
    if (stored >= LEAST_TEXT)
      this.runs.push({ at: this.from, stored, size: stored, method: 'stored', kind: 'words', extension: 'txt' });
    this.from = -1;
  }
}
