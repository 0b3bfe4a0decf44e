/** What becomes of the files of one package: which are known, whether all in them comes out, and whether edits read back. */
import { basename, extname } from 'node:path';
import type { ByteSource } from '../../src/core/bytes';
import { fileScratch, openFile } from '../../src/core/bytes/node';
import { faultOf, sayFault } from '../../src/core/faults';
import { kindOf, looseKind } from '../../src/core/game';
import {
  isProven,
  openArchive,
  prove,
  readEntry,
  recogniseFile,
  type Archive,
  type Recipe,
} from '../../src/core/recipe';

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
  /** Files that nothing tells, by their ending. */
  readonly unknown: Record<string, number>;
  readonly troubles: string[];
  seconds: number;
}

const HEAD_BYTES = 4096;
const MOST_TROUBLES = 12;

export async function lookAt(name: string, files: readonly string[], recipes: readonly Recipe[]): Promise<Row> {
  const row: Row = {
    ...{ name, files: 0, bytes: 0, loose: 0, archives: 0, entries: 0, out: 0, proven: 0, seconds: 0 },
    ...{ kinds: {}, unknown: {}, troubles: [] },
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
    if (fits.length === 1) return await lookInside(row, fits[0]!.recipe, source);
    const kind = looseKind(name, await source.read(0, Math.min(HEAD_BYTES, source.size)));
    if (kind === undefined) return count(row.unknown, extname(name) || 'no ending');
    row.loose++;
    count(row.kinds, kind);
  } catch (error) {
    trouble(row, sayFault(faultOf(error, name)));
  } finally {
    await source.close();
  }
}

async function lookInside(row: Row, recipe: Recipe, source: ByteSource): Promise<void> {
  row.archives++;
  const scratch = fileScratch();
  try {
    const archive = await openArchive(recipe, source, { scratch });
    for (const complaint of archive.complaints) trouble(row, sayFault(complaint));
    await takeAll(row, archive);
    const proof = await prove(archive, { scratch });
    if (isProven(proof)) return void row.proven++;
    for (const { first } of [proof.bytes, proof.formulas, proof.identical, proof.changed, proof.edits])
      if (first !== undefined) trouble(row, sayFault(first));
  } finally {
    await scratch.release();
  }
}

async function takeAll(row: Row, archive: Archive): Promise<void> {
  const { entries, source } = archive;
  for (let entry = 0; entry < entries.count; entry++) {
    if (entries.isDirectory(entry)) continue;
    row.entries++;
    try {
      let head: Uint8Array | undefined;
      for await (const chunk of readEntry(archive, entry)) head ??= chunk.subarray(0, HEAD_BYTES);
      row.out++;
      count(row.kinds, kindOf(entries.path(entry), head));
    } catch (error) {
      trouble(row, sayFault(faultOf(error, source.name)));
    }
  }
}

function count(counts: Record<string, number>, key: string): void {
  counts[key] = (counts[key] ?? 0) + 1;
}

function trouble(row: Row, sentence: string): void {
  if (row.troubles.length < MOST_TROUBLES) row.troubles.push(sentence);
}
