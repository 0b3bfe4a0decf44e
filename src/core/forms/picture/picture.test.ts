import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { faultOf } from '../../faults';
import { writeBmpForTest } from './formats/bmp.test-data';
import { readDds, writeDds } from './formats/dds';
import { chooseFormat } from './choose-format';
import { fitPicture, sayExpectation, type Packer } from './expectation';
import { readKtx2, writeKtx2 } from './formats/ktx2';
import { makeMips } from './mips';
import { isNormalMap } from './normal-map';
import { canPack, packPicture, packPixels, pictureError } from './pack';
import { flatPicture, unpackLevel, type Picture, type Pixels } from './picture';
import { findPixelFormat, levelBytes, pixelFormatNames } from './pixel-formats';
import { readPicture } from './formats';
import { writePng } from './raster';
import { readTga, writeTga } from './formats/tga';
import { unpackPixels } from './unpack';

const format = (name: string) => findPixelFormat(name)!;
const folder = mkdtempSync(join(tmpdir(), 'zl-picture-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** Soft hills of colour with some hard edges, as drawings have them. */
function drawing(width: number, height: number, alpha: (x: number, y: number) => number = () => 255): Pixels {
  const rgba = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const edge = (x >> 3) % 5 === 0 ? 60 : 0;
      rgba.set(
        [
          128 + 100 * Math.sin(x / 9) + 20 * Math.cos(y / 5),
          40 + edge + (y * 180) / height,
          200 - edge - (x * 150) / width,
          alpha(x, y),
        ].map((value) => Math.max(0, Math.min(255, Math.round(value)))),
        (y * width + x) * 4,
      );
    }
  return { width, height, rgba };
}

/** What ffmpeg makes of a picture file. */
function byFfmpeg(bytes: Uint8Array, name: string): Uint8Array {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  const args = ['-v', 'error', '-i', path, '-f', 'rawvideo', '-pix_fmt', 'rgba', join(folder, 'out.raw'), '-y'];
  execFileSync('ffmpeg', args);
  return new Uint8Array(readFileSync(join(folder, 'out.raw')));
}

const largest = (a: Uint8Array, b: Uint8Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0);

test.each(['bc1', 'bc2', 'bc3'])('%s is unpacked as ffmpeg unpacks it', (name) => {
  // Any bytes are blocks: every index and both orders of the ends come up.
  const level = Uint8Array.from(
    { length: levelBytes(format(name), 64, 32) },
    (_, i) => (i * 7919 + (i >> 3) * 104_729) >> 5,
  );
  const picture: Picture = { ...flat(64, 32), format: format(name), levels: [level] };
  const own = unpackLevel(picture, { mip: 0 }).rgba;
  const theirs = byFfmpeg(writeDds(picture), `${name}.dds`);
  // Five bits as eight, and a third of a step, may each be rounded either way.
  expect(largest(own, theirs)).toBeLessThanOrEqual(2);
});

const flat = (width: number, height: number) => ({
  ...{ width, height, depth: 1, layers: 1, faces: 1 as const, mips: 1, srgb: true },
});

test.each(['bc4', 'bc5'])('%s is unpacked as ffmpeg unpacks it', (name) => {
  const level = packPixels(format(name), drawing(64, 32), 'best');
  const picture: Picture = { ...flat(64, 32), format: format(name), levels: [level] };
  const own = unpackLevel(picture, { mip: 0 }).rgba;
  const theirs = byFfmpeg(writeDds(picture), `${name}.dds`);
  for (let channel = 0; channel < (name === 'bc4' ? 1 : 2); channel++) {
    const only = (rgba: Uint8Array) => rgba.filter((_, i) => (i & 3) === channel);
    expect(largest(only(own), only(theirs))).toBeLessThanOrEqual(1);
  }
});

test.each([
  ['rgba8', Infinity],
  ['bgra8', Infinity],
  ['rgb565', 34],
  ['bgra4', 27],
])('%s comes back within %d dB, and its DDS is what ffmpeg reads', (name, least) => {
  const pixels = drawing(36, 20, (x) => (x * 7) % 256);
  const picture = flatPicture(pixels, format(name), true);
  const back = unpackLevel(readDds(writeDds(picture), 'a.dds'), { mip: 0 });
  const opaque = !picture.format.channels.includes('a');
  const given = opaque ? { ...pixels, rgba: pixels.rgba.map((value, i) => ((i & 3) === 3 ? 255 : value)) } : pixels;
  expect(pictureError(given, back).decibels).toBeGreaterThanOrEqual(least);
  if (name !== 'bgra4') expect(largest(byFfmpeg(writeDds(picture), `${name}.dds`), back.rgba)).toBeLessThanOrEqual(4);
});

test.each([
  ['bc1', 35, 35.3],
  ['bc3', 36, 36.3],
  ['bc7', 36, 36],
])('%s keeps a drawing within %d dB when it is quick, and %d dB at its best', (name, fast, best) => {
  const pixels = drawing(32, 32, name === 'bc1' ? undefined : (x, y) => ((x + y) * 3) % 256);
  const errorOf = (quality: 'fast' | 'best') =>
    pictureError(pixels, {
      ...pixels,
      rgba: unpackPixels(format(name), packPixels(format(name), pixels, quality), 32, 32),
    });
  expect(errorOf('fast').decibels).toBeGreaterThan(fast);
  expect(errorOf('best').decibels).toBeGreaterThan(best);
  expect(errorOf('best').decibels).toBeGreaterThanOrEqual(errorOf('fast').decibels - 0.01);
});

test('what is cut out stays cut out in BC1', () => {
  const pixels = drawing(32, 32, (x) => (x < 16 ? 0 : 255));
  const back = unpackPixels(format('bc1'), packPixels(format('bc1'), pixels, 'best'), 32, 32);
  for (let i = 3; i < back.length; i += 4) expect(back[i]).toBe(pixels.rgba[i]);
});

test('blocks of one colour, of two, and of any size and bytes can be packed and come back near', () => {
  const side = fc.integer({ min: 1, max: 9 });
  const names = pixelFormatNames().filter((name) => canPack(format(name)));
  fc.assert(
    fc.property(side, side, fc.constantFrom(...names), fc.infiniteStream(fc.nat(255)), (width, height, name, bytes) => {
      const values = [...take(bytes, 3)];
      const rgba = Uint8Array.from({ length: width * height * 4 }, (_, i) =>
        (i & 3) === 3 ? 255 : values[(i >> 2) % 2 === 0 ? i & 3 : 0]!,
      );
      const pixels = { width, height, rgba };
      const packed = packPixels(format(name), pixels, 'fast');
      expect(packed.length).toBe(levelBytes(format(name), width, height));
      const back = unpackPixels(format(name), packed, width, height);
      // Two colours fit any block but for the bits of their ends.
      const first = { red: Math.abs(back[0]! - rgba[0]!), grey: Math.abs(back[0]! - grey(rgba)) };
      expect(
        Math.min(first.red, name.startsWith('grey') ? first.grey : 255, name === 'a8' ? 0 : 255),
      ).toBeLessThanOrEqual(9);
    }),
    { numRuns: 150 },
  );
});

const grey = (rgba: Uint8Array) => 0.2126 * rgba[0]! + 0.7152 * rgba[1]! + 0.0722 * rgba[2]!;

function* take<T>(from: Iterable<T>, count: number): Generator<T> {
  let left = count;
  for (const one of from) {
    if (left-- === 0) return;
    yield one;
  }
}

test.each(['rgba8', 'bc1', 'bc3', 'bc5', 'bc7', 'r8', 'rgb565'])(
  '%s goes through DDS and KTX2 with its mips unchanged',
  async (name) => {
    const picture = packPicture(drawing(40, 24), format(name), { srgb: name.startsWith('bc1'), quality: 'fast' });
    expect(picture.mips).toBe(6);
    for (const back of [readDds(writeDds(picture), 'a.dds'), await readKtx2(writeKtx2(picture), 'a.ktx2')]) {
      expect(back).toMatchObject({ width: 40, height: 24, mips: 6, layers: 1, faces: 1 });
      expect(back.format.name).toBe(name);
      expect(back.levels.map((level) => [...level])).toEqual(picture.levels.map((level) => [...level]));
    }
  },
);

test('cubes and layers keep their order', async () => {
  const levels = Array.from({ length: 6 * 2 }, (_, i) => new Uint8Array(i % 2 === 0 ? 16 : 4).fill(i));
  const cube: Picture = { ...flat(2, 2), faces: 6, mips: 2, format: format('rgba8'), levels };
  for (const back of [readDds(writeDds(cube), 'cube.dds'), await readKtx2(writeKtx2(cube), 'cube.ktx2')]) {
    expect(back.faces).toBe(6);
    expect(back.levels.map(([first]) => first)).toEqual(levels.map(([first]) => first));
  }
});

test('TGA comes back, and as ffmpeg reads it; BMP as ffmpeg writes it', async () => {
  const pixels = drawing(21, 13, (x) => x * 10);
  expect(unpackLevel(readTga(writeTga(pixels), 'a.tga'), { mip: 0 })).toEqual(pixels);
  expect(largest(byFfmpeg(writeTga(pixels), 'a.tga'), pixels.rgba)).toBe(0);
  writeFileSync(join(folder, 'in.png'), await writePng(pixels));
  for (const [name, ...more] of [['rle.tga', '-rle', '1'], ['plain.bmp'], ['grey.bmp', '-pix_fmt', 'gray']]) {
    execFileSync('ffmpeg', ['-v', 'error', '-i', join(folder, 'in.png'), ...more, join(folder, name!), '-y']);
    const { picture } = await readPicture(new Uint8Array(readFileSync(join(folder, name!))), name!);
    const theirs = byFfmpeg(new Uint8Array(readFileSync(join(folder, name!))), name!);
    expect(largest(unpackLevel(picture, { mip: 0 }).rgba, theirs)).toBeLessThanOrEqual(1);
  }
});

test('mips get lighter as light does, keep colours beside what is clear, and directions their length', () => {
  const checker: Pixels = { width: 2, height: 1, rgba: Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255]) };
  expect([...makeMips(checker, { srgb: true })[1]!.rgba]).toEqual([188, 188, 188, 255]);
  expect([...makeMips(checker, { srgb: false })[1]!.rgba]).toEqual([128, 128, 128, 255]);
  const beside: Pixels = { width: 2, height: 1, rgba: Uint8Array.from([200, 10, 10, 255, 0, 255, 0, 0]) };
  expect([...makeMips(beside, { srgb: true })[1]!.rgba]).toEqual([200, 10, 10, 128]);
  const slopes: Pixels = { width: 2, height: 1, rgba: Uint8Array.from([218, 128, 218, 90, 37, 128, 218, 110]) };
  expect(isNormalMap(slopes)).toBe(true);
  const [x, , z, rough] = makeMips(slopes, { srgb: false, normals: true })[1]!.rgba;
  expect(Math.abs(x! - 128)).toBeLessThanOrEqual(1);
  expect(z).toBe(255);
  expect(rough).toBe(100);
});

