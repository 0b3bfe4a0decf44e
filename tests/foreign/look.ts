/** What becomes of the files of one package: which are known, whether all in them comes out, and whether edits read back. */
import { readFile } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import { entriesToConvert } from '../../src/cli/convert-entry';
import { bufferSource, collect, type ByteSource } from '../../src/core/bytes';
import { fileScratch, openFile } from '../../src/core/bytes/node';
import { faultOf, sayFault } from '../../src/core/faults';
import type { EntryToConvert } from '../../src/core/forms';
import { looseKind, type Kind } from '../../src/core/game';
import {
  isProven,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  recogniseFile,
  uniquePaths,
  volumeBytes,
  type Archive,
  type Recipe,
} from '../../src/core/recipe';
import { changed, isChanged } from './change';
import { formOf, isSeen, seen, type Form } from './preview';

export interface Row {
  readonly name: string;
  files: number;
  bytes: number;
  loose: number;
  archives: number;
  entries: number;
  /** Entries that came out whole, with their sizes and checksums. */
  out: number;
  proven: number;
  readonly kinds: Record<string, number>;
  /** Of each kind: entries that were seen or heard, and those that were tried. */
  readonly previewed: Record<string, Score>;
  /** Of each kind: entries that were changed, made to fit, and read again as they were meant. */
  readonly back: Record<string, Score>;
  /** Files that nothing identifies, by their extension. */
  readonly unknown: Record<string, number>;
  /** How often each was said. */
  readonly troubles: Map<string, number>;
  seconds: number;
}

export interface Score {
  ok: number;
  of: number;
  /** Nothing was written, and the reason was said. */
  refused: number;
}

/** An entry, or a loose file, and what it is. */
interface Found {
  readonly form: Form;
  entry(): Promise<EntryToConvert>;
}

const HEAD_BYTES = 4096;
const MOST_TROUBLES = 24;
/** Entries of each kind that are looked at in an archive, or among the loose files; and those that are changed. */
const MOST_SEEN = 60;
const MOST_CHANGED = 12;

export async function lookAt(name: string, files: readonly string[], recipes: readonly Recipe[]): Promise<Row> {
  const row: Row = {
    ...{ name, files: 0, bytes: 0, loose: 0, archives: 0, entries: 0, out: 0, proven: 0, seconds: 0 },
    ...{ kinds: {}, unknown: {}, troubles: new Map(), previewed: {}, back: {} },
  };
  const start = performance.now();
  const loose: Found[] = [];
  for (const path of files) loose.push(...(await lookAtFile(row, path, recipes)));
  await trySome(row, loose);
  row.seconds = (performance.now() - start) / 1000;
  return row;
}

async function lookAtFile(row: Row, path: string, recipes: readonly Recipe[]): Promise<Found[]> {
  const name = basename(path);
  const source = await openFile(path, name);
  try {
    row.files++;
    row.bytes += source.size;
    const { fits } = await recogniseFile(recipes, source);
    if (fits.length === 1) {
      await lookInside(row, fits[0]!.recipe, source, recipes);
      return [];
    }
    const head = await source.read(0, Math.min(HEAD_BYTES, source.size));
    const open = formsOf(recipes, undefined);
    const form = await formOf(name, head, open);
    const kind = form.kind === 'bytes' ? looseKind(name, head) : form.kind;
    if (kind === undefined) {
      count(row.unknown, extname(name) || 'no ending');
      return [];
    }
    row.loose++;
    count(row.kinds, kind);
    const bytes = (of: string) => readFile(of).catch(() => undefined);
    const entry = { path, head: head.subarray(0, 512), bytes: () => readFile(path), recipes: open, companion: bytes };
    return [{ form: { ...form, kind }, entry: () => Promise.resolve(entry) }];
  } catch (error) {
    trouble(row, sayFault(faultOf(error, name)));
    return [];
  } finally {
    await source.close();
  }
}

/** Forms of open formats, and those of the engine that an archive is of. */
const formsOf = (recipes: readonly Recipe[], of: string | undefined): Recipe[] =>
  recipes.filter(({ collection }) => collection === undefined || collection === of);

async function lookInside(row: Row, recipe: Recipe, source: ByteSource, recipes: readonly Recipe[]): Promise<void> {
  row.archives++;
  const scratch = fileScratch();
  try {
    const archive = await openArchive(recipe, source, { scratch });
    for (const complaint of archive.complaints) trouble(row, sayFault(complaint));
    const next = await trySome(row, await takeAll(row, archive, formsOf(recipes, recipe.collection)));
    if (next.size > 0) await putBack(row, archive, next);
    const proof = await prove(archive, { scratch });
    if (isProven(proof)) return void row.proven++;
    for (const { first } of [proof.bytes, proof.formulas, proof.identical, proof.changed, proof.edits])
      if (first !== undefined) trouble(row, sayFault(first));
  } finally {
    await scratch.release();
  }
}

