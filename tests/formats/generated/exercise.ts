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
} from '../../../src/core/recipe';
import { Dice } from '../../soak/dice';
import { Broken, refusal, type Outcome } from '../../soak/exercise';
import type { MadeEntry } from './common';
import { LIST, makeFormat, recipeOf } from './format';
import { readMade } from './read-made';
import { writeMade } from './write-made';

const FOLDERS = ['', 'a/', 'a/b/', 'Maps/'];

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

/** @throws Broken when something is read or written otherwise than the format's own reader says */
export async function runFormat(seed: number): Promise<Outcome> {
  const dice = new Dice(seed);
  const format = makeFormat(dice);
  const text = recipeOf(format);
  const entries = someEntries(dice);
  const file = writeMade(format, entries, dice);
  /** It follows from the others, and is looked at by the strict reader. */
  const isList = (path: string) => format.list && path === LIST;
  try {
    expectSame(readMade(format, file), new Map(entries.map(({ path, bytes }) => [path, bytes])), 'its own reader');
    const archive = await openArchive(compileRecipe(text), [bufferSource(file, 'made.bin')]);
    const read = new Map<string, Buffer>();
    for (let i = 0; i < archive.entries.count; i++)
      if (!isList(archive.entries.path(i)))
        read.set(archive.entries.path(i), Buffer.from(await collect(readEntry(archive, i))));
    expectSame(read, readMade(format, file), 'the core');
    const proof = await prove(archive, { scratch: memoryScratch(), brief: true });
    const { first } =
      [proof.bytes, proof.formulas, proof.identical, proof.changed].find((part) => part.first !== undefined) ?? {};
    if (first !== undefined) throw new Broken(`not proven: ${JSON.stringify(first)}`);
    let refused: Outcome | undefined;
    for (const layout of archive.recipe.layouts) {
      const meant = new Map(read);
      const replace = new Map<number, ReturnType<typeof bufferSource>>();
      const remove = new Set<number>();
      for (let i = 0; i < archive.entries.count; i++) {
        const path = archive.entries.path(i);
        if (isList(path)) continue;
        const bytes = someBytes(dice);
        if (dice.chance(0.35)) {
          replace.set(i, bufferSource(bytes));
          meant.set(path, bytes);
        } else if (dice.chance(0.2)) {
          remove.add(i);
          meant.delete(path);
        }
      }
      const add = Array.from({ length: dice.upTo(2) }, (_, i) => ({
        path: `${dice.pick(FOLDERS)}new${i}.bin`,
        bytes: someBytes(dice),
      }));
      for (const { path, bytes } of add) meant.set(path, bytes);
      const added = add.map(({ path, bytes }) => ({ path, bytes: bufferSource(bytes) }));
      let made: Buffer;
      try {
        const plan = await planRebuild(
          archive,
          { ...NO_EDITS, replace, remove, add: added },
          { layout, scratch: memoryScratch() },
        );
        made = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
      } catch (error) {
        refused = refusal(error);
        continue;
      }
      expectSame(
        readStrictly(() => readMade(format, made), layout),
        meant,
        layout,
      );
    }
    return refused ?? 'done';
  } catch (error) {
    if (!(error instanceof Broken)) return broken(error);
    throw new Broken(`${error.message}\n${JSON.stringify(format)}\n${text}`, { cause: error });
  }

  function broken(error: unknown): Outcome {
    throw new Broken(`${(error as Error).stack ?? String(error)}\n${JSON.stringify(format)}\n${text}`, {
      cause: error,
    });
  }
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

function expectSame(found: ReadonlyMap<string, Buffer>, meant: ReadonlyMap<string, Buffer>, who: string): void {
  for (const [path, bytes] of meant)
    if (found.get(path)?.equals(bytes) !== true) throw new Broken(`silent: ${who}: ${path} is not what was meant`);
  for (const path of found.keys()) if (!meant.has(path)) throw new Broken(`silent: ${who}: ${path} is too many`);
}