const pack: Packer = async (pixels, to, options) => packPicture(pixels, to, options);

test('a picture of another size, without alpha, is made to fit, and what was done is said', async () => {
  const original = packPicture(
    drawing(64, 64, (x) => x * 4),
    format('bc3'),
    { srgb: true, quality: 'fast' },
  );
  expect(sayExpectation(original)).toEqual([
    '64 × 64 pixels; both are powers of two. Another size is made to fit.',
    'BC3, colours in sRGB.',
    '7 mips, down to one pixel: they are made from what you bring.',
    'Alpha is used. A file without alpha keeps that of the original.',
  ]);
  const given = flatPicture(drawing(100, 50), format('rgb8'), true);
  const { picture, notes } = await fitPicture(original, given, 'mine.png', { quality: 'fast', pack });
  expect(picture).toMatchObject({ width: 64, height: 64, mips: 7 });
  expect(notes.slice(0, 3)).toEqual([
    { code: 'picture-resized', from: [100, 50], to: [64, 64], stretched: true },
    { code: 'picture-alpha-kept' },
    { code: 'picture-packed', format: 'BC3', decibels: expect.any(Number) },
  ]);
  const alpha = ({ rgba }: Pixels) => rgba.filter((_, i) => (i & 3) === 3);
  const kept = largest(alpha(unpackLevel(picture, { mip: 0 })), alpha(unpackLevel(original, { mip: 0 })));
  expect(kept).toBeLessThanOrEqual(4);
});

