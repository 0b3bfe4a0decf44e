import fc from 'fast-check';
import iconv from 'iconv-lite';
import { bufferSource } from '../bytes';
import { fillTextRun, textRunAt, type TextEncoding } from './index';

const runIn = (bytes: Uint8Array, at: number, length: number, encoding: TextEncoding) =>
  textRunAt(bufferSource(bytes, 'game.bin'), at, length, encoding);

test.each<[string, TextEncoding, Buffer, Buffer, 'zeros' | 'spaces', number]>([
  ['ends with a zero', 'utf-8', Buffer.from([0xff, 0xfe, 0x01]), Buffer.from([0, 0x90]), 'zeros', 0],
  ['a length of four bytes', 'utf-8', Buffer.from([23, 0, 0, 0]), Buffer.from([0]), 'spaces', 4],
  ['a length of one byte', 'windows-1252', Buffer.from([1, 22]), Buffer.from([3]), 'spaces', 1],
  ['two bytes a character', 'utf-16le', Buffer.from([0, 0]), Buffer.from([0, 0]), 'zeros', 0],
  ['at the end of the file', 'shift-jis', Buffer.from([0]), Buffer.alloc(0), 'spaces', 0],
])('a text is found from a part of it: %s', async (_, encoding, before, after, fill, counted) => {
  const text = encoding === 'shift-jis' ? 'ドアが閉まる Mind' : 'Mind the doors – Türen';
  const bytes = iconv.encode(text.replace('–', encoding === 'utf-8' ? '-' : '–'), encoding);
  const whole = Buffer.concat([before, bytes, after]);
  const part = iconv.encode('Mind', encoding);
  const run = await runIn(whole, whole.indexOf(part), part.length, encoding);
  expect(run).toMatchObject({ at: before.length, length: bytes.length, fill, counted });
  const filled = fillTextRun(run, 'Short', 'game.bin');
  expect(filled.length).toBe(bytes.length);
  expect(iconv.decode(Buffer.from(filled), encoding).replace(/[ \0]+$/, '')).toBe('Short');
});

test('what is longer, or not in the encoding, is refused', async () => {
  const run = await runIn(Buffer.from('\0Go now\0', 'latin1'), 1, 2, 'windows-1252');
  expect(() => fillTextRun(run, 'Go now!', 'a')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached' }) }),
  );
  expect(() => fillTextRun(run, 'ドア', 'a')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'bad-text', found: 'ド ア' }) }),
  );
  await expect(runIn(Buffer.alloc(4), 3, 4, 'utf-8')).rejects.toThrow(/no such place/);
});

test('whatever stands around it, the run holds the text, and filling it with itself changes nothing', () =>
  fc.assert(
    fc.asyncProperty(
      fc.uint8Array({ maxLength: 40 }),
      fc.string({ unit: 'grapheme-ascii', minLength: 4, maxLength: 30 }).filter((text) => /^[ -~]+$/.test(text)),
      fc.uint8Array({ maxLength: 40 }),
      fc.constantFrom<TextEncoding>('utf-8', 'utf-16le', 'utf-16be', 'windows-1252'),
      async (before, text, after, encoding) => {
        const bytes = iconv.encode(text, encoding);
        const whole = Buffer.concat([before, bytes, after]);
        const run = await runIn(whole, before.length, bytes.length, encoding);
        expect(run.text).toContain(text);
        expect(Buffer.from(fillTextRun(run, run.text, 'a'))).toEqual(whole.subarray(run.at, run.at + run.length));
      },
    ),
  ));
