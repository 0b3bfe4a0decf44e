/** Rows of entries as COPY takes them. */
import { throwIfStopped, type Fault } from '../../core/faults';
import { FOUND_RECIPE } from '../../core/carve';
import { kindOf, declaredKind, KIND_NAMES, type Kind } from '../../core/game';
import { contentTags, followLink, NAMELESS, type Archive } from '../../core/recipe';
import { methodWords } from './method-words';
import type { ArchiveModel } from '../database';

/** Few enough for the socket to take them at once: the database reads while the next ones are made. */
const ROWS_A_CHUNK = 256;

/** The longest path that is kept: what is longer is cut, and its entry is still found by the rest. */
export const MAX_PATH = 2_000;

export const COLUMNS =
  'archive_id, n, game_id, path, folder, name, kind, size, stored, at, method, deleted, volume, named, tag';

export interface CopyOrder {
  readonly prefix: string;
  /** The path of an entry in its archive. */
  readonly pathOf: (n: number) => string;
  readonly guesses: ReadonlyMap<number, Guess>;
  /** What the first bytes of entries say whose names say nothing. */
  readonly byContent: ReadonlyMap<number, Kind>;
  /** What recipes say of endings. */
  readonly kinds: ReadonlyMap<string, Kind>;
  /** What its first bytes say of a loose file. */
  readonly own: Kind | undefined;
  readonly written: { entries: number; named: number; methods: Record<string, string>; faults: Fault[] };
  readonly signal: AbortSignal;
}

export function* copyRows(
  row: ArchiveModel,
  archive: Archive,
  { prefix, pathOf, guesses, byContent, kinds, own: ownKind, written, signal }: CopyOrder,
): Generator<string> {
  const { entries, dataSpace } = archive;
  let chunk = '';
  const kindByName = kindsByName(kinds);
  const tagOf = contentTags(archive);
  // The table of what was found in a file is no volume of it.
  const first = archive.recipe.id === FOUND_RECIPE ? 1 : 0;
  const volumeOf = (n: number) =>
    dataSpace === undefined ? Math.max(0, entries.volume(n) - first) : IN_UNLOCKED_BYTES;
  const declared = declaredKind(archive.recipe);
  const mayBeNameless = archive.recipe.entries.hash !== undefined || archive.recipe.entries.id !== undefined;
  for (let n = 0; n < entries.count; n++) {
    // Its folder is shown as soon as something lies in it.
    // A link to a folder, or out of the archive, has nothing to be shown or changed.
    const holder = followLink(archive, n);
    if (entries.isDirectory(n) || holder === undefined) continue;
    const named = !mayBeNameless || entries.isNamed(n);
    const deleted = entries.isDeleted(n);
    if (!deleted) written.entries++;
    if (!deleted && named) written.named++;
    const guess = guesses.get(n);
    const own = pathOf(n);
    if (own.startsWith(NAMELESS) && written.faults.length < MOST_FAULTS) {
      const damage = entries.pathDamage(n);
      if (damage !== undefined) written.faults.push({ file: archive.source.name, ...damage, entry: own });
    }
    // Entries without a name are found by their content.
    const path = pathInGame(prefix, own, guess);
    const size = entries.size(holder);
    const stored = Number.isNaN(entries.stored(n)) ? 0 : entries.stored(n);
    const kind = guess?.kind ?? ownKind ?? declared ?? byContent.get(n) ?? kindByName(path);
    // What is in a path is escaped once, for the folder and the name are parts of it.
    const shown = escape(path);
    const slash = shown.lastIndexOf('/');
    const tag = tagOf === undefined ? '' : escape(tagOf(n));
    const packed = entries.method(n);
    const key = String(packed);
    written.methods[key] ??= methodWords(archive.recipe, packed);
    const method = escape(key);
    chunk += `${row.id}\t${n}\t${row.gameId}\t${shown}\t${slash < 0 ? '' : shown.slice(0, slash)}\t${shown.slice(slash + 1)}\t${kind}\t${Number.isNaN(size) ? stored : size}\t${stored}\t${entries.at(n)}\t${method}\t${deleted ? 't' : 'f'}\t${volumeOf(n)}\t${named ? 't' : 'f'}\t${tag}\n`;
    if (n % ROWS_A_CHUNK === ROWS_A_CHUNK - 1) {
      throwIfStopped(signal);
      yield chunk;
      chunk = '';
    }
  }
  yield chunk;
}

/** The kind by the name alone, which is that of its ending: of a million names there are few. */
export function kindsByName(byRecipe: ReadonlyMap<string, Kind>): (path: string) => Kind {
  const known = new Map<string, Kind>();
  return (path) => {
    const ending = path.slice(path.lastIndexOf('.') + 1);
    let kind = known.get(ending);
    if (kind === undefined) known.set(ending, (kind = byRecipe.get(ending.toLowerCase()) ?? kindOf(path)));
    return kind;
  };
}

/** COPY's text format: backslash escapes; a NUL cannot be kept and is shown as what it is. */
export function escape(text: string): string {
  return /[\\\t\n\r\u0000]/.test(text)
    ? text
        .replaceAll('\\', '\\\\')
        .replaceAll('\t', '\\t')
        .replaceAll('\n', '\\n')
        .replaceAll('\r', '\\r')
        .replaceAll('\u0000', '\u2400')
    : text;
}

/** The volume of an entry whose offset counts in unlocked bytes: it has no place in a file. */
export const IN_UNLOCKED_BYTES = -1;

/** Paths that cannot be read, reported one by one up to this many. */
export const MOST_FAULTS = 20;

export interface Guess {
  readonly kind: Kind;
  readonly extension: string;
}

export function pathInGame(prefix: string, own: string, guess: Guess | undefined): string {
  const path =
    guess === undefined
      ? own
      : `${own.replace(/^nameless\//, `nameless/${KIND_NAMES[guess.kind].folder}/`)}.${guess.extension}`;
  return (prefix + path).slice(0, MAX_PATH);
}