test('a file that is packed as the game packs goes in as it is', async () => {
  const original = packPicture(drawing(32, 32), format('bc1'), { srgb: true, quality: 'fast' });
  const given = readDds(
    writeDds(packPicture(drawing(32, 32), format('bc1'), { srgb: true, quality: 'best' })),
    'a.dds',
  );
  const { picture, notes } = await fitPicture(original, given, 'a.dds', { quality: 'fast', pack });
  expect(picture.levels).toBe(given.levels);
  expect(notes).toEqual([]);
});

test.each<[what: string, name: string, make: () => Uint8Array | Promise<Uint8Array>, says: RegExp]>([
  ['a text', 'a.png', () => Buffer.from('this is no picture'), /no picture/],
  ['nothing', 'a.png', () => new Uint8Array(0), /begins with nothing|no picture/],
  ['half a PNG', 'a.png', async () => (await writePng(drawing(50, 50))).subarray(0, 900), /cannot be read/],
  [
    'half a DDS',
    'a.dds',
    () => writeDds(flatPicture(drawing(9, 9), format('rgba8'), true)).subarray(0, 300),
    /too early/,
  ],
  ['a DDS of unknown pixels', 'a.dds', () => damaged(84, 'WXYZ'), /not known/],
  ['a DDS of 20,000 pixels', 'a.dds', () => damaged(16, '\x20\x4e\0\0'), /too large/],
  ['a DDS without pixels', 'a.dds', () => damaged(16, '\0\0\0\0'), /no pixels/],
  ['half a TGA', 'a.tga', () => writeTga(drawing(9, 9)).subarray(0, 100), /too early/],
  ['half a BMP', 'a.bmp', () => writeBmpForTest(4, 4).subarray(0, 60), /too early/],
])('%s is refused in words', async (_, name, make, says) => {
  const error = await readPicture(await make(), name).then(
    () => undefined,
    (thrown: unknown) => faultOf(thrown, name),
  );
  expect(`${error?.what} ${error?.found}`).toMatch(says);
  expect(error?.file).toBe(name);
});

