/** BMP as Microsoft's reference describes it: 1, 4 and 8 bits with a palette, 16, 24 and 32 bits with masks; not packed. */
import { FormatError } from '../../faults';
import { checkSizes, type Pixels } from './picture';
import { masked, type Masks } from './pixel-formats';

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

export const isBmp = (bytes: Uint8Array): boolean => bytes[0] === 0x42 && bytes[1] === 0x4d && bytes.length >= 26;

/** @throws FormatError with the offset and what was expected and found there */
export function readBmp(bytes: Uint8Array, file: string): Pixels {
  if (!isBmp(bytes)) throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: 'BM' });
  const data = view(bytes);
  const start = data.getUint32(10, true);
  const header = data.getUint32(14, true);
  if (header < 40 || bytes.length < 14 + header)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 14,
      field: 'header',
      expected: '40 bytes or more',
      found: String(header),
    });
  const width = data.getInt32(18, true);
  const signed = data.getInt32(22, true);
  const height = Math.abs(signed);
  const bits = data.getUint16(28, true);
  const packing = data.getUint32(30, true);
  checkSizes(file, { width, height, mips: 1 });
  // 0 is none, 3 and 6 say where the masks are.
  if (![0, 3, 6].includes(packing))
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 30,
      field: 'compression',
      expected: 'none',
      found: String(packing),
    });
  const row = Math.ceil((width * bits) / 32) * 4;
  if (start + row * height > bytes.length)
    throw new FormatError({
      code: 'cut-short',
      file,
      offset: bytes.length,
      what: 'the picture ends too early',
      expected: `${(start + row * height).toLocaleString('en')} bytes`,
      found: bytes.length.toLocaleString('en'),
    });
  const paint = painter(bytes, bits, packing, header, file);
  const rgba = new Uint8Array(width * height * 4);
  let clear = true;
  for (let y = 0; y < height; y++) {
    const from = start + row * (signed < 0 ? y : height - 1 - y);
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      paint(from, x, rgba.subarray(at, at + 4));
      if (rgba[at + 3] !== 0) clear = false;
    }
  }
  // Many programs leave the fourth byte 0 and mean an opaque picture.
  if (clear) for (let i = 3; i < rgba.length; i += 4) rgba[i] = 255;
  return { width, height, rgba };
}

type Paint = (row: number, x: number, out: Uint8Array) => void;

function painter(bytes: Uint8Array, bits: number, packing: number, header: number, file: string): Paint {
  const data = view(bytes);
  if (bits === 1 || bits === 4 || bits === 8) {
    const at = 14 + header;
    const count = data.getUint32(46, true) || 1 << bits;
    return (row, x, out) => {
      const byte = bytes[row + ((x * bits) >> 3)]!;
      const index = (byte >> (8 - bits - ((x * bits) & 7))) & ((1 << bits) - 1);
      const from = at + index * 4;
      if (index >= count || from + 3 > bytes.length)
        throw new FormatError({
          code: 'wrong-kind',
          file,
          offset: row,
          what: 'a pixel has a colour that the palette has not',
        });
      out.set([bytes[from + 2]!, bytes[from + 1]!, bytes[from]!, 255]);
    };
  }
  if (bits !== 16 && bits !== 24 && bits !== 32)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      offset: 28,
      field: 'bits a pixel',
      expected: '1, 4, 8, 16, 24 or 32',
      found: String(bits),
    });
  const format = masked('bmp', `${bits} bits a pixel`, bits, masksOf(data, bits, packing, header), 'rgba');
  return (row, x, out) => format.unpack(bytes, row + (x * bits) / 8, out);
}

function masksOf(data: DataView, bits: number, packing: number, header: number): Masks {
  if (packing !== 0) {
    const alpha = header >= 56 || packing === 6 ? data.getUint32(66, true) : 0;
    return [data.getUint32(54, true), data.getUint32(58, true), data.getUint32(62, true), alpha];
  }
  return bits === 16 ? [0x7c00, 0x3e0, 0x1f, 0] : [0xff0000, 0xff00, 0xff, bits === 32 ? 0xff000000 : 0];
}
