/** All entries of a game in columns: a million of them in some 150 MB, sorted by path. */
import { KINDS, type Kind } from '../game';

/** Bits of `flags`. */
export const WINS = 1;
export const DELETED = 2;
export const NAMED = 4;

export interface CatalogueRow {
  /** UTF-8. */
  readonly path: Uint8Array;
  readonly archive: number;
  readonly n: number;
  readonly size: number;
  readonly stored: number;
  readonly kind: Kind;
  /** {@link WINS}, {@link DELETED}, {@link NAMED}. */
  readonly flags: number;
  /** How it is packed, as its archive's recipe counts methods. */
  readonly method: string;
  /** Tells its content from others of the same size; empty when nothing does. */
  readonly tag: string;
}

export interface Columns {
  readonly count: number;
  /** The paths one after the other; that of row `i` goes from `pathAt[i]` to `pathAt[i + 1]`. */
  readonly paths: Buffer;
  /** The same in lower case, byte for byte in the same places. */
  readonly folded: Buffer;
  readonly pathAt: Uint32Array;
  /** Which characters each folded path has: two words a row, as {@link letterOf} numbers their bits. */
  readonly letters: Uint32Array;
  readonly archive: Uint32Array;
  readonly n: Uint32Array;
  readonly size: Float64Array;
  readonly stored: Float64Array;
  /** Index into {@link KINDS}. */
  readonly kind: Uint8Array;
  readonly flags: Uint8Array;
  /** Index into `methods`. */
  readonly method: Uint16Array;
  readonly methods: readonly string[];
  /** 0 when nothing is known of the content. */
  readonly tag: Float64Array;
  /** How many of the rows before `i` win; one longer than the rows. */
  readonly winsBefore: Uint32Array;
}

type Growing = Uint8Array | Uint16Array | Uint32Array | Float64Array;

/** The bit of all bytes that have none of their own. */
export const OTHER_LETTER = 63;

/** Takes rows in the order of their paths, byte by byte. */
export class ColumnsBuilder {
  private count = 0;
  private bytes = 0;
  private paths: Buffer = Buffer.alloc(1 << 16);
  private folded: Buffer = Buffer.alloc(1 << 16);
  private pathAt: Uint32Array;
  private letters: Uint32Array;
  private archive: Uint32Array;
  private n: Uint32Array;
  private size: Float64Array;
  private stored: Float64Array;
  private kind: Uint8Array;
  private flags: Uint8Array;
  private method: Uint16Array;
  private tag: Float64Array;
  private readonly methods = new Map<string, number>();
  private readonly kinds = new Map<string, number>(KINDS.map((kind, i) => [kind, i]));

  /** @param rows about how many there will be: columns that need not grow are not copied */
  constructor(rows = 1024) {
    const length = rows + 2;
    this.pathAt = new Uint32Array(length);
    this.letters = new Uint32Array(length * 2);
    this.archive = new Uint32Array(length);
    this.n = new Uint32Array(length);
    this.size = new Float64Array(length);
    this.stored = new Float64Array(length);
    this.kind = new Uint8Array(length);
    this.flags = new Uint8Array(length);
    this.method = new Uint16Array(length);
    this.tag = new Float64Array(length);
  }

  /** @throws RangeError when the path comes before that of the row before */
  add({ path, archive, n, size, stored, kind, flags, method, tag }: CatalogueRow): void {
    this.makeRoom(path.length);
    const i = this.count++;
    this.paths.set(path, this.bytes);
    const before = i === 0 ? 0 : this.pathAt[i - 1]!;
    if (i > 0 && this.paths.compare(path, 0, path.length, before, this.bytes) > 0)
      throw new RangeError(`row ${i} of the catalogue is out of order`);
    this.pathAt[i] = this.bytes;
    this.fold(path);
    this.letters.set(lettersOf(this.folded, this.bytes, this.bytes + path.length), i * 2);
    this.bytes += path.length;
    this.archive[i] = archive;
    this.n[i] = n;
    this.size[i] = size;
    this.stored[i] = stored;
    this.kind[i] = this.kinds.get(kind) ?? KINDS.length - 1;
    this.flags[i] = flags;
    let known = this.methods.get(method);
    if (known === undefined) this.methods.set(method, (known = this.methods.size));
    this.method[i] = known;
    this.tag[i] = tag === '' ? 0 : hashOf(tag);
  }

