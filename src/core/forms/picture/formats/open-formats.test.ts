/** Open formats as ffmpeg and other readers write and read them, and files that take the place of one as it is. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { z } from 'zod';
import { sayFault } from '../../../faults';
import { sayNote } from '../../../notes';
import { fitPictureFiles } from '../fit-files';
import { packPicture } from '../pack';
import { readPictureFiles } from '../picture-files';
import { unpackLevel, type Pixels } from '../picture';
import { findPixelFormat } from '../pixel-formats';
import { graftKtx, readKtx } from './ktx';
import { readPicture } from './open-formats';
import { writeTga } from './tga';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-open-formats-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** Few colours, so that palettes hold them all, in runs and alone. */
const drawing: Pixels = {
  width: 37,
  height: 11,
  rgba: Uint8Array.from({ length: 37 * 11 * 4 }, (_, i) => {
    const pixel = i >> 2;
    return i % 4 === 3 ? 255 : ((Math.floor(pixel / 5) * 85 + (pixel % 37 < 20 ? 0 : 85)) * (1 + (i % 4))) & 0xc0;
  }),
};

const raw = ({ width, height, rgba }: Pixels) => sharp(rgba, { raw: { width, height, channels: 4 } });

/** A file that ffmpeg writes. */
async function written(name: string, ...options: readonly string[]): Promise<Uint8Array> {
  const [from, to] = [join(folder, 'from.png'), join(folder, name)];
  writeFileSync(from, await raw(drawing).removeAlpha().png().toBuffer());
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', from, ...options, to]);
  return new Uint8Array(readFileSync(to));
}

function byFfmpeg(bytes: Uint8Array, name: string): { pixels: Buffer; stored: string } {
  const path = join(folder, `read-${name}`);
  writeFileSync(path, bytes);
  const pixels = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'rawvideo', '-pix_fmt', 'rgba', '-']);
  const args = ['-v', 'error', '-show_entries', 'stream=width,height,pix_fmt', '-of', 'csv=p=0', path];
  return { pixels, stored: execFileSync('ffprobe', args).toString().trim() };
}

const furthest = (a: Uint8Array, b: Uint8Array) =>
  a.reduce((most, value, i) => Math.max(most, Math.abs(value - b[i]!)), 0);

const pack: Parameters<typeof fitPictureFiles>[3]['pack'] = (...order) => Promise.resolve(packPicture(...order));

/** Colours that all 8 bits have, after ffmpeg has read them out of 5 or 6. */
const FEW_BITS = 8;

test.each([
  ['plain.bmp', ['-pix_fmt', 'bgr24'], 0],
  ['alpha.bmp', ['-pix_fmt', 'bgra'], 0],
  ['words.bmp', ['-pix_fmt', 'rgb555le'], FEW_BITS],
  ['green.bmp', ['-pix_fmt', 'rgb565le'], FEW_BITS],
  ['grey.bmp', ['-pix_fmt', 'gray'], 0],
  ['palette.bmp', ['-pix_fmt', 'rgb8'], 0],
  ['one.bmp', ['-pix_fmt', 'monob'], 0],
  ['plain.pcx', ['-pix_fmt', 'rgb24'], 0],
  ['palette.pcx', ['-pix_fmt', 'rgb8'], 0],
  ['one.pcx', ['-pix_fmt', 'monow'], 0],
  ['plain.sgi', ['-rle', '0', '-pix_fmt', 'rgb24'], 0],
  ['packed.sgi', ['-rle', '1', '-pix_fmt', 'rgb24'], 0],
  ['alpha.rgba', ['-c:v', 'sgi', '-f', 'image2', '-pix_fmt', 'rgba'], 0],
  ['grey.bw', ['-c:v', 'sgi', '-f', 'image2', '-pix_fmt', 'gray'], 0],
  ['plain.tga', ['-rle', '0', '-pix_fmt', 'bgr24'], 0],
  ['packed.tga', ['-rle', '1', '-pix_fmt', 'bgr24'], 0],
  ['alpha.tga', ['-rle', '1', '-pix_fmt', 'bgra'], 0],
  ['words.tga', ['-rle', '1', '-pix_fmt', 'rgb555le'], FEW_BITS],
  ['grey.tga', ['-rle', '1', '-pix_fmt', 'gray'], 0],
] as const)(
  '%s is read as ffmpeg reads it, and another takes its place as it is stored',
  async (name, options, most) => {
    const original = await written(name, ...options);
    const theirs = byFfmpeg(original, name);
    const found = await readPictureFiles({ path: name, bytes: original }, undefined, () => Promise.resolve(undefined));
    const pixels = unpackLevel(found.picture, { mip: 0 });
    expect(furthest(pixels.rgba, theirs.pixels)).toBeLessThanOrEqual(most);

    const mirrored = await raw(pixels).flop().raw().toBuffer();
    const png = await raw({ ...pixels, rgba: mirrored })
      .png()
      .toBuffer();
    const { files } = await fitPictureFiles(found, png, 'mine.png', { pack, quality: 'fast' });
    const back = byFfmpeg(files[0]!.bytes, name);
    expect(back.stored).toBe(theirs.stored);
    expect(furthest(back.pixels, mirrored)).toBeLessThanOrEqual(most);

    const again = await fitPictureFiles(found, original, name, { pack, quality: 'fast' });
    expect(Buffer.compare(again.files[0]!.bytes, original)).toBe(0);
  },
);

