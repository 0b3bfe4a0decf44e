/** What becomes of the files of one package: which are known, whether all in them comes out, and whether edits read back. */
import { basename, extname } from 'node:path';
import { collect, type ByteSource } from '../../src/core/bytes';
import { fileScratch, openFile } from '../../src/core/bytes/node';
import { faultOf, sayFault } from '../../src/core/faults';
import { looseKind } from '../../src/core/game';
import {
  isProven,
  openArchive,
  prove,
  readEntry,
  recogniseFile,
  type Archive,
  type Recipe,
} from '../../src/core/recipe';
import { comesBack, formOf, seen } from './preview';

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
  readonly previewed: Record<string, { ok: number; of: number }>;
  /** Changed by their form, put back, and read again as they were meant. */
  readonly back: { ok: number; of: number };
  /** Files that nothing tells, by their ending. */
  readonly unknown: Record<string, number>;
  readonly troubles: string[];
  seconds: number;
}

const HEAD_BYTES = 4096;
const MOST_TROUBLES = 12;
/** Entries of each kind that are looked at in a package, and those of an archive that are changed. */
const MOST_SEEN = 60;
const MOST_CHANGED = 4;

export async function lookAt(name: string, files: readonly string[], recipes: readonly Recipe[]): Promise<Row> {
  const row: Row = {
    ...{ name, files: 0, bytes: 0, loose: 0, archives: 0, entries: 0, out: 0, proven: 0, seconds: 0 },
    ...{ kinds: {}, unknown: {}, troubles: [], previewed: {}, back: { ok: 0, of: 0 } },
  };
  const start = performance.now();
  for (const path of files) await lookAtFile(row, path, recipes);
  row.seconds = (performance.now() - start) / 1000;
  return row;
}

async function lookAtFile(row: Row, path: string, recipes: readonly Recipe[]): Promise<void> {
  const name = basename(path);
  const source = await openFile(path, name);
  try {
    row.files++;
    row.bytes += source.size;
    const { fits } = await recogniseFile(recipes, source);
    if (fits.length === 1) return await lookInside(row, fits[0]!.recipe, source, recipes);
    const head = await source.read(0, Math.min(HEAD_BYTES, source.size));
    const form = await formOf(name, head, recipes);
    const kind = form.kind === 'bytes' ? looseKind(name, head) : form.kind;
    if (kind === undefined) return count(row.unknown, extname(name) || 'no ending');
    row.loose++;
    count(row.kinds, kind);
    const whole = () => source.read(0, source.size);
    await preview(row, name, whole, { ...form, kind }, async () => undefined);
  } catch (error) {
    trouble(row, sayFault(faultOf(error, name)));
  } finally {
    await source.close();
  }
}

async function lookInside(row: Row, recipe: Recipe, source: ByteSource, recipes: readonly Recipe[]): Promise<void> {
  row.archives++;
  const scratch = fileScratch();
  try {
    const archive = await openArchive(recipe, source, { scratch });
    for (const complaint of archive.complaints) trouble(row, sayFault(complaint));
    await takeAll(row, archive, recipes);
    const proof = await prove(archive, { scratch });
    if (isProven(proof)) return void row.proven++;
    for (const { first } of [proof.bytes, proof.formulas, proof.identical, proof.changed, proof.edits])
      if (first !== undefined) trouble(row, sayFault(first));
  } finally {
    await scratch.release();
  }
}

async function takeAll(row: Row, archive: Archive, recipes: readonly Recipe[]): Promise<void> {
  const { entries, source } = archive;
  const byPath = new Map(Array.from({ length: entries.count }, (_, entry) => [entries.path(entry), entry]));
  const beside = async (path: string) => {
    const entry = byPath.get(path);
    return entry === undefined ? undefined : collect(readEntry(archive, entry));
  };
  let changed = 0;
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.isDirectory(entry)) continue;
    row.entries++;
    const path = entries.path(entry);
    try {
      let head: Uint8Array = new Uint8Array(0);
      for await (const chunk of readEntry(archive, entry)) if (head.length === 0) head = chunk.subarray(0, HEAD_BYTES);
      row.out++;
      const form = await formOf(path, head, recipes);
      count(row.kinds, form.kind);
      const next = await preview(row, path, () => collect(readEntry(archive, entry)), form, beside);
      if (next === undefined || changed >= MOST_CHANGED) continue;
      changed++;
      row.back.of++;
      if (await comesBack(archive, entry, next)) row.back.ok++;
      else trouble(row, `${path} does not come back as it was changed`);
    } catch (error) {
      trouble(row, sayFault(faultOf(error, source.name)));
    }
  }
}

/** @returns the bytes of a changed one, where a recipe describes it */
async function preview(
  row: Row,
  path: string,
  bytes: () => Promise<Uint8Array>,
  form: Parameters<typeof seen>[1],
  beside: Parameters<typeof seen>[2],
): Promise<Uint8Array | undefined> {
  if (!['picture', 'mesh', 'sound'].includes(form.kind)) return undefined;
  const counts = (row.previewed[form.kind] ??= { ok: 0, of: 0 });
  if (counts.of >= MOST_SEEN) return undefined;
  counts.of++;
  try {
    const next = await seen({ path, bytes: await bytes() }, form, beside);
    counts.ok++;
    return next;
  } catch (error) {
    trouble(row, sayFault(faultOf(error, path)));
    return undefined;
  }
}

function count(counts: Record<string, number>, key: string): void {
  counts[key] = (counts[key] ?? 0) + 1;
}

function trouble(row: Row, sentence: string): void {
  if (row.troubles.length < MOST_TROUBLES) row.troubles.push(sentence);
}
