/** Fonts of a game: shown, drawn, asked for the letters of a translation, replaced. */
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { fontContainer, readOpenFont } from '../../src/core/forms/font';
import { listChanges, takeChange } from '../../src/server/changes';
import { findWinner } from '../../src/server/content';
import { entryDetails, glancesAt, thumbnail } from '../../src/server/entries';
import { env } from '../../src/server/env';
import { fontLine } from '../../src/server/forms';
import { fontLineQuery, wordsQuery } from '../../src/server/shapes';
import { editTray, startTakeOut } from '../../src/server/take-out';
import { subjectOf } from '../../src/server/subjects';
import { listFontGaps, listTables, listWords, setWord } from '../../src/server/words';
import { ended, fault, openedGame, withWorker } from './support';
import { bytesOfChange } from './subjects';

withWorker();
const OUTLINE = 'fonts/gondola.otf';
const BOARD = 'fonts/board.gpf';
const PLEX = readFileSync(
  join(__dirname, '../../node_modules/@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2'),
);

let id: number;
beforeAll(async () => void ({ id } = await openedGame('fonts')));

test('both kinds of fonts are entries of their kind, with facts, a card and a thumbnail', async () => {
  for (const [path, expected] of [
    [OUTLINE, { packing: 'OpenType', family: 'Gondola', fixedSize: null, pages: [] }],
    [BOARD, { packing: 'Board font', fixedSize: 21, pages: ['fonts/board.png'] }],
  ] as const) {
    const { archive, n } = await findWinner(id, path);
    const { kind, facts, expects, trouble } = await entryDetails(id, archive, n);
    expect([kind, trouble]).toEqual(['font', null]);
    expect(facts).toMatchObject({ form: 'font', ...expected });
    const { coverage, characters } = facts as Extract<typeof facts, { form: 'font' }>;
    expect(coverage[0]).toMatchObject({ block: 'Basic Latin' });
    expect(expects[0]).toMatch(/^A font in (OpenType|Board font)/);
    expect(await glancesAt([[archive, n]])).toEqual([
      { summary: `${characters} characters`, shows: { is: 'thumbnail', webp: null } },
    ]);
    const { channels } = await sharp(await thumbnail(archive, n)).stats();
    // Letters on paper, and not paper alone.
    expect(Math.max(...channels.map(({ stdev }) => stdev))).toBeGreaterThan(10);
  }
});

test('a line is drawn in the font of an entry, longer texts wider', async () => {
  const { archive, n } = await findWinner(id, BOARD);
  const of = await subjectOf(id, `entry-${archive}-${n}`);
  const widthOf = async (text: string) =>
    (await sharp(await fontLine(of, fontLineQuery.parse({ text }))).metadata()).width;
  expect((await widthOf('TALSTATION')) - (await widthOf('TAL'))).toBe(7 * 18);
  expect(await fault(subjectOf(id, 'entry-1'))).toMatchObject({ code: 'invalid-request' });
  expect(await fault(subjectOf(id, 'change-999999'))).toMatchObject({ code: 'not-found' });
});

test('letters of a translation that a font lacks are named, also those of a change just made', async () => {
  const tables = await listTables(id);
  const [en, de] = ['en', 'de'].map((code) => tables.find(({ locale }) => locale.startsWith(code))!.archive) as [
    number,
    number,
  ];
  const pair = { from: en, to: de };
  expect((await listFontGaps(id, pair)).fonts.map(({ count, trouble }) => [count, trouble])).toEqual([
    [0, null],
    [0, null],
  ]);
  const { rows } = await listWords(id, wordsQuery.parse({ ...pair, limit: 1 }));
  await setWord(id, pair, { key: rows[0]!.key, text: 'Zażółć' });
  const { fonts: gaps } = await listFontGaps(id, pair);
  for (const { missing } of gaps)
    expect(missing.map(({ letter }) => letter).sort()).toEqual(['ó', 'ć', 'ł', 'ż'].sort());
});

test('another font takes its place in the container of the original, and the note lists what is lost', async () => {
  const made = await takeChange(id, { path: OUTLINE, fileName: 'plex.woff2', bytes: new Uint8Array(PLEX) });
  expect(made.fitNotes[0]).toEqual({ code: 'font-converted', to: 'OpenType' });
  expect(made.fitNotes).toContainEqual({ code: 'font-outlines', yours: 'TrueType', original: 'CFF' });
  const bytes = await bytesOfChange(id, made.id);
  expect(fontContainer(bytes)).toBe('TrueType');
  expect((await readOpenFont(bytes, 'x')).family).toBe('IBM Plex Mono');
  expect((await listChanges(id)).map(({ kind }) => kind)).toContain('font');
  const refused = takeChange(id, { path: BOARD, fileName: 'plex.woff2', bytes: new Uint8Array(PLEX) });
  expect(await fault(refused)).toMatchObject({ code: 'wrong-kind', expected: 'a font in Board font' });
  const broken = takeChange(id, { path: OUTLINE, fileName: 'x.ttf', bytes: Buffer.from('no font') });
  expect(await fault(broken)).toMatchObject({ code: 'wrong-kind', file: 'x.ttf' });
});

test('fonts go out in the container that is chosen, and those of pictures as they are', async () => {
  const to = join(env().home, 'games', 'fonts-out');
  rmSync(to, { recursive: true, force: true });
  await editTray(id, { add: [OUTLINE, BOARD], remove: [], clear: true });
  const run = await ended((await startTakeOut(id, { to, fonts: 'woff' })).id);
  expect(run.result).toMatchObject({ taken: 2, failures: [] });
  expect(readFileSync(join(to, BOARD)).toString('latin1', 0, 4)).toBe('GPFN');
  expect(fontContainer(readFileSync(join(to, 'fonts/gondola.woff')))).toBe('WOFF');
});
