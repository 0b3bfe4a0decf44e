import fc from 'fast-check';
import { paletteFormat } from './palette';
import { findPixelFormat, maskedFormat, pixelFormatNames, type PixelFormat } from './pixel-formats';
import { unpackPixels } from './unpack';

const bytesOf = (length: number) => fc.uint8Array({ minLength: length, maxLength: length });

describe('many pixels at once are what each is by itself', () => {
  const formats: PixelFormat[] = [
    ...pixelFormatNames().map((name) => findPixelFormat(name)!),
    maskedFormat(32, [0x3ff00000, 0xffc00, 0x3ff, 0xc0000000]),
    maskedFormat(32, [0xffffff00 | 0, 0, 0, 0xff]),
    maskedFormat(16, [0xf000, 0, 0xff, 0]),
    paletteFormat(
      'index8',
      Uint8Array.from({ length: 768 }, (_, i) => (i * 7) & 255),
      'rgb8',
    ),
    paletteFormat(
      'index8',
      Uint8Array.from({ length: 30 }, (_, i) => i),
      'rgb8',
    ),
    paletteFormat(
      'index8a8',
      Uint8Array.from({ length: 768 }, (_, i) => (i * 5) & 255),
      'rgb8',
    ),
  ].filter(({ side }) => side === 1);

  test.each(formats.map((format) => [format.name.slice(0, 40), format] as const))('%s', (_, format) => {
    fc.assert(
      fc.property(bytesOf(5 + 12 * format.bytes), (bytes) => {
        const one = new Uint8Array(4);
        const singly = Array.from({ length: 12 }, (__, i) => {
          format.unpack(bytes, 5 + i * format.bytes, one);
          return [...one];
        });
        expect([...unpackPixels(format, bytes, 4, 3, 5)]).toEqual(singly.flat());
      }),
      { numRuns: 30 },
    );
  });
});