test('colours that a palette has not become the nearest of it, and the distance is noted', async () => {
  const bytes = await written('few.bmp', '-pix_fmt', 'rgb8');
  const found = await readPictureFiles({ path: 'few.bmp', bytes }, undefined, () => Promise.resolve(undefined));
  const png = await sharp({ create: { width: 74, height: 22, channels: 3, background: '#3a7b51' } })
    .png()
    .toBuffer();
  const { files, notes } = await fitPictureFiles(found, png, 'mine.png', { pack, quality: 'fast' });
  expect(notes.map(sayNote)).toEqual([
    'yours was 74 × 22, resized to 37 × 11',
    expect.stringMatching(/^packed as indexed, 256 colours, within \d+\.\d dB of yours$/),
  ]);
  expect(byFfmpeg(files[0]!.bytes, 'few.bmp').stored).toBe('37,11,pal8');
});

test('runs of BMP are unpacked: lengths, ends of rows, jumps, and colours one by one', async () => {
  const head = await written('runs.bmp', '-pix_fmt', 'rgb8');
  const start = new DataView(head.buffer).getUint32(10, true);
  const runs = [5, 3, 0, 0, 0, 3, 7, 8, 9, 0, 0, 2, 4, 1, 2, 6, 0, 1];
  const bytes = Uint8Array.from([...head.subarray(0, start), ...runs]);
  new DataView(bytes.buffer).setUint32(30, 1, true);
  const { picture } = await readPicture(bytes, 'runs.bmp');
  const rows = Array.from({ length: 11 }, (_, y) => [...picture.levels[0]!.subarray((10 - y) * 37, (11 - y) * 37)]);
  expect(rows[0]!.slice(0, 6)).toEqual([3, 3, 3, 3, 3, 0]);
  expect(rows[1]!.slice(0, 4)).toEqual([7, 8, 9, 0]);
  expect(rows[2]!.slice(0, 9)).toEqual([0, 0, 0, 0, 0, 0, 0, 6, 6]);
  expect(byFfmpeg(bytes, 'runs.bmp').pixels).toEqual(Buffer.from(unpackLevel(picture, { mip: 0 }).rgba));
});

/** The module is one that jest does not load. */
function byThree(path: string): { mipmapCount: number; mipmaps: number[][] } {
  const script = `
    import { readFileSync } from 'node:fs';
    import { KTXLoader } from 'three/examples/jsm/loaders/KTXLoader.js';
    const bytes = Uint8Array.from(readFileSync(process.argv[1]));
    const { mipmapCount, mipmaps } = new KTXLoader().parse(bytes.buffer, true);
    console.log(JSON.stringify({ mipmapCount, mipmaps: mipmaps.map(({ data }) => [...data]) }));`;
  const out = execFileSync(process.execPath, ['--input-type=module', '-e', script, path]);
  return z.object({ mipmapCount: z.number(), mipmaps: z.array(z.array(z.number())) }).parse(JSON.parse(out.toString()));
}

