/** Texts that are to be others, as changes: many at a time as quickly as one. */
import type { Note } from '../../core/notes';
import type { Transaction } from 'sequelize';
import { FaultError, sayFault, throwIfStopped } from '../../core/faults';
import { spellOut, unwritable, type WordEdit, type WordTable } from '../../core/forms/words';
import { database, type ArchiveModel } from '../database';
import { keepAll } from '../storage';

/** The table that texts go into, with what is changed of it already. */
export interface Into {
  readonly gameId: number;
  readonly to: WordTable;
  readonly target: ArchiveModel;
  readonly changed: ReadonlyMap<string, { readonly text: string; readonly change: number }>;
  pathOf(key: string): string;
  /** What the game cannot show is spelled out. */
  readonly spell: boolean;
}

interface Setting {
  /** How the texts came. */
  readonly matchedBy: Note;
  /** The drop they came with, which is undone as a whole; none for a text that was typed. */
  readonly dropId?: number;
  readonly signal?: AbortSignal;
  readonly progress?: (done: number, total: number) => void;
  /** Called for each text that is refused; without it the first refusal is thrown. */
  readonly onRefused?: (sentence: string) => void;
}

/** Texts that become changes in one go. */
const TOGETHER = 2_000;

/** A text that differs from what is there: new bytes, or none where the game's own is to hold again. */
interface Wanted {
  readonly key: string;
  readonly path: string;
  readonly bytes: Uint8Array | undefined;
}

/**
 * @returns how many changed
 * @throws FaultError `bad-text` for characters the game's encoding has no place for, unless they are to be spelled out, and
 *   `limit-reached` for a text that is too long, unless `onRefused` is given
 */
export async function takeWords(into: Into, edits: readonly WordEdit[], setting: Setting): Promise<number> {
  const { signal, progress, onRefused } = setting;
  let taken = 0;
  for (let from = 0; from < edits.length; from += TOGETHER) {
    if (signal !== undefined) throwIfStopped(signal);
    progress?.(from, edits.length);
    const wanted: Wanted[] = [];
    for (const edit of edits.slice(from, from + TOGETHER))
      try {
        const one = wantedOf(into, edit);
        if (one !== undefined) wanted.push(one);
      } catch (error) {
        if (onRefused === undefined || !(error instanceof FaultError)) throw error;
        onRefused(sayFault(error.fault));
      }
    await keepChanges(into, wanted, setting);
    taken += wanted.length;
  }
  progress?.(edits.length, edits.length);
  return taken;
}

/** Undefined when it says what is there already. */
function wantedOf({ to, changed, pathOf, spell }: Into, { key, text: given }: WordEdit): Wanted | undefined {
  const known = to.texts.get(key)?.text;
  const mine = changed.get(key);
  const text = spell ? spellOut(given, to.codec) : given;
  if (text === (mine?.text ?? known)) return undefined;
  const path = pathOf(key);
  if (text === known) return { key, path, bytes: undefined };
  const strange = unwritable(text, to.codec);
  if (strange.length > 0)
    throw new FaultError({
      code: 'bad-text',
      entry: path,
      what: `the game cannot show ${strange.join(' ')}`,
      expected: `characters of ${to.codec.encoding}`,
      hint: `Have it spelled out: ${spellOut(text, to.codec)}`,
    });
  const bytes = to.codec.encode(text);
  if (to.most === undefined || bytes.length <= to.most) return { key, path, bytes };
  throw new FaultError({
    code: 'limit-reached',
    entry: path,
    what: 'the text is too long',
    limit: `bytes of a text, ${to.most.toLocaleString('en')}`,
  });
}

async function keepChanges(
  { gameId, to, target }: Into,
  wanted: readonly Wanted[],
  { matchedBy, dropId }: Setting,
): Promise<void> {
  if (wanted.length === 0) return;
  const fresh = wanted.flatMap(({ key, path, bytes }) => (bytes === undefined ? [] : [{ key, path, bytes }]));
  const blobs = await keepAll(fresh.map(({ bytes }) => bytes));
  const olds = fresh.map(({ key }) => to.texts.get(key)?.bytes);
  const bases = (await keepAll(olds.filter((bytes) => bytes !== undefined))).values();
  const based = olds.map((bytes) => (bytes === undefined ? null : bases.next().value!.sha256));
  await database().transaction(async (transaction) => {
    await setAsideAll(
      gameId,
      wanted.map(({ path }) => path),
      dropId ?? null,
      transaction,
    );
    // A key the table does not have is a new entry of it.
    await database().query(
      `insert into changes (game_id, kind, matched_by, path, file_name, blob, given, size, base, action, into_archive, drop_id)
       select $1, 'words', $2::jsonb, path, file_name, blob, blob, size, base,
              case when base is null then 'add' else 'replace' end, case when base is null then $3 end, $9
       from unnest($4::text[], $5::text[], $6::text[], $7::bigint[], $8::text[]) as t (path, file_name, blob, size, base)`,
      {
        bind: [
          ...[gameId, JSON.stringify(matchedBy), target.path],
          fresh.map(({ path }) => path),
          fresh.map(({ key }) => `${key}.txt`),
          blobs.map(({ sha256 }) => sha256),
          blobs.map(({ size }) => size),
          based,
          dropId ?? null,
        ],
        transaction,
      },
    );
  });
}

/** Changes of a text go with no others: each is set aside by itself. */
async function setAsideAll(
  gameId: number,
  paths: readonly string[],
  by: number | null,
  transaction: Transaction,
): Promise<void> {
  await database().query(
    `update changes set undone = true, superseded_by = $3
     where game_id = $1 and path = any($2::text[]) and not undone and mod_id is null`,
    { bind: [gameId, [...paths], by], transaction },
  );
}
