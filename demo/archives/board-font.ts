/** `.gpf`: a font of pictures. A head, the path of its page, then a row for each letter by its code point. */
import { ByteBuilder } from './byte-builder';

export interface BoardGlyph {
  readonly code: number;
  /** In pixels of the page. */
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly top: number;
  readonly advance: number;
}

export function writeBoardFont(font: {
  readonly size: number;
  readonly line: number;
  readonly base: number;
  /** From the folder of the font. */
  readonly page: string;
  readonly glyphs: readonly BoardGlyph[];
}): Uint8Array {
  const out = new ByteBuilder();
  out.text('GPFN').u16(1).u16(font.size).u16(font.line).u16(font.base);
  out.u8(Buffer.byteLength(font.page)).text(font.page).u16(font.glyphs.length);
  for (const { code, x, y, width, height, left, top, advance } of [...font.glyphs].sort((a, b) => a.code - b.code))
    out.u32(code).u16(x).u16(y).u8(width).u8(height).u8(left).u8(top).u8(advance);
  return out.bytes();
}