  build(): Columns {
    const { count } = this;
    this.makeRoom(0);
    this.pathAt[count] = this.bytes;
    const winsBefore = new Uint32Array(count + 1);
    for (let i = 0; i < count; i++) winsBefore[i + 1] = winsBefore[i]! + (this.flags[i]! & WINS);
    return {
      count,
      paths: this.paths.subarray(0, this.bytes),
      folded: this.folded.subarray(0, this.bytes),
      pathAt: this.pathAt.subarray(0, count + 1),
      letters: this.letters.subarray(0, count * 2),
      archive: this.archive.subarray(0, count),
      n: this.n.subarray(0, count),
      size: this.size.subarray(0, count),
      stored: this.stored.subarray(0, count),
      kind: this.kind.subarray(0, count),
      flags: this.flags.subarray(0, count),
      method: this.method.subarray(0, count),
      methods: [...this.methods.keys()],
      tag: this.tag.subarray(0, count),
      winsBefore,
    };
  }

  /** Letters that get longer or shorter in lower case stay as they are: the places have to be the same. */
  private fold(path: Uint8Array): void {
    let ascii = true;
    for (let i = 0; i < path.length; i++) {
      const byte = path[i]!;
      if (byte >= 0x80) ascii = false;
      this.folded[this.bytes + i] = byte >= 0x41 && byte <= 0x5a ? byte | 0x20 : byte;
    }
    if (ascii) return;
    const lower = Buffer.from(Buffer.from(path).toString('utf8').toLowerCase(), 'utf8');
    if (lower.length === path.length) this.folded.set(lower, this.bytes);
  }

  private makeRoom(more: number): void {
    if (this.bytes + more > this.paths.length) {
      const length = Math.max(this.paths.length * 1.5, this.bytes + more) | 0;
      this.paths = Buffer.concat([this.paths], length);
      this.folded = Buffer.concat([this.folded], length);
    }
    if (this.count + 1 < this.pathAt.length) return;
    const length = Math.ceil(this.pathAt.length * 1.5);
    const grown = <T extends Growing>(column: T, each = 1): T => {
      const larger = new (column.constructor as new (size: number) => T)(length * each);
      larger.set(column);
      return larger;
    };
    this.pathAt = grown(this.pathAt);
    this.letters = grown(this.letters, 2);
    this.archive = grown(this.archive);
    this.n = grown(this.n);
    this.size = grown(this.size);
    this.stored = grown(this.stored);
    this.kind = grown(this.kind);
    this.flags = grown(this.flags);
    this.method = grown(this.method);
    this.tag = grown(this.tag);
  }
}

/** Bits of letters, digits and what parts them in paths; all other bytes share the last one. */
const LETTERS = Uint8Array.from({ length: 256 }, (_, byte) => {
  const bit = 'abcdefghijklmnopqrstuvwxyz0123456789_-./ '.indexOf(String.fromCharCode(byte));
  return bit < 0 ? OTHER_LETTER : bit;
});

/** The bit that represents a byte of a folded path, 0 to 63. */
export const letterOf = (byte: number): number => LETTERS[byte]!;

/** Two words with the bits of all characters of a stretch. */
export function lettersOf(bytes: Uint8Array, from = 0, to = bytes.length): readonly [low: number, high: number] {
  let low = 0;
  let high = 0;
  for (let at = from; at < to; at++) {
    const bit = letterOf(bytes[at]!);
    if (bit < 32) low |= 1 << bit;
    else high |= 1 << (bit - 32);
  }
  return [low, high];
}

/** 52 bits of two FNV-1a hashes: equal tags of equal sizes are equal content for all that is shown. */
function hashOf(tag: string): number {
  let low = 0x811c9dc5;
  let high = 0x9747b28c;
  for (let i = 0; i < tag.length; i++) {
    low = Math.imul(low ^ tag.charCodeAt(i), 0x01000193);
    high = Math.imul(high ^ tag.charCodeAt(i), 0x85ebca6b);
  }
  return ((high & 0xfffff) >>> 0) * 0x1_0000_0000 + (low >>> 0) + 1;
}

export function pathOf({ paths, pathAt }: Columns, row: number): string {
  return paths.toString('utf8', pathAt[row], pathAt[row + 1]);
}

/** The first row, from `from` on, whose path does not come before `path`; sorted byte by byte. */
export function lowerBound({ paths, pathAt, count }: Columns, path: Uint8Array, from = 0, to = count): number {
  let low = from;
  let high = to;
  while (low < high) {
    const middle = (low + high) >>> 1;
    // Buffer#compare(target, …) is negative when the buffer's own part comes first.
    if (paths.compare(path, 0, path.length, pathAt[middle], pathAt[middle + 1]) < 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The rows below a folder: everything whose path begins with it and a slash. The empty folder is the whole game. */
export function rowsBelow(columns: Columns, folder: string): readonly [from: number, to: number] {
  if (folder === '') return [0, columns.count];
  // The byte after the slash ends what begins with it.
  const from = lowerBound(columns, Buffer.from(`${folder}/`));
  return [from, lowerBound(columns, Buffer.from(`${folder}0`), from)];
}
