import iconv from 'iconv-lite';
import type { Subject } from '../form';
import { recordsForm, wordsForm } from './text-form';

const subject = (path: string, bytes: Uint8Array, more: Partial<Subject> = {}): Subject => ({
  ...{ gameId: 1, path, kind: 'words', declared: undefined, mime: 'text/plain', entry: undefined, isEntry: false },
  head: bytes.subarray(0, 512),
  size: bytes.length,
  bytes: () => Promise.resolve(bytes),
  companion: () => Promise.resolve(undefined),
  ...more,
});

const linesOf = async (bytes: Uint8Array): Promise<readonly string[]> => {
  const { shows } = await wordsForm.glance(subject('a.txt', bytes));
  return shows.is === 'lines' ? shows.lines : [];
};

test.each([
  ['utf-8', 'Grüße aus der Gondel\nund zurück'],
  ['utf-16le', 'Next stop:\nUpper Station'],
  ['windows-1251', 'Осторожно, двери закрываются.\nСледующая станция: Верхняя.'],
])('the first lines of a text in %s are those that are read', async (encoding, text) => {
  expect(await linesOf(iconv.encode(text, encoding))).toEqual(text.split('\n'));
});

test('of a long text the first lines are shown, each as far as a card is wide', async () => {
  const lines = await linesOf(Buffer.from(Array.from({ length: 9 }, (_, i) => `${i} ${'x'.repeat(80)}`).join('\n')));
  expect(lines).toHaveLength(5);
  expect(lines.every((line) => line.length === 42)).toBe(true);
});

test('a character that is cut in two where the head ends makes no other encoding of it', async () => {
  const text = `${'é'.repeat(200)}\n${'é'.repeat(200)}`;
  expect((await linesOf(Buffer.from(text)))[0]).toBe('é'.repeat(42));
});

test('the encoding is what the game expects back; of records it is what they are written in', async () => {
  expect(await wordsForm.read(subject('a.txt', iconv.encode('Straße', 'utf-16le', { addBOM: true })))).toEqual({
    facts: null,
    expects: ['Text in UTF-16LE.'],
  });
  expect((await recordsForm.read(subject('a.json', Buffer.from('{}')))).expects).toEqual(['JSON that can be read.']);
});

test('what has a name that says nothing takes any bytes that are no text either', async () => {
  const dropped = {
    ...{ bytes: Uint8Array.of(1, 2, 0, 255), fileName: 'state.dat', fitOptions: {} },
    ...{ signal: new AbortController().signal, changed: () => Promise.resolve(undefined) },
  };
  const made = await wordsForm.fit!(subject('state.dat', Buffer.from('a text')), dropped);
  expect(made).toEqual({ files: [{ path: 'state.dat', bytes: dropped.bytes }], notes: [] });
  await expect(wordsForm.fit!(subject('a.txt', Buffer.from('a text')), dropped)).rejects.toMatchObject({
    fault: { code: 'wrong-kind' },
  });
});
