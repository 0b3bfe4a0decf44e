import { execFileSync } from 'node:child_process';
import { deflateSync, gzipSync } from 'node:zlib';
import { createHash } from 'node:crypto';
import fc from 'fast-check';
import sharp from 'sharp';
import { bufferSource, collect } from '../bytes';
import { openArchive, readEntry } from '../recipe';
import { carve, foundRecipe, listFound, listingTable } from '.';

/** Bytes that look random, have no text in them, and are the same each time. */
function noise(length: number, seed: string): Buffer {
  const parts: Buffer[] = [];
  for (let i = 0; i * 32 < length; i++) parts.push(createHash('sha256').update(`${seed} ${i}`).digest());
  return Buffer.concat(parts).subarray(0, length);
}

const picture = (format: 'png' | 'jpeg' | 'gif' | 'webp') =>
  sharp(noise(48 * 48 * 3, format), { raw: { width: 48, height: 48, channels: 3 } })
    .toFormat(format)
    .toBuffer();
const tool = (name: string, bytes: Buffer) => execFileSync(name, ['-q', '-c'], { input: bytes });
/** Little-endian words between texts and bytes: headers as their standards have them. */
const head = (...parts: (string | number | Buffer)[]) =>
  Buffer.concat(
    parts.map((part) => {
      if (typeof part !== 'number') return Buffer.from(part as string, 'latin1');
      const word = Buffer.alloc(4);
      word.writeUInt32LE(part);
      return word;
    }),
  );
const page = (flags: number, body: Buffer) =>
  head('OggS\0', Buffer.of(flags), Buffer.alloc(8), 77, 0, 0, Buffer.of(1, body.length), body);
const text = Buffer.from(`The last cabin leaves at eight. ${'Mind the doors, please. '.repeat(40)}\n`);

test('what other tools have made is found where it lies, to its last byte, and reads back', async () => {
  const wanted: { bytes: Buffer; extension: string; plain?: Buffer }[] = [
    { bytes: await picture('png'), extension: 'png' },
    { bytes: await picture('jpeg'), extension: 'jpg' },
    { bytes: await picture('gif'), extension: 'gif' },
    { bytes: await picture('webp'), extension: 'webp' },
    { bytes: head('RIFF', 236, 'WAVEfmt ', noise(228, 'wave')), extension: 'wav' },
    {
      bytes: Buffer.concat([page(2, noise(90, 'a')), page(0, noise(200, 'b')), page(4, noise(9, 'c'))]),
      extension: 'ogg',
    },
    { bytes: head('BM', 54 + 300, 0, 54, 40, noise(36 + 300, 'bmp')), extension: 'bin' },
    { bytes: head('glTF', 2, 80, noise(68, 'glb')), extension: 'glb' },
    { bytes: deflateSync(text), extension: 'txt', plain: text },
    { bytes: gzipSync(text), extension: 'txt', plain: text },
    { bytes: tool('zstd', text), extension: 'txt', plain: text },
    { bytes: tool('lz4', text), extension: 'txt', plain: text },
    { bytes: text, extension: 'txt' },
  ];
  const parts: Buffer[] = [];
  const places: number[] = [];
  let at = 0;
  for (const [i, { bytes }] of wanted.entries()) {
    const gap = Buffer.concat([noise(700 + 37 * i, `gap ${i}`), Buffer.alloc(3)]);
    places.push(at + gap.length);
    parts.push(gap, bytes);
    at += gap.length + bytes.length;
  }
  const source = bufferSource(Buffer.concat([...parts, noise(500, 'end')]), 'blob');
  const found = await carve(source);
  const table = (await openArchive(foundRecipe(), [bufferSource(listingTable(listFound(found)), 'table'), source]))
    .entries;
  expect(found.map(({ at: place, stored, extension }) => ({ place, stored, extension }))).toEqual(
    wanted.map(({ bytes, extension }, i) => ({ place: places[i], stored: bytes.length, extension })),
  );
  const archive = await openArchive(foundRecipe(), [bufferSource(listingTable(listFound(found)), 'table'), source]);
  for (let n = 0; n < table.count; n++) {
    const { bytes, plain } = wanted[n]!;
    expect(Buffer.from(await collect(readEntry(archive, n))).equals(plain ?? bytes)).toBe(true);
  }
});

test('things that are cut off or only look like it are not found, and nothing makes it stop', async () => {
  const png = await picture('png');
  const cut = [
    png.subarray(0, -5),
    deflateSync(text).subarray(0, -3),
    Buffer.from('BM OggS RIFF\xff\xd8\xff\xe0', 'latin1'),
  ];
  for (const bytes of cut) expect(await carve(bufferSource(bytes, 'cut'))).toEqual([]);
  const starts = [
    '\x89PNG\r\n\x1a\n',
    '\xff\xd8\xff',
    'RIFF',
    'OggS\0',
    'GIF89a',
    'BM',
    'DDS ',
    'glTF',
    '\0\0\0\x18ftyp',
    '\x28\xb5\x2f\xfd',
    '\x04\x22\x4d\x18',
    '\x1f\x8b\x08',
    '\x78\x9c',
  ];
  await fc.assert(
    fc.asyncProperty(fc.constantFrom(...starts), fc.uint8Array({ maxLength: 300 }), async (start, rest) => {
      const bytes = Buffer.concat([Buffer.from(start, 'latin1'), rest]);
      for (const one of await carve(bufferSource(bytes, 'any')))
        expect(one.at >= 0 && one.stored > 0 && one.at + one.stored <= bytes.length).toBe(true);
    }),
    { numRuns: 300 },
  );
});