describe('KTX', () => {
  /** A file by the standard, made here: 2 mips of RGB, rows padded to 4 bytes. */
  const file = (
    numbers: Readonly<Record<number, number>>,
    levels: readonly Uint8Array[],
    bigEndian = false,
  ): Uint8Array => {
    const head = Buffer.alloc(64 + 8);
    head.set([0xab, 0x4b, 0x54, 0x58, 0x20, 0x31, 0x31, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a]);
    const put = (value: number, at: number) =>
      bigEndian ? head.writeUInt32BE(value, at) : head.writeUInt32LE(value, at);
    put(0x04030201, 12);
    for (const [at, value] of Object.entries({ 20: 1, 52: 1, 56: levels.length, 60: 8, 64: 4, ...numbers }))
      put(value, Number(at));
    const sized = levels.flatMap((level) => {
      const length = Buffer.alloc(4);
      if (bigEndian) length.writeUInt32BE(level.length);
      else length.writeUInt32LE(level.length);
      return [length, level];
    });
    return Uint8Array.from(Buffer.concat([head, ...sized]));
  };
  const RGB = { 16: 0x1401, 24: 0x1907, 28: 0x8051, 32: 0x1907, 36: 3, 40: 2 };
  const padded = Uint8Array.from([1, 2, 3, 4, 5, 6, 7, 8, 9, 0, 0, 0, 11, 12, 13, 14, 15, 16, 17, 18, 19, 0, 0, 0]);
  const last = Uint8Array.from([21, 22, 23, 0]);

  test.each([false, true])('rows without their padding, and back as they were; big-endian: %s', (bigEndian) => {
    const bytes = file(RGB, [padded, last], bigEndian);
    const picture = readKtx(bytes, 'a.ktx');
    expect([...unpackLevel(picture, { mip: 0 }).rgba.subarray(12, 16)]).toEqual([11, 12, 13, 255]);
    expect([...picture.levels[1]!]).toEqual([21, 22, 23]);
    expect(Buffer.compare(graftKtx(bytes, picture, 'a.ktx'), bytes)).toBe(0);
  });

  test('blocks as another reader finds them', () => {
    const pixels = { width: 8, height: 8, rgba: Uint8Array.from({ length: 256 }, (_, i) => (i % 4 === 3 ? 255 : i)) };
    const packed = packPicture(pixels, findPixelFormat('bc3')!, { srgb: true, quality: 'fast' });
    const bytes = file({ 16: 0, 24: 0, 28: 0x83f3, 32: 0x1908, 36: 8, 40: 8 }, [...packed.levels]);
    const before = readKtx(bytes, 'a.ktx');
    expect([before.format.name, before.mips]).toEqual(['bc3', 4]);
    const turned = { ...before, levels: before.levels.map((level) => Uint8Array.from(level).reverse()) };
    const made = graftKtx(bytes, turned, 'a.ktx');
    writeFileSync(join(folder, 'made.ktx'), made);
    const theirs = byThree(join(folder, 'made.ktx'));
    expect(theirs.mipmapCount).toBe(4);
    expect(theirs.mipmaps).toEqual(turned.levels.map((level) => [...level]));
  });

  test.each([
    ['pixels that are not known', { ...RGB, 28: 0x9999, 16: 0 }, /internal format 9999/],
    ['five faces', { ...RGB, 52: 5 }, /numberOfFaces.*1 or 6.*5/],
    ['a size that is none of these pixels', { ...RGB, 36: 5 }, /mip 0 has a size of its own/],
  ])('%s are named with their place', (_, numbers, fault) => {
    expect(() => readKtx(file(numbers, [padded, last]), 'a.ktx')).toThrow(
      expect.objectContaining({ fault: expect.anything() }),
    );
    try {
      readKtx(file(numbers, [padded, last]), 'a.ktx');
    } catch (error) {
      expect(sayFault((error as { fault: Parameters<typeof sayFault>[0] }).fault)).toMatch(fault);
    }
  });
});

