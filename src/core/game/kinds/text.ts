/** Whether bytes are text, whatever its encoding. */

/** Bytes of a text in an encoding of 8 bits, or of 2 in turn, that are enough to take it for one. */
const FEWEST_BYTES = 24;
/** Shares of spaces and line ends in a text: languages that write without spaces have them between lines. */
const FEWEST_GAPS = 0.02;
/** Share of bytes between 80 and 9F: Western encodings have quotation marks and a few letters there. */
const MOST_C1 = 0.1;
const TAB = 0x09;
const LINE_FEED = 0x0a;
const FORM_FEED = 0x0c;
const CARRIAGE_RETURN = 0x0d;
/** Programs of DOS end a text with it. */
const END_OF_FILE = 0x1a;
const SPACE = 0x20;

const isControl = (unit: number): boolean =>
  unit < SPACE && unit !== TAB && unit !== LINE_FEED && unit !== CARRIAGE_RETURN && unit !== FORM_FEED;

/** @param head the first bytes, which may end within a character */
export function isText(head: Uint8Array): boolean {
  if (head.length < 4) return false;
  const wide = wideOrder(head);
  if (wide !== undefined) return isWideText(head, wide);
  const end = head[head.length - 1] === END_OF_FILE ? head.length - 1 : head.length;
  const bytes = head.subarray(0, end);
  if (bytes.some(isControl)) return false;
  const text = new TextDecoder('utf-8').decode(bytes);
  return !text.slice(0, -4).includes('\ufffd') || isEightBitText(bytes);
}

/** Letters of a language that UTF-8 does not explain, with gaps between words or lines. */
function isEightBitText(bytes: Uint8Array): boolean {
  if (bytes.length < FEWEST_BYTES) return false;
  let [gaps, c1, high] = [0, 0, 0];
  for (const byte of bytes) {
    if (byte === SPACE || byte === LINE_FEED || byte === CARRIAGE_RETURN) gaps++;
    if (byte >= 0x80) high++;
    if (byte >= 0x80 && byte < 0xa0) c1++;
  }
  // Shift-JIS has the first byte of most characters there, and more of such bytes than of others.
  const isMostlyHigh = high > bytes.length / 3;
  return gaps >= bytes.length * FEWEST_GAPS && (isMostlyHigh || c1 <= bytes.length * MOST_C1);
}

/** UTF-16 by its mark, or by the zeros that Latin letters have in every other byte. */
function wideOrder(head: Uint8Array): 'little' | 'big' | undefined {
  if (head[0] === 0xff && head[1] === 0xfe) return 'little';
  if (head[0] === 0xfe && head[1] === 0xff) return 'big';
  if (head.length < FEWEST_BYTES) return undefined;
  const zeros = [0, 0];
  head.forEach((byte, i) => (zeros[i % 2]! += byte === 0 ? 1 : 0));
  const half = head.length / 2;
  if (zeros[1]! > half * 0.8 && zeros[0] === 0) return 'little';
  return zeros[0]! > half * 0.8 && zeros[1] === 0 ? 'big' : undefined;
}

/** No control characters, no characters that are none, and no half of one without the other. */
function isWideText(head: Uint8Array, order: 'little' | 'big'): boolean {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  for (let at = 0; at + 4 <= head.length; at += 2) {
    const unit = view.getUint16(at, order === 'little');
    if (isControl(unit) || unit === 0xfffe || unit === 0xffff) return false;
    const next = view.getUint16(at + 2, order === 'little');
    if ((unit & 0xfc00) === 0xd800 && (next & 0xfc00) !== 0xdc00) return false;
  }
  return true;
}
