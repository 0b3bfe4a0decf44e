/** MO against Python's own reader of it, and against files that Python's rules describe. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CONVERTERS, convertEntry, fitEntry, type EntryToConvert } from '..';
import { isMo, moAsPo, poAsMo } from './mo';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-mo-'));
afterAll(() => rmSync(folder, { recursive: true }));

const PO = `# A comment
msgid ""
msgstr ""
"Content-Type: text/plain; charset=UTF-8\\n"
"Language: pl\\n"
"Plural-Forms: nplurals=3; plural=(n==1 ? 0 : n%10>=2 && n%10<=4 ? 1 : 2);\\n"

msgid "Next stop"
msgstr "Następny przystanek"

msgctxt "sign"
msgid "Next stop"
msgstr "Następny"

msgid "%d cabin"
msgid_plural "%d cabins"
msgstr[0] "%d wagonik"
msgstr[1] "%d wagoniki"
msgstr[2] "%d wagoników"

#, fuzzy
msgid "Exit"
msgstr "Wejście"

msgid "Not yet"
msgstr ""
`;

/** What Python's gettext finds in a file. */
function byPython(bytes: Uint8Array): unknown {
  const path = join(folder, 'made.mo');
  writeFileSync(path, bytes);
  const script = `
import gettext, json, sys
t = gettext.GNUTranslations(open(sys.argv[1], 'rb'))
print(json.dumps([t.gettext('Next stop'), t.pgettext('sign', 'Next stop'), [t.ngettext('%d cabin', '%d cabins', n) for n in (1, 3, 5)],
  t.gettext('Exit'), t.gettext('Not yet'), t.info()['language']]))`;
  return JSON.parse(execFileSync('/usr/bin/python3', ['-c', script, path], { encoding: 'utf8' }));
}

const ALL = ['Następny przystanek', 'Następny', ['%d wagonik', '%d wagoniki', '%d wagoników'], 'Exit', 'Not yet', 'pl'];

/** The same messages in the other order of bytes and in Latin-2, as the manual lays them out. */
function bigEndian(messages: readonly (readonly [id: string, text: string])[]): Uint8Array {
  const sorted = [...messages].sort(([a], [b]) => (a < b ? -1 : 1));
  const texts = [...sorted.map(([id]) => id), ...sorted.map(([, text]) => text)].map((text) =>
    Buffer.from(text, 'latin1'),
  );
  const tables = Buffer.alloc(28 + texts.length * 8);
  [0x950412de, 0, sorted.length, 28, 28 + sorted.length * 8].forEach((value, i) => tables.writeUInt32BE(value, i * 4));
  let at = tables.length;
  texts.forEach((text, i) => {
    tables.writeUInt32BE(text.length, 28 + i * 8);
    tables.writeUInt32BE(at, 32 + i * 8);
    at += text.length + 1;
  });
  return Uint8Array.from(Buffer.concat([tables, ...texts.flatMap((text) => [text, Buffer.alloc(1)])]));
}

test('PO becomes MO that Python reads, with plurals and contexts, without what is fuzzy or not translated', () => {
  const made = poAsMo(Buffer.from(PO), 'pl.po');
  expect(isMo(made)).toBe(true);
  expect(byPython(made)).toEqual(ALL);
});

test('MO becomes PO, and that becomes MO with the same messages', () => {
  const text = moAsPo(poAsMo(Buffer.from(PO), 'pl.po'), 'pl.mo');
  expect(text).toContain('msgctxt "sign"\nmsgid "Next stop"\nmsgstr "Następny"');
  expect(byPython(poAsMo(Buffer.from(text), 'pl.po'))).toEqual(ALL);
});

test('a file in the other order of bytes and in an encoding of its own is read', () => {
  const header = 'Content-Type: text/plain; charset=iso-8859-1\nLanguage: fr\n';
  const text = moAsPo(
    bigEndian([
      ['', header],
      ['Exit', 'Sortie à côté'],
    ]),
    'fr.mo',
  );
  expect(text).toContain('msgid "Exit"\nmsgstr "Sortie à côté"');
  expect(text).toContain('charset=utf-8');
});

test('an entry goes out as PO and takes PO or MO back; any other text is refused', async () => {
  const bytes = poAsMo(Buffer.from(PO), 'pl.po');
  const entry: EntryToConvert = {
    ...{ path: 'locale/pl.mo', head: bytes.subarray(0, 512), recipes: [] },
    bytes: () => Promise.resolve(bytes),
    companion: () => Promise.resolve(undefined),
  };
  const out = await convertEntry(entry, ['png', 'po'], CONVERTERS);
  expect(out!.as).toBe('po');
  const changed = Buffer.from(Buffer.from(out!.bytes).toString().replace('Następny przystanek', 'Przystanek'));
  const back = await fitEntry(entry, { bytes: changed, fileName: 'pl.po' }, CONVERTERS);
  expect(back!.notes).toEqual([{ code: 'messages-compiled' }]);
  expect((byPython(back!.files[0]!.bytes) as string[])[0]).toBe('Przystanek');
  expect((await fitEntry(entry, { bytes, fileName: 'pl.mo' }, CONVERTERS))!.files[0]!.bytes).toBe(bytes);
  await expect(
    fitEntry(entry, { bytes: Buffer.from('only words'), fileName: 'a.txt' }, CONVERTERS),
  ).rejects.toMatchObject({
    fault: { code: 'wrong-kind', file: 'a.txt' },
  });
});

test('a small file whose texts all share its bytes is refused', () => {
  const count = 2_000;
  const bytes = Buffer.alloc(28 + count * 16 + 60_000, 0x41);
  [0x950412de, 0, count, 28, 28 + count * 8].forEach((value, i) => bytes.writeUInt32LE(value, i * 4));
  for (let row = 0; row < count * 2; row++) {
    bytes.writeUInt32LE(50_000, 28 + row * 8);
    bytes.writeUInt32LE(28 + count * 16, 32 + row * 8);
  }
  expect(() => moAsPo(bytes, 'bomb.mo')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'wrong-kind', file: 'bomb.mo' }) }),
  );
});

test('a file that is too large to be read while somebody waits says its limit', () => {
  const bytes = Buffer.alloc((8 << 20) + 1);
  bytes.writeUInt32LE(0x950412de, 0);
  for (const read of [() => moAsPo(bytes, 'a.mo'), () => poAsMo(bytes, 'a.po')])
    expect(read).toThrow(expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached' }) }));
});

test.each([
  ['a count beyond the file', 8, 0xffffff],
  ['a table beyond the file', 12, 1_000_000],
  ['a text beyond the file', 28, 1_000_000],
])('%s is a fault with its place', (_, at, value) => {
  const bytes = Uint8Array.from(poAsMo(Buffer.from(PO), 'pl.po'));
  new DataView(bytes.buffer).setUint32(at, value, true);
  expect(() => moAsPo(bytes, 'pl.mo')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'outside-file' }) }),
  );
});
