/** Patterns of paths with * and **. */

export const ONE = '?'.charCodeAt(0);

/** A pattern taken apart at its stars. */
export interface Glob {
  /** What the text begins with, up to the first star. */
  readonly head: Uint8Array;
  /** What has to follow somewhere, in this order, between one star and the next. */
  readonly middle: readonly Uint8Array[];
  /** What the text ends with; null without a star, when the head is all there is. */
  readonly tail: Uint8Array | null;
}

/** `*` represents any bytes and `?` for one character (UTF-8); the whole of a text has to fit. */
export function compileGlob(pattern: string): Glob {
  const [head, ...rest] = pattern.split('*').map((part) => Buffer.from(part));
  const tail = rest.pop() ?? null;
  return { head: head!, middle: rest.filter((part) => part.length > 0), tail };
}

/** The tail is asked before what lies between: most texts that do not fit end otherwise. */
export function fitsGlob(bytes: Uint8Array, from: number, to: number, { head, middle, tail }: Glob): boolean {
  const start = startOf(bytes, from, to, tail);
  if (start < 0) return false;
  let at = endOf(bytes, from, start, head);
  if (at < 0) return false;
  if (tail === null) return at === to;
  for (const part of middle) {
    let end = -1;
    for (const first = part[0]!; at < start && end < 0; at++)
      if (first === ONE || bytes[at] === first) end = endOf(bytes, at, start, part);
    if (end < 0) return false;
    at = end;
  }
  return true;
}

/** Where a part ends that begins at `at`; -1 when it is not there. */
function endOf(bytes: Uint8Array, at: number, to: number, part: Uint8Array): number {
  for (let i = 0; i < part.length; i++) {
    if (at >= to) return -1;
    if (part[i] === ONE) {
      at++;
      while (at < to && isInner(bytes[at]!)) at++;
    } else if (bytes[at++] !== part[i]) return -1;
  }
  return at;
}

/** Where a part begins that ends at `to`; -1 when it is not there. */
function startOf(bytes: Uint8Array, from: number, to: number, part: Uint8Array | null): number {
  if (part === null) return to;
  let at = to;
  for (let i = part.length - 1; i >= 0; i--) {
    if (at <= from) return -1;
    at--;
    if (part[i] === ONE) while (at > from && isInner(bytes[at]!)) at--;
    else if (bytes[at] !== part[i]) return -1;
  }
  return at;
}

/** Whether a byte goes on with a character of UTF-8 that began before it. */
const isInner = (byte: number) => (byte & 0xc0) === 0x80;