async function takeAll(row: Row, archive: Archive, recipes: readonly Recipe[]): Promise<Found[]> {
  const { entries, source } = archive;
  const pathOf = uniquePaths(entries);
  const entryAt = entriesToConvert(archive, pathOf, recipes);
  const found: Found[] = [];
  for (let n = 0; n < entries.count; n++) {
    if (entries.isDirectory(n)) continue;
    row.entries++;
    try {
      let head: Uint8Array = new Uint8Array(0);
      for await (const chunk of readEntry(archive, n)) if (head.length === 0) head = chunk.subarray(0, HEAD_BYTES);
      row.out++;
      const form = await formOf(pathOf(n), head, recipes);
      count(row.kinds, form.kind);
      found.push({ form, entry: () => entryAt(n) });
    } catch (error) {
      trouble(row, sayFault(faultOf(error, source.name)));
    }
  }
  return found;
}

/**
 * Looks at a sample of each kind, and changes a sample.
 *
 * @returns the bytes of what was changed, by path
 */
async function trySome(row: Row, found: readonly Found[]): Promise<Map<string, Uint8Array>> {
  const next = new Map<string, Uint8Array>();
  for (const kind of new Set(found.map(({ form }) => form.kind))) {
    const all = found.filter(({ form }) => form.kind === kind);
    if (isSeen(kind))
      for (const { entry, form } of spread(all, MOST_SEEN))
        await scored(row, row.previewed, kind, async () => seen(await entry(), form));
    if (isChanged(kind))
      for (const { entry } of spread(all, MOST_CHANGED))
        await scored(row, row.back, kind, async () => {
          const files = await changed(await entry(), kind);
          if (files === undefined) return 'not tried';
          for (const { path, bytes } of files) next.set(path, bytes);
          return undefined;
        });
  }
  return next;
}

/** At most so many of them, from all over the list. */
function spread<T>(all: readonly T[], most: number): T[] {
  const step = Math.max(1, all.length / most);
  return Array.from({ length: Math.min(most, all.length) }, (_, i) => all[Math.floor(i * step)]!);
}

async function scored(
  row: Row,
  scores: Record<string, Score>,
  kind: Kind,
  attempt: () => Promise<void | 'not tried' | undefined>,
): Promise<void> {
  const score = (scores[kind] ??= { ok: 0, of: 0, refused: 0 });
  score.of++;
  try {
    if ((await attempt()) === 'not tried') score.of--;
    else score.ok++;
  } catch (error) {
    const fault = faultOf(error, row.name);
    if (fault.code === 'wrong-kind' && scores === row.back) score.refused++;
    trouble(row, sayFault(fault));
  }
}

/** Puts all that was changed into the archive at once, and reads it again. */
async function putBack(row: Row, archive: Archive, next: ReadonlyMap<string, Uint8Array>): Promise<void> {
  const scratch = fileScratch();
  try {
    const pathOf = uniquePaths(archive.entries);
    const numbers = Array.from({ length: archive.entries.count }, (_, n) => n).filter((n) => next.has(pathOf(n)));
    const replace = new Map(numbers.map((n) => [n, bufferSource(next.get(pathOf(n))!)]));
    const plan = await planRebuild(archive, { ...NO_EDITS, replace }, { scratch });
    const rebuilt = bufferSource(await collect(volumeBytes(plan.volumes[0]!)), archive.source.name);
    const again = await openArchive(archive.recipe, rebuilt);
    for (const n of numbers) {
      const back = await collect(readEntry(again, n));
      if (Buffer.compare(back, next.get(pathOf(n))!) !== 0)
        trouble(row, `${pathOf(n)} does not come back as it was put in`);
    }
  } catch (error) {
    trouble(row, sayFault(faultOf(error, archive.source.name)));
  } finally {
    await scratch.release();
  }
}

function count(counts: Record<string, number>, key: string): void {
  counts[key] = (counts[key] ?? 0) + 1;
}

function trouble(row: Row, sentence: string): void {
  const known = row.troubles.get(sentence) ?? 0;
  if (known > 0 || row.troubles.size < MOST_TROUBLES) row.troubles.set(sentence, known + 1);
}