function damaged(at: number, text: string): Uint8Array {
  const bytes = writeDds(packPicture(drawing(8, 8), format('bc1'), { srgb: true, quality: 'fast' }));
  bytes.set(Buffer.from(text, 'latin1'), at);
  return bytes;
}

test('whatever bytes come, they are a picture or a fault', async () => {
  const dds = writeDds(packPicture(drawing(8, 8), format('bc1'), { srgb: true, quality: 'fast' }));
  const ktx = writeKtx2(packPicture(drawing(8, 8), format('bc7'), { srgb: true, quality: 'fast' }));
  const start = fc.constantFrom(dds, ktx, writeTga(drawing(5, 5)), writeBmpForTest(4, 4));
  const edits = fc.array(fc.tuple(fc.nat(200), fc.nat(255)), { maxLength: 6 });
  await fc.assert(
    fc.asyncProperty(start, edits, async (good, wrong) => {
      const bytes = new Uint8Array(good);
      for (const [at, value] of wrong) if (at < bytes.length) bytes[at] = value;
      const outcome = await readPicture(bytes, 'a.tga').catch((error: unknown) => faultOf(error, 'a.tga').code);
      if (typeof outcome === 'string')
        expect(['wrong-kind', 'cut-short', 'limit-reached', 'size-differs', 'codec-failed']).toContain(outcome);
      else unpackLevel(outcome.picture, { mip: outcome.picture.mips - 1 });
    }),
    { numRuns: 400 },
  );
});

