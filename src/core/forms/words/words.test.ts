import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { textCodec } from '../../recipe';
import { WORD_FILES } from './out-formats';
import {
  checkWords,
  isSameLanguage,
  readWords,
  spellOut,
  twinsOf,
  unwritable,
  writeWords,
  type WordRow,
} from './index';

const folder = mkdtempSync(join(tmpdir(), 'zl-words-'));
afterAll(() => rmSync(folder, { recursive: true }));

const UTF_8 = textCodec('utf-8', true);

const ROWS: WordRow[] = [
  { key: 'tannoy.doors', source: 'Mind the doors, please.', text: 'Bitte auf die "Türen" achten.' },
  { key: 'menu.start', source: 'Start\nthe first run', text: 'Erste Fahrt;\r\nbeginnen' },
  { key: 'menu.new', source: 'New', text: null },
  { key: 'only.here', source: null, text: 'Nur hier' },
];

const text = fc.string({ unit: fc.constantFrom(...'ab ,;"\n\tä😀\\{}%'), minLength: 1, maxLength: 20 });
const rows = fc.uniqueArray(fc.record({ key: fc.stringMatching(/^[a-z][a-z.0-9_]{0,12}$/), source: text, text }), {
  selector: ({ key }) => key,
  minLength: 1,
  maxLength: 8,
});

test.each(WORD_FILES)('%s keeps keys, order and every character', (as) => {
  const given = ROWS.filter((row) => row.text !== null).map(({ key, text }) => ({
    key,
    text: text!.replaceAll('\r\n', '\n'),
  }));
  const { edits: back } = readWords(Buffer.from(writeWords(ROWS, as, 'de')), `words.${as}`);
  expect(back.map((edit) => ({ ...edit, text: edit.text.replaceAll('\r\n', '\n') }))).toEqual(given);
  fc.assert(
    fc.property(rows, (made) => {
      const { edits: again } = readWords(Buffer.from(writeWords(made, as, 'de')), `words.${as}`);
      expect(again).toEqual(made.map(({ key, text }) => ({ key, text })));
    }),
    { numRuns: 60 },
  );
});

test('python reads the CSV as it was meant', () => {
  const file = join(folder, 'words.csv');
  writeFileSync(file, writeWords(ROWS, 'csv', 'de'));
  const script =
    'import csv,json,sys\nprint(json.dumps(list(csv.DictReader(open(sys.argv[1],encoding="utf-8-sig",newline="")))))';
  const read = JSON.parse(execFileSync('python3', ['-c', script, file], { encoding: 'utf8' })) as object[];
  expect(read).toEqual(ROWS.map(({ key, source, text }) => ({ key, source: source ?? '', text: text ?? '' })));
});

test.each([
  ['words.csv', 'id,words\na,b\n', /first line has to name the columns/],
  ['words.csv', 'key,text\na,b\n,c\n', /a line has no key/],
  ['words.csv', 'key,text\na,"b\n', /the table cannot be read/],
  ['words.json', '[1]', /one object of texts/],
  ['words.json', '{"a": 3}', /a text is none/],
  ['words.json', '{"a"', /the JSON cannot be read/],
])('%s of %j is refused', (name, content, says) => {
  expect(() => readWords(Buffer.from(content), name)).toThrow(says);
});

test('broken UTF-8 is refused, and what a translator marked as unsure in a PO is left out', () => {
  expect(() => readWords(Buffer.from([0x6b, 0xff]), 'a.csv')).toThrow(/not in UTF-8/);
  const fuzzy = '#, fuzzy\nmsgctxt "a"\nmsgid "x"\nmsgstr "y"\n\nmsgctxt "b"\nmsgid "x"\nmsgstr "z"\n';
  expect(readWords(Buffer.from(fuzzy), 'a.po').edits).toEqual([{ key: 'b', text: 'z' }]);
});

test.each<[string, string, number | undefined, string[]]>([
  ['{name} has %d parcels', '{name} hat %d Pakete', undefined, []],
  ['{name} has %d parcels', 'Es hat Pakete', undefined, ['{name} %d of the source is not in it']],
  ['Mind the doors', '<b>Türen</b>', undefined, ['<b> </b> is not in the source']],
  ['Go', '', undefined, ['it is empty']],
  ['Go ', 'Los', undefined, ['it begins or ends with other spaces than the source']],
  ['Go', 'Fährt', 5, ['it takes 6 bytes, and the game takes 5']],
  ['Go', 'L\u0001s', undefined, ['it holds control characters']],
  ['100%', '100 %', undefined, []],
])('%j as %j', (source, translated, most, says) => {
  expect(checkWords({ key: 'a', source, text: translated }, { most, codec: UTF_8 })).toEqual(says);
});

