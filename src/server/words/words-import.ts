/** Texts that come back from translators. */
import { FaultError } from '../../core/faults';
import { isSameLanguage, readWords, twinsOf, type WordEdit } from '../../core/forms/words';
import { DropModel } from '../database';
import { startRun } from '../runs';
import type { RunContext } from '../runs/run-context';
import type { RunAnswer, WordsPair, RunOrder, RunResult } from '../shapes';
import { keepBlob, keepBytes, readBlob } from '../storage';
import { takeWords } from './take-words';
import { MOST_TOLD, MOST_FILE_BYTES, listTables, pairOf, linesNow } from './word-lines';

/**
 * @throws FaultError `wrong-kind` when the file cannot be read; `other-language` when it says that its texts are in
 *   another language than the one that is open, unless `anyway`
 */
export async function startWordsIn(
  gameId: number,
  { anyway = false, ...pair }: WordsPair & { readonly anyway?: boolean },
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<RunAnswer> {
  const { sha256 } = await keepBlob(bytes, { maxBytes: MOST_FILE_BYTES });
  const { locale: stated } = readWords(await readBlob(sha256), name);
  const open = (await pairOf(gameId, pair)).to.locale;
  // A name states a language only where the game has that one: `all.csv` is in none.
  const isName = /\.(csv|json)$/i.test(name);
  const isKnown = async (one: string) => (await listTables(gameId)).some(({ locale }) => isSameLanguage(one, locale));
  const locale = stated !== undefined && isName && !(await isKnown(stated)) ? undefined : stated;
  if (!anyway && locale !== undefined && open !== '' && !isSameLanguage(locale, open))
    throw new FaultError({
      code: 'other-language',
      what: `the file says that its texts are in “${locale}”, and “${open}” is open`,
      file: name,
      hint: `Choose the table of “${locale}”, or take the texts in as “${open}” all the same.`,
    });
  return startImport(gameId, { ...pair, name, file: sha256 }, `Texts of ${name}`);
}

/**
 * Texts that are left to do and whose source is elsewhere with a text are given that text, by a run.
 *
 * @throws FaultError `conflict` when there are none
 */
export async function fillTwins(gameId: number, pair: WordsPair): Promise<RunAnswer> {
  const lines = await linesNow(gameId, pair);
  const edits = twinsOf(lines.map((line) => ({ ...line, left: line.state === 'left' })));
  if (edits.length === 0)
    throw new FaultError({ code: 'conflict', what: 'no text that is left has a source that is translated elsewhere' });
  return takeIn(gameId, pair, edits, 'What is translated elsewhere');
}

/** Many texts at once, by a run. */
export async function takeIn(
  gameId: number,
  { from, to, spell }: WordsPair,
  edits: readonly WordEdit[],
  title: string,
): Promise<RunAnswer> {
  const texts = Object.fromEntries(edits.map(({ key, text }) => [key, text]));
  const { sha256 } = await keepBytes(Buffer.from(JSON.stringify(texts)));
  const input = { from, to, ...(spell === undefined ? {} : { spell }), name: 'texts.json', file: sha256 };
  return startImport(gameId, input, title);
}

/** All texts of one import are one drop, also when its run is interrupted and resumed: it can be undone as a whole. */
async function startImport(
  gameId: number,
  input: Omit<RunOrder<'words-in'>, 'drop'>,
  title: string,
): Promise<RunAnswer> {
  const { id: drop } = await DropModel.create({ gameId });
  return startRun('words-in', { title, gameId, input: { ...input, drop } });
}

/** What a file says is taken in text by text; rows it does not name are unchanged. */
export async function wordsInRun({
  gameId,
  input,
  signal,
  progress,
  log,
}: RunContext<'words-in'>): Promise<RunResult<'words-in'>> {
  const { name, file, drop: dropId } = input;
  const { edits, doubled } = readWords(await readBlob(file), name);
  for (const key of doubled.slice(0, MOST_TOLD)) log(`${key} appears in the file more than once, and is left out`);
  const pair = await pairOf(gameId, input);
  const unknown = new Set(edits.filter(({ key }) => !pair.from.texts.has(key) && !pair.to.texts.has(key)));
  for (const { key } of [...unknown].slice(0, MOST_TOLD)) log(`${key} is no key of the game, and is left out`);
  let failures = 0;
  const taken = await takeWords(
    pair,
    edits.filter((edit) => !unknown.has(edit)),
    {
      matchedBy: { code: 'from-file', file: name },
      dropId,
      signal,
      progress: (done, total) => progress(done, total, 'entries'),
      onRefused: (sentence) => {
        failures++;
        if (failures <= MOST_TOLD) log(sentence);
      },
    },
  );
  return { texts: edits.length, taken, unknown: unknown.size, doubled: doubled.length, failures };
}
