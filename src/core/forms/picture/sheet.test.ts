import fc from 'fast-check';
import { findPixelFormat } from './pixel-formats';
import { packPicture } from './pack';
import { unpackLevel, type Picture, type Pixels } from './picture';
import { cutRectangle, pasteRectangles, type Rectangle } from './sheet';

const noise = (width: number, height: number, seed: number): Pixels => ({
  width,
  height,
  rgba: Uint8Array.from({ length: width * height * 4 }, (_, i) => (Math.imul(i + seed, 2_654_435_761) >>> 20) & 255),
});
const sheetOf = (format: string, width = 64, height = 48) =>
  packPicture(noise(width, height, 7), findPixelFormat(format)!, { srgb: true, quality: 'fast', count: 3 });

const place = fc
  .record({
    x: fc.nat(59),
    y: fc.nat(43),
    width: fc.integer({ min: 1, max: 40 }),
    height: fc.integer({ min: 1, max: 40 }),
  })
  .map(({ x, y, width, height }): Rectangle => ({
    name: 'a',
    x,
    y,
    width: Math.min(width, 64 - x),
    height: Math.min(height, 48 - y),
  }));

/** Blocks of a level that have other bytes than they had, as places of their first pixels. */
function changedBlocks(before: Picture, after: Picture, mip: number): { x: number; y: number }[] {
  const { side, bytes } = before.format;
  const across = Math.ceil((before.width >> mip) / side);
  const changed = [];
  const [a, b] = [Buffer.from(before.levels[mip]!), Buffer.from(after.levels[mip]!)];
  for (let i = 0; i * bytes < a.length; i++)
    if (a.compare(b, i * bytes, (i + 1) * bytes, i * bytes, (i + 1) * bytes) !== 0)
      changed.push({ x: (i % across) * side, y: Math.floor(i / across) * side });
  return changed;
}

test.each(['rgba8', 'bc1', 'bc3'])('of a sheet in %s a cut is what is seen there', (format) => {
  const sheet = sheetOf(format);
  const whole = unpackLevel(sheet, { mip: 0 });
  fc.assert(
    fc.property(place, (rectangle) => {
      const cut = unpackLevel(cutRectangle(sheet, rectangle), { mip: 0 });
      const { x, y, width, height } = rectangle;
      for (let row = 0; row < height; row++)
        for (let i = 0; i < width * 4; i++)
          if (cut.rgba[row * width * 4 + i] !== whole.rgba[((y + row) * 64 + x) * 4 + i]) return false;
      return true;
    }),
  );
});

test.each(['rgba8', 'bc1', 'bc3'])('of a sheet in %s only the blocks of a place change', (format) => {
  const sheet = sheetOf(format);
  const { side } = sheet.format;
  fc.assert(
    fc.property(place, fc.nat(1000), (rectangle, seed) => {
      const { x, y, width, height } = rectangle;
      const picture = packPicture(noise(width, height, seed), findPixelFormat('rgba8')!, {
        ...{ srgb: true, quality: 'fast' as const, count: 1 },
      });
      const next = pasteRectangles(sheet, [{ place: rectangle, picture }], 'fast');
      // What is pasted is there: exactly where pixels are not packed, and another than before where they are.
      const seen = unpackLevel(cutRectangle(next, rectangle), { mip: 0 }).rgba;
      const wanted = unpackLevel(picture, { mip: 0 }).rgba;
      if (format === 'rgba8' && Buffer.compare(seen, wanted) !== 0) return false;
      // A few pixels of a block may well be packed as what was there.
      if (width >= 2 * side && height >= 2 * side && changedBlocks(sheet, next, 0).length === 0) return false;
      for (let mip = 0; mip < sheet.mips; mip++) {
        const [endX, endY] = [
          Math.max((x >> mip) + 1, (x + width) >> mip),
          Math.max((y >> mip) + 1, (y + height) >> mip),
        ];
        for (const block of changedBlocks(sheet, next, mip))
          if (block.x + side <= x >> mip || block.x >= endX || block.y + side <= y >> mip || block.y >= endY)
            return false;
      }
      return true;
    }),
    { numRuns: 40 },
  );
});

test('what was cut on the edges of blocks and is put back changes nothing of the largest mip', () => {
  const sheet = sheetOf('bc3');
  const rectangle = { name: 'a', x: 16, y: 16, width: 32, height: 32 };
  const next = pasteRectangles(sheet, [{ place: rectangle, picture: cutRectangle(sheet, rectangle) }], 'fast');
  expect(changedBlocks(sheet, next, 0)).toEqual([]);
});

test('two neighbours that share a block of a mip are both seen', () => {
  const sheet = sheetOf('rgba8');
  const flat = (value: number) =>
    packPicture({ width: 6, height: 6, rgba: new Uint8Array(144).fill(value) }, findPixelFormat('rgba8')!, {
      ...{ srgb: true, quality: 'fast' as const, count: 1 },
    });
  const places = [0, 6].map((x, i) => ({
    place: { name: 'a', x, y: 0, width: 6, height: 6 },
    picture: flat(i === 0 ? 255 : 64),
  }));
  const half = unpackLevel(pasteRectangles(sheet, places, 'fast'), { mip: 1 });
  expect([half.rgba[0], half.rgba[3 * 4]]).toEqual([255, 64]);
});
