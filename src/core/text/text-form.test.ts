import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { decodeText, encodeLike, textFormOf } from './index';

/** As Python encodes them: judged by other tables than ours. */
const python = (text: string, encoding: string) =>
  new Uint8Array(
    execFileSync('python3', [
      '-c',
      'import sys;sys.stdout.buffer.write(sys.argv[1].encode(sys.argv[2]))',
      text,
      encoding,
    ]),
  );

const RUSSIAN = 'Осторожно, двери закрываются. Следующая станция: Верхняя.\n'.repeat(4);
const JAPANESE = '扉が閉まります。ご注意ください。次の駅は山の上です。\n'.repeat(4);

test.each([
  ['ascii', 'Mind the doors.\n', 'utf-8'],
  ['utf-8', 'Türen schließen.\n', 'utf-8'],
  ['utf-8-sig', 'Türen schließen.\n', 'utf-8'],
  ['utf-16', 'Mind the doors.\n', 'utf-16le'],
  ['utf-16-le', 'Mind the doors.\n', 'utf-16le'],
  ['utf-16-be', 'Mind the doors.\n', 'utf-16be'],
  ['cp1252', 'Die Türen schließen, bitte zurücktreten. Für Gäste ist hinten geöffnet.\r\n', 'windows-1252'],
  ['cp1251', RUSSIAN, 'windows-1251'],
  ['shift_jis', JAPANESE, 'shift_jis'],
  ['euc_jp', JAPANESE, 'euc-jp'],
])('a text in %s is told, and comes back as it was', (encoding, text, label) => {
  const bytes = python(text, encoding);
  const form = textFormOf(bytes);
  expect(form.encoding).toBe(label);
  expect(decodeText(bytes)).toBe(text);
  expect(Buffer.compare(encodeLike(text, form), bytes)).toBe(0);
});

test('another text takes the encoding, the mark and the line ends of the first', () => {
  const form = textFormOf(python('\ufeffeins\r\nzwei\r\n', 'utf-16-le'));
  expect(form).toEqual({ encoding: 'utf-16le', hasMark: true, lineEnds: '\r\n' });
  expect(Buffer.compare(encodeLike('drei\nvier\n', form), python('\ufeffdrei\r\nvier\r\n', 'utf-16-le'))).toBe(0);
});

test('a character without a place in the encoding is refused by name', () => {
  const form = textFormOf(python(RUSSIAN, 'cp1251'));
  expect(() => encodeLike('снег ❄', form)).toThrow(/❄/);
});

test('any text in UTF-8 is that, and any bytes have some form', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', minLength: 1 }), (text) => {
      fc.pre(text.isWellFormed() && !text.startsWith('\ufeff'));
      const bytes = new TextEncoder().encode(text);
      expect(textFormOf(bytes).encoding).toBe('utf-8');
      expect(decodeText(bytes)).toBe(text);
    }),
  );
  fc.assert(fc.property(fc.uint8Array(), (bytes) => void decodeText(bytes)));
});