test('a TGA that begins at the right or the top is put back in the same order', async () => {
  const original = writeTga(drawing);
  // From the lower right.
  original[17] = 0x18;
  const found = await readPictureFiles({ path: 'a.tga', bytes: original }, undefined, () => Promise.resolve(undefined));
  const pixels = unpackLevel(found.picture, { mip: 0 });
  expect([...pixels.rgba.subarray(0, 4)]).toEqual([...drawing.rgba.subarray(-4)]);
  const { files } = await fitPictureFiles(found, await raw(pixels).flip().png().toBuffer(), 'b.png', {
    pack,
    quality: 'fast',
  });
  const { picture } = await readPicture(files[0]!.bytes, 'a.tga');
  const upside = await raw(pixels).flip().raw().toBuffer();
  expect(furthest(unpackLevel(picture, { mip: 0 }).rgba, upside)).toBe(0);
});

/** What takes the place of a file, when another of the same format is brought. */
async function placed(name: string, original: Uint8Array, given: Uint8Array): Promise<Uint8Array> {
  const found = await readPictureFiles({ path: name, bytes: original }, undefined, () => Promise.resolve(undefined));
  return (await fitPictureFiles(found, given, name, { pack, quality: 'fast' })).files[0]!.bytes;
}

test('a file of the same format that is stored in another way is written in that of the original', async () => {
  const plain = await written('plain.tga', '-rle', '0', '-pix_fmt', 'bgr24');
  const packed = await written('packed.tga', '-rle', '1', '-pix_fmt', 'bgr24');
  expect([plain[2], packed[2]]).toEqual([2, 10]);
  expect([(await placed('a.tga', plain, packed))[2], (await placed('a.tga', packed, plain))[2]]).toEqual([2, 10]);
  const eight = await written('eight.bmp', '-pix_fmt', 'rgb8');
  const one = await written('one-bit.bmp', '-pix_fmt', 'monob');
  const made = await placed('a.bmp', eight, one);
  expect(new DataView(made.buffer, made.byteOffset).getUint16(28, true)).toBe(8);
  expect(byFfmpeg(made, 'a.bmp').stored).toBe('37,11,pal8');
});

test('a palette of its own is kept where the file is stored alike', async () => {
  const eight = await written('mine.bmp', '-pix_fmt', 'rgb8');
  const other = eight.slice();
  other.fill(0x5a, 54, 54 + 64);
  expect(Buffer.compare(await placed('a.bmp', eight, other), other)).toBe(0);
});

test.each([
  ['a.pcx', [10, 5, 1, 8, 0, 0, 0, 0, 0xff, 0x3f, 0xff, 0x3f], { 65: 3, 66: 0xff, 67: 0xff }],
  ['a.tga', [0, 0, 10, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0x40, 0, 0x40, 32, 8], {}],
  ['a.sgi', [1, 0xda, 1, 1, 0, 3, 0x40, 0, 0x40, 0, 0, 4], {}],
  ['b.sgi', [1, 0xda, 1, 1, 0, 3, 0x40, 0, 0, 4, 0, 4], {}],
  [
    'a.bmp',
    [0x42, 0x4d, 0, 0, 0, 0, 0, 0, 0, 0, 118, 0, 0, 0, 40],
    { 19: 0x40, 23: 0x40, 26: 1, 28: 8, 30: 1, 46: 16 },
  ],
])('sizes in %s that its bytes cannot hold are refused before room is made for them', async (name, start, more) => {
  const bytes = new Uint8Array(700);
  bytes.set(start);
  for (const [at, value] of Object.entries(more)) bytes[Number(at)] = value;
  const before = process.memoryUsage().arrayBuffers;
  await expect(readPicture(bytes, name)).rejects.toMatchObject({ fault: { code: 'cut-short', file: name } });
  expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(8 << 20);
});

test('colours of a TGA palette keep their alpha, and count from the first that the file has', async () => {
  const head = [0, 1, 1, 10, 0, 2, 0, 32, 0, 0, 0, 0, 2, 0, 1, 0, 8, 0x20];
  const bytes = Uint8Array.from([...head, 30, 20, 10, 128, 60, 50, 40, 255, 11, 10]);
  const { picture } = await readPicture(bytes, 'a.tga');
  expect([...unpackLevel(picture, { mip: 0 }).rgba]).toEqual([40, 50, 60, 255, 10, 20, 30, 128]);
  bytes[bytes.length - 1] = 9;
  await expect(readPicture(bytes, 'a.tga')).rejects.toMatchObject({ fault: { code: 'wrong-kind' } });
});
