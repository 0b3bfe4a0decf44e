/** Walks through a Snappy block without unpacking it ("Snappy compressed format description"). */

/**
 * True when every literal and copy lies within what there is, and together they make as many bytes as the block claims.
 * The library that unpacks counts lengths as signed numbers, and would walk in a circle on some that are too long.
 */
export function isWholeSnappy(stored: Uint8Array, claimed: number): boolean {
  let at = 0;
  // The claim itself, as LEB128.
  while (at < stored.length && stored[at]! >= 0x80) at++;
  at++;
  let made = 0;
  while (at < stored.length) {
    const tag = stored[at++]!;
    const kind = tag & 3;
    if (kind === 0) {
      const short = (tag >>> 2) + 1;
      const extra = Math.max(0, short - 60);
      if (at + extra > stored.length) return false;
      const length = extra === 0 ? short : numberAt(stored, at, extra) + 1;
      at += extra + length;
      made += length;
      if (at > stored.length) return false;
    } else {
      const width = [0, 1, 2, 4][kind]!;
      if (at + width > stored.length) return false;
      const offset = numberAt(stored, at, width) + (kind === 1 ? (tag >>> 5) << 8 : 0);
      if (offset === 0 || offset > made) return false;
      at += width;
      made += kind === 1 ? ((tag >>> 2) & 7) + 4 : (tag >>> 2) + 1;
    }
    if (made > claimed) return false;
  }
  return made === claimed;
}

/** Little end first, never negative. */
function numberAt(bytes: Uint8Array, at: number, width: number): number {
  let number = 0;
  for (let i = width - 1; i >= 0; i--) number = number * 256 + bytes[at + i]!;
  return number;
}
