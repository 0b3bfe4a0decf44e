/** A format made by chance, read, proved and edited by the core; its own strict reader decides. */
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import {
  compileRecipe,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
  type Archive,
  type Layout,
} from '../../../src/core/recipe';
import { Dice } from '../../soak/dice';
import { Broken, refusal, type Outcome } from '../../soak/exercise';
import { chunkCase } from './chunk-case';
import type { MadeEntry } from './common';
import { folderCase } from './folder-case';
import { LIST } from './format';
import type { Files, MadeCase } from './made-case';
import { solidCase } from './solid-case';
import { tableCase } from './table-case';
import { volumeCase } from './volume-case';

const FOLDERS = ['', 'a/', 'a/b/', 'Maps/'];

/** A single table is where most formats differ. */
const CASES: readonly ((dice: Dice) => MadeCase)[] = [
  tableCase,
  tableCase,
  tableCase,
  chunkCase,
  folderCase,
  volumeCase,
  solidCase,
];

function someEntries(dice: Dice): MadeEntry[] {
  return Array.from({ length: dice.upTo(9) }, (_, i) => ({
    path: `${dice.pick(FOLDERS)}e${dice.upTo(99)}_${i}.bin`,
    bytes: someBytes(dice),
  }));
}

function someBytes(dice: Dice): Buffer {
  const length = dice.pick([0, 1, 5, 63, 64, 200, 1_500]);
  return dice.chance(0.5) ? Buffer.from(dice.bytes(length)) : Buffer.alloc(length, dice.upTo(255));
}

const sourcesOf = (files: Files) => Object.entries(files).map(([name, bytes]) => bufferSource(bytes, name));

/** What edits should leave; undefined for what a patch says is gone. */
type Meant = Map<string, Buffer | undefined>;

/** @throws Broken when something is read or written otherwise than the format's own reader says */
export async function runFormat(seed: number): Promise<Outcome> {
  const dice = new Dice(seed);
  const made = dice.pick(CASES)(dice);
  const entries = someEntries(dice);
  const files = made.write(entries, dice);
  try {
    return await runCase(made, entries, files, dice);
  } catch (error) {
    const what = error instanceof Broken ? error.message : ((error as Error).stack ?? String(error));
    throw new Broken(`${what}\n${JSON.stringify(made.format)}\n${made.recipe}`, { cause: error });
  }
}

async function runCase(made: MadeCase, entries: readonly MadeEntry[], files: Files, dice: Dice): Promise<Outcome> {
  const paths = entries.map(({ path }) => path);
  const strictly = made.read(files, paths);
  expectSame(strictly, new Map(entries.map(({ path, bytes }) => [path, bytes])), 'its own reader');
  const archive = await openArchive(compileRecipe(made.recipe), sourcesOf(files), {
    names: made.hashed === true ? paths : [],
  });
  const read = await contentsOf(archive);
  expectSame(read, strictly, 'the core');
  const proof = await prove(archive, { scratch: memoryScratch(), brief: true });
  const { first } =
    [proof.bytes, proof.formulas, proof.identical, proof.changed].find((part) => part.first !== undefined) ?? {};
  if (first !== undefined) throw new Broken(`not proven: ${JSON.stringify(first)}`);
  let refused: Outcome | undefined;
  const layouts: Layout[] = [...archive.recipe.layouts, ...(made.marks === true ? (['patch'] as const) : [])];
  for (const layout of layouts) {
    const { edits, meant } = someEdits(archive, read, layout, dice);
    let written: Files;
    try {
      const plan = await planRebuild(archive, edits, { layout, scratch: memoryScratch() });
      const volumes = plan.volumes.map(async (volume) => [
        volume.name,
        Buffer.from(await collect(volumeBytes(volume))),
      ]);
      written = Object.fromEntries(await Promise.all(volumes)) as Files;
    } catch (error) {
      refused = refusal(error);
      continue;
    }
    // A patch may leave out volumes that would be empty of entries; the reader wants all that the format has.
    expectSame(
      readStrictly(() => made.read(written, [...paths, ...meant.keys()]), layout),
      meant,
      layout,
    );
  }
  return refused ?? 'done';
}

/** All entries but the list, which follows from the others and is looked at by the strict reader. */
async function contentsOf(archive: Archive): Promise<Map<string, Buffer>> {
  const read = new Map<string, Buffer>();
  for (let i = 0; i < archive.entries.count; i++)
    if (!isList(archive, archive.entries.path(i)))
      read.set(archive.entries.path(i), Buffer.from(await collect(readEntry(archive, i))));
  return read;
}

const isList = ({ recipe }: Archive, path: string) => path === LIST && recipe.entries.made.length > 0;

function someEdits(archive: Archive, read: ReadonlyMap<string, Buffer>, layout: Layout, dice: Dice) {
  const isPatch = layout === 'patch';
  const meant: Meant = new Map(isPatch ? [] : read);
  const replace = new Map<number, ReturnType<typeof bufferSource>>();
  const remove = new Set<number>();
  for (let i = 0; i < archive.entries.count; i++) {
    const path = archive.entries.path(i);
    if (isList(archive, path)) continue;
    const bytes = someBytes(dice);
    if (dice.chance(0.35)) {
      // Its own bytes are no change, and go into no patch.
      if (isPatch && read.get(path)!.equals(bytes)) continue;
      replace.set(i, bufferSource(bytes));
      meant.set(path, bytes);
    } else if (dice.chance(0.2)) {
      remove.add(i);
      if (isPatch) meant.set(path, undefined);
      else meant.delete(path);
    }
  }
  const add = Array.from({ length: dice.upTo(2) }, (_, i) => ({
    path: `${dice.pick(FOLDERS)}new${i}.bin`,
    bytes: someBytes(dice),
  }));
  for (const { path, bytes } of add) meant.set(path, bytes);
  const added = add.map(({ path, bytes }) => ({ path, bytes: bufferSource(bytes) }));
  return { edits: { ...NO_EDITS, replace, remove, add: added }, meant };
}

function readStrictly<T>(read: () => T, layout: string): T {
  try {
    return read();
  } catch (error) {
    throw new Broken(`silent: ${layout} was written, and the format's reader says: ${(error as Error).message}`, {
      cause: error,
    });
  }
}

function expectSame(
  found: ReadonlyMap<string, Buffer | undefined>,
  meant: ReadonlyMap<string, Buffer | undefined>,
  who: string,
): void {
  for (const [path, bytes] of meant) {
    const there = found.get(path);
    const same = bytes === undefined ? found.has(path) && there === undefined : there?.equals(bytes) === true;
    if (!same) throw new Broken(`silent: ${who}: ${path} is not what was meant`);
  }
  for (const path of found.keys()) if (!meant.has(path)) throw new Broken(`silent: ${who}: ${path} is too many`);
}
