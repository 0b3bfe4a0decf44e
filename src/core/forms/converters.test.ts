/** What every form offers without a database: conversion to open formats, and files made to fit. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { FormatError } from '../faults';
import { CONVERTERS, convertEntry, fitEntry, ifReadable, type EntryToConvert } from '.';

const FONT = readFileSync(
  join(
    __dirname,
    '../../../node_modules/@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2',
  ),
);
const OBJ = Buffer.from('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n');
const picture = (format: 'png' | 'jpeg' | 'webp', width = 8, height = 4) =>
  sharp({ create: { width, height, channels: 3, background: '#35a' } })
    .toFormat(format)
    .toBuffer();

const entry = (path: string, bytes: Uint8Array): EntryToConvert => ({
  path,
  head: bytes.subarray(0, 512),
  bytes: () => Promise.resolve(bytes),
  recipes: [],
  companion: () => Promise.resolve(undefined),
});

test.each([
  ['a.jpg', () => picture('jpeg'), ['glb', 'png'], 'png'],
  ['a.obj', () => OBJ, ['png', 'stl'], 'stl'],
  ['a.woff2', () => FONT, ['obj', 'ttf'], 'ttf'],
] as const)('%s goes out in the first format that suits its form', async (path, bytes, wanted, as) => {
  const made = await convertEntry(entry(path, await bytes()), wanted, CONVERTERS);
  expect(made?.as).toBe(as);
  expect(made!.bytes.length).toBeGreaterThan(50);
});

test('an entry that is in the format already, or of no form, goes out as it is', async () => {
  expect(await convertEntry(entry('a.png', await picture('png')), ['png'], CONVERTERS)).toBeUndefined();
  expect(await convertEntry(entry('a.bin', Buffer.from([1, 2, 3])), ['png', 'glb', 'ttf'], CONVERTERS)).toBeUndefined();
});

test('a picture of another size and format becomes what the entry is', async () => {
  const original = entry('a.png', await picture('png'));
  const made = await fitEntry(original, { bytes: await picture('webp', 20, 20), fileName: 'mine.webp' }, CONVERTERS);
  expect(made!.notes).toEqual([
    { code: 'picture-resized', from: [20, 20], to: [8, 4] },
    { code: 'picture-converted', from: 'WEBP', to: 'PNG' },
  ]);
  const { format, width, height } = await sharp(made!.files[0]!.bytes).metadata();
  expect([format, width, height]).toEqual(['png', 8, 4]);
});

test('a file that is what the entry is goes in byte for byte, without a word', async () => {
  const bytes = await picture('png');
  const made = await fitEntry(entry('a.png', bytes), { bytes, fileName: 'a.png' }, CONVERTERS);
  expect(made).toEqual({ files: [{ path: 'a.png', bytes }], notes: [] });
});

test('a mesh of another open format is converted; what is none is refused', async () => {
  const glb = (await convertEntry(entry('a.obj', OBJ), ['glb'], CONVERTERS))!.bytes;
  const made = await fitEntry(entry('a.glb', glb), { bytes: OBJ, fileName: 'mine.obj' }, CONVERTERS);
  expect(made!.notes).toEqual([{ code: 'mesh-converted', to: 'GLB' }]);
  expect(Buffer.from(made!.files[0]!.bytes.subarray(0, 4)).toString()).toBe('glTF');
  await expect(
    fitEntry(entry('a.glb', glb), { bytes: Buffer.from('words'), fileName: 'mine.txt' }, CONVERTERS),
  ).rejects.toMatchObject({ fault: { code: 'wrong-kind' } });
});

test('a font comes in the container of the original', async () => {
  const plain = (await convertEntry(entry('a.woff2', FONT), ['ttf'], CONVERTERS))!.bytes;
  const made = await fitEntry(entry('a.ttf', plain), { bytes: FONT, fileName: 'mine.woff2' }, CONVERTERS);
  expect(made!.notes[0]).toEqual({ code: 'font-converted', to: expect.stringMatching(/^(TrueType|OpenType)$/) });
  expect(Buffer.compare(made!.files[0]!.bytes, plain)).toBe(0);
});

test.each(['a.png', 'a.dds', 'a.glb', 'a.ttf'])(
  'nothing is known of %s when its bytes are not what its name says, so anything may take its place',
  async (path) => {
    const file = { bytes: await picture('png'), fileName: 'mine.png' };
    expect(await fitEntry(entry(path, Buffer.from('not what it says')), file, CONVERTERS)).toBeUndefined();
  },
);

test('a damaged original is known as nothing; a defect is none of its faults', async () => {
  const damaged = {
    ...entry('a.png', await picture('png')),
    bytes: () => Promise.reject(new FormatError({ code: 'cut-short' })),
  };
  expect(await fitEntry(damaged, { bytes: OBJ, fileName: 'a.obj' }, CONVERTERS)).toBeUndefined();
  await expect(ifReadable(Promise.reject(new TypeError('a defect')))).rejects.toThrow('a defect');
  await expect(ifReadable(Promise.reject(new FormatError({ code: 'stopped' })))).rejects.toThrow();
});
