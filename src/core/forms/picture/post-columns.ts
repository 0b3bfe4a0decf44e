/**
 * Columns of posts, as pictures in WAD archives keep their pixels: for each column the offset of its posts, each a run of
 * pixels from the top down. Source: the picture format in the engine's released sources (`patch_t`, `post_t`, `column_t`).
 */
import { Cursor } from '../../bytes';
import { FormatError, LimitError } from '../../faults';

/** Ends the posts of a column. */
const END = 255;
/** The largest row a post can state. One that is no larger than that of the post before it counts from there. */
const MOST_ROW = 254;
/** Pixels of a post at most: what the oldest engines draw. */
const MOST_PIXELS = 128;
/** A post has its row, its length and a byte in front, and one behind. */
const AROUND = 4;
/** Pixels of a picture at most. */
const MOST_IN_ALL = 1 << 26;

interface Size {
  readonly width: number;
  readonly height: number;
}

/**
 * @param stored a table of `width` offsets (u32, little-endian), and the posts
 * @param start what the offsets count before the table
 * @returns two bytes for each pixel, row by row: the number of its colour, then 255 where it is drawn and 0 where it is not
 * @throws FormatError `cut-short` or `outside-file`, with the offset in the stored bytes
 */
export function unpackPosts(stored: Uint8Array, size: Size, start: number): Uint8Array {
  const { width, height } = size;
  if (width * height > MOST_IN_ALL)
    throw new LimitError({
      code: 'limit-reached',
      what: 'the picture is too large',
      found: `${width} × ${height} pixels`,
      limit: `pixels, ${MOST_IN_ALL.toLocaleString('en')}`,
    });
  const plain = new Uint8Array(width * height * 2);
  const offsets = new Cursor(stored);
  for (let x = 0; x < width; x++) readColumn(stored, offsets.u32(true) - start, x, size, plain);
  return plain;
}

/** Whether the first bytes may be such a table: every offset in them lies behind the table, and in a picture of some size. */
export function startsWithPosts(head: Uint8Array, width: number, start: number): boolean {
  const offsets = new Cursor(head);
  const most = Math.min(width, Math.floor(head.length / 4));
  for (let x = 0; x < most; x++) {
    const at = offsets.u32(true) - start;
    if (at < width * 4 || at > MOST_IN_ALL) return false;
  }
  return most > 0;
}

/** The inverse. @param plain as `unpackPosts` returns it */
export function packPosts(plain: Uint8Array, size: Size, start: number): Uint8Array {
  const columns = Array.from({ length: size.width }, (_, x) => packColumn(plain, x, size));
  const table = Buffer.alloc(size.width * 4);
  let at = table.length;
  for (const [x, { length }] of columns.entries()) {
    table.writeUInt32LE(at + start, x * 4);
    at += length;
  }
  return Buffer.concat([table, ...columns]);
}

function readColumn(stored: Uint8Array, from: number, x: number, { width, height }: Size, plain: Uint8Array): void {
  let at = from;
  let before = -1;
  const wrong = (what: string, found: number) =>
    new FormatError({
      code: 'outside-file',
      what: `${what}, in column ${x}`,
      offset: Math.max(0, at),
      found: String(found),
    });
  while (stored[at] !== END) {
    if (at < 0 || at + 2 > stored.length) throw wrong('the posts lie outside the picture', at);
    const stated = stored[at]!;
    const count = stored[at + 1]!;
    const top = stated <= before ? before + stated : stated;
    if (top + count > height) throw wrong(`a post reaches below row ${height}`, top + count);
    if (at + AROUND + count > stored.length) throw wrong('a post lies outside the picture', count);
    for (let i = 0; i < count; i++) {
      const pixel = ((top + i) * width + x) * 2;
      plain[pixel] = stored[at + 3 + i]!;
      plain[pixel + 1] = 255;
    }
    before = top;
    at += AROUND + count;
  }
}

function packColumn(plain: Uint8Array, x: number, { width, height }: Size): Uint8Array {
  const out: number[] = [];
  const isDrawn = (y: number) => plain[(y * width + x) * 2 + 1] !== 0;
  let before = -1;
  const post = (row: number, colours: readonly number[]) =>
    // The bytes around the pixels are never drawn; they repeat their neighbours, for engines that round badly.
    out.push(row, colours.length, colours[0] ?? 0, ...colours, colours.at(-1) ?? 0);
  for (let y = 0; y < height; y++) {
    if (!isDrawn(y)) continue;
    const colours: number[] = [];
    for (let i = y; i < height && colours.length < MOST_PIXELS && isDrawn(i); i++)
      colours.push(plain[(i * width + x) * 2]!);
    if (y > MOST_ROW && before < MOST_ROW) {
      post(MOST_ROW, []);
      before = MOST_ROW;
    }
    while (y - before > MOST_ROW) {
      post(MOST_ROW, []);
      before += MOST_ROW;
    }
    post(y > MOST_ROW ? y - before : y, colours);
    before = y;
    y += colours.length - 1;
  }
  out.push(END);
  return Uint8Array.from(out);
}