test('how a picture is packed is chosen by its pixels, with the reason', () => {
  const pixels = (rgba: readonly number[], alpha: readonly number[]): Pixels => ({
    width: 4,
    height: 4,
    rgba: Uint8Array.from({ length: 64 }, (_, i) => (i % 4 === 3 ? alpha[(i >> 2) % alpha.length]! : rgba[i % 4]!)),
  });
  const all = ['bc1', 'bc3', 'bc5', 'bc7'];
  const chosen = (one: Pixels, allowed: readonly string[], srgb = true) => {
    const found = chooseFormat(one, allowed, srgb);
    return found && [found.format.name, found.reason, found.percent];
  };
  const opaque = pixels([200, 90, 30], [255]);
  expect(chosen(opaque, all)).toEqual(['bc1', 'no-alpha', undefined]);
  expect(chosen(pixels([200, 90, 30], [255, 255, 255, 9]), all)).toEqual(['bc7', 'alpha', 25]);
  expect(chosen(pixels([200, 90, 30], [9]), ['bc1', 'bc3'])![0]).toBe('bc3');
  expect(chosen(pixels([128, 128, 255], [255]), all, false)).toEqual(['bc5', 'normal-map', undefined]);
  expect(chosen(opaque, ['rgba8'])).toBeUndefined();
});

test('alpha that is multiplied in is divided out, and multiplied in again', () => {
  const pixels: Pixels = {
    width: 8,
    height: 8,
    rgba: Uint8Array.from({ length: 256 }, (_, i) => (i % 4 === 3 ? 128 : 40 + ((i >> 2) % 8) * 20)),
  };
  const picture = packPicture(pixels, format('bc3p'), { srgb: true, quality: 'best', count: 1 });
  const file = writeDds(picture);
  expect(Buffer.from(file.subarray(84, 88)).toString('latin1')).toBe('DXT4');
  const again = readDds(file, 'a.dds');
  expect(again.format.name).toBe('bc3p');
  expect(pictureError(unpackLevel(again, { mip: 0 }), pixels).largest).toBeLessThan(14);
  // The stored colours are half as bright.
  const stored = unpackPixels(format('bc3'), again.levels[0]!, 8, 8);
  expect(Math.abs(stored[28]! - pixels.rgba[28]! / 2)).toBeLessThan(8);
});

test('an SVG is drawn, and reads nothing from outside', async () => {
  const svg = (inside: string) =>
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="4" height="2">${inside}</svg>`,
    );
  const { picture, is } = await readPicture(svg('<rect width="4" height="2" fill="#204060"/>'), 'sign.svg');
  expect([is, picture.width, picture.height]).toEqual(['svg', 4, 2]);
  expect([...unpackLevel(picture, { mip: 0 }).rgba.subarray(0, 4)]).toEqual([0x20, 0x40, 0x60, 255]);
  const outside = await readPicture(
    svg('<image width="4" height="2" xlink:href="file:///etc/hostname.png"/>'),
    'sign.svg',
  );
  expect(unpackLevel(outside.picture, { mip: 0 }).rgba.every((value) => value === 0)).toBe(true);
  await expect(readPicture(Buffer.from('<svg width="40000" height="40000"/>'), 'huge.svg')).rejects.toThrow(
    /cannot be read/,
  );
});