test('XLIFF of 2.0 is read, marks inside a text are left out, and what is no XML is told with its line', () => {
  const two = `<?xml version="1.0"?>
<xliff xmlns="urn:oasis:names:tc:xliff:document:2.0" version="2.0" srcLang="en" trgLang="de"><file id="f">
<unit id="u1" name="menu.start"><segment><source>Start <pc id="1">now</pc></source><target>Jetzt <pc id="1">los</pc></target></segment></unit>
<unit id="menu.new"><segment><source>New</source></segment></unit>
</file></xliff>`;
  expect(readWords(Buffer.from(two), 'a.xlf').edits).toEqual([{ key: 'menu.start', text: 'Jetzt los' }]);
  expect(() => readWords(Buffer.from('<xliff>\n<file>\n</xliff>'), 'a.xliff')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ expected: 'XLIFF', line: 3 }) }),
  );
  expect(() => readWords(Buffer.from('<a/>'), 'a.xliff')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ what: 'it is no XLIFF' }) }),
  );
});

test('what is left takes the text that its source has elsewhere, and nothing else does', () => {
  const row = (key: string, source: string | null, text: string | null, left = false) => ({ key, source, text, left });
  const rows = [
    row('a', 'Go', 'Los'),
    row('b', 'Go', 'Go', true),
    row('c', 'Go', 'Ab'),
    row('d', 'Stop', null, true),
    row('e', null, null, true),
    row('f', 'Go', null, true),
  ];
  expect(twinsOf(rows)).toEqual([
    { key: 'b', text: 'Los' },
    { key: 'f', text: 'Los' },
  ]);
});

test.each([
  ['latin-1', 'Zażółć gęślą jaźń', 'Zazólc gesla jazn'],
  ['latin-1', 'ế “quoted” … 1 €', 'ê "quoted" ... 1 EUR'],
  ['latin-1', 'Naïve Türen', 'Naïve Türen'],
  ['ascii', 'Türen für Ærø', 'Turen fur Aero'],
  ['ascii', 'Привет, 世界', 'Privet, ShiJie'],
  ['shift-jis', 'ドアが閉まる é', 'ドアが閉まる e'],
] as const)('in %s %s is spelled out as %s', (encoding, given, spelled) => {
  const codec = textCodec(encoding, true);
  expect(spellOut(given, codec)).toBe(spelled);
  expect(unwritable(spelled, codec)).toEqual([]);
  const says = checkWords({ key: 'a', source: null, text: given }, { codec });
  expect(says).toEqual(
    given === spelled ? [] : [expect.stringContaining(`cannot be shown by the game, whose texts are in ${encoding}`)],
  );
});

test('what is spelled out can always be written, and what could be stays as it is', () =>
  fc.assert(
    fc.property(
      fc.string({ unit: 'grapheme' }),
      fc.constantFrom('ascii', 'latin-1', 'shift-jis'),
      (given, encoding) => {
        const codec = textCodec(encoding as 'ascii', true);
        const spelled = spellOut(given, codec);
        expect(() => codec.encode(spelled)).not.toThrow();
        if (unwritable(given, codec).length === 0) expect(spelled).toBe(given);
      },
    ),
  ));

test('a key that stands in a file twice costs that key and no other', () => {
  expect(readWords(Buffer.from('key,text\na,b\nc,d\na,e\n'), 'words.csv')).toEqual({
    edits: [{ key: 'c', text: 'd' }],
    doubled: ['a'],
    locale: undefined,
  });
});

test.each([
  ['PO', 'words.po', writeWords(ROWS, 'po', 'pt_BR'), 'pt_BR'],
  ['XLIFF', 'words.xlf', writeWords(ROWS, 'xliff', 'de', 'en'), 'de'],
  ['XLIFF 2', 'a.xliff', '<xliff version="2.0" srcLang="en" trgLang="fr"></xliff>', 'fr'],
  ['JSON by its name', 'pt-BR.json', '{}', 'pt-BR'],
  ['CSV by its name', 'de.csv', 'key,text\n', 'de'],
  ['none', 'words-in.csv', 'key,text\n', undefined],
])('%s names its language', (_, name, content, locale) => {
  expect(readWords(Buffer.from(content), name).locale).toBe(locale);
});

test('languages are compared by what both say', () => {
  expect(isSameLanguage('de', 'de_AT')).toBe(true);
  expect(isSameLanguage('pt-BR', 'PT_br')).toBe(true);
  expect(isSameLanguage('de_DE.UTF-8', 'de')).toBe(true);
  expect(isSameLanguage('pt-BR', 'pt-PT')).toBe(false);
  expect(isSameLanguage('de', 'den')).toBe(false);
});
