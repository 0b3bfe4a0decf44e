/** Pixels of files that number their colours. */
import { FormatError } from '../../../faults';
import { paletteFormat } from '../palette';
import type { Picture } from '../picture';
import type { PixelFormat } from '../pixel-formats';

/** @param colours four bytes each: red, green, blue, alpha */
export const indexedColours = (colours: Uint8Array): PixelFormat => paletteFormat('index8', colours, 'rgba8');

/** @throws FormatError `wrong-kind` when a pixel has a number that the palette does not */
export function checkIndices(indices: Uint8Array, colours: number, file: string): void {
  const wrong = indices.findIndex((index) => index >= colours);
  if (wrong < 0) return;
  throw new FormatError({
    code: 'wrong-kind',
    file,
    what: `pixel ${wrong} has a colour that the palette has not`,
    expected: `0 to ${colours - 1}`,
    found: String(indices[wrong]),
  });
}

/** A picture of one level, in colours as screens show them. */
export function oneLevel(format: PixelFormat, width: number, height: number, level: Uint8Array): Picture {
  return { width, height, depth: 1, layers: 1, faces: 1, mips: 1, format, srgb: true, levels: [level] };
}

/** Rows in the other order: files that begin with the lowest row. */
export function upsideDown(level: Uint8Array, rowBytes: number): Uint8Array {
  const out = new Uint8Array(level.length);
  for (let at = 0; at < level.length; at += rowBytes)
    out.set(level.subarray(at, at + rowBytes), level.length - at - rowBytes);
  return out;
}
