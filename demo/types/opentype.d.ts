/** What the demo game's generator and tests use of the library that writes its font. */
declare module 'opentype.js' {
  export class Path {
    moveTo(x: number, y: number): void;
    lineTo(x: number, y: number): void;
    close(): void;
  }
  export class Glyph {
    constructor(options: { name: string; unicode?: number; advanceWidth: number; path: Path });
  }
  export class Font {
    constructor(options: {
      familyName: string;
      styleName: string;
      unitsPerEm: number;
      ascender: number;
      descender: number;
      createdTimestamp: number;
      glyphs: readonly Glyph[];
    });
    toArrayBuffer(): ArrayBuffer;
    readonly glyphs: { readonly length: number };
    readonly tables: { readonly cmap?: { readonly glyphIndexMap: Readonly<Record<string, number>> } };
  }
  export function parse(bytes: ArrayBuffer): Font;
}
