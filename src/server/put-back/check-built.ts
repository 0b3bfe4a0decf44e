/** A built archive, read from disk again by the ordinary reader: it holds what was meant, and the rest as it was. */
import { collect, readChunks } from '../../core/bytes';
import { FaultError, throwIfStopped } from '../../core/faults';
import { soundFormatOf } from '../../core/forms/sound';
import { readEntry, smallReader, storedSource, type Archive } from '../../core/recipe';
import type { Group } from './groups';
import type { Addition, Replacement } from './replacement';
import { sha256OfBytes } from '../storage';

interface Expected {
  readonly path: string;
  /** Its number in the archive before. */
  readonly old?: number;
  readonly fresh?: Replacement | Addition;
  /** A marker says that it is gone. */
  readonly gone?: true;
}

/**
 * @param patch the archive holds what is new or changed alone
 * @throws FaultError `not-reproduced` with the first entry that is not as it was meant
 */
export async function checkBuilt(
  before: Archive,
  after: Archive,
  { replace, add, remove }: Pick<Group, 'replace' | 'add' | 'remove'>,
  { patch, signal }: { readonly patch: boolean; readonly signal: AbortSignal },
): Promise<void> {
  const differs = (entry: string, what: string) =>
    new FaultError({ code: 'not-reproduced', file: after.source.name, entry, what });
  const expected = expectedEntries(before, { replace, add, remove }, patch);
  if (after.entries.count !== expected.length)
    throw differs(after.source.name, `it holds ${after.entries.count} entries instead of ${expected.length}`);
  const placeOf = places(after, expected);
  const small = await smallReader(after);
  for (const [i, { path, old, fresh, gone }] of expected.entries()) {
    const n = placeOf(i);
    if (n === undefined) throw differs(path, 'an entry is not there, or has another name than it had');
    if (after.entries.isDeleted(n) !== (gone === true || (old !== undefined && before.entries.isDeleted(old))))
      throw differs(path, 'an entry is there, or gone, against what was meant');
    if (gone === true) continue;
    if (fresh === undefined) {
      if (!(await sameStored(before, after, old!, n, signal)))
        throw differs(path, 'an entry that was not changed is no longer as it was');
      continue;
    }
    throwIfStopped(signal);
    const found = sha256OfBytes(small(n) ?? (await collect(readEntry(after, n, { signal }))));
    if (found !== fresh.blob) throw differs(path, 'the changed entry does not read back as it was meant');
    const loop = 'loop' in fresh ? fresh.loop : undefined;
    if (loop !== undefined && soundFormatOf(after, n)?.loop?.join() !== loop.join())
      throw differs(path, 'the loop of the sound does not read back as it was meant');
  }
}

function expectedEntries(
  { entries }: Archive,
  { replace, add, remove }: Pick<Group, 'replace' | 'add' | 'remove'>,
  patch: boolean,
): Expected[] {
  const fresh = new Map(replace.map((one) => [one.n, one]));
  const added = add.map((one): Expected => ({ path: one.path, fresh: one }));
  if (patch) {
    const touched = [...fresh.keys(), ...remove].sort((a, b) => a - b);
    return [
      ...touched.map((old): Expected => {
        const one = fresh.get(old);
        return { path: entries.path(old), old, ...(one === undefined ? { gone: true } : { fresh: one }) };
      }),
      ...added,
    ];
  }
  const kept: Expected[] = [];
  for (let old = 0; old < entries.count; old++) {
    if (remove.has(old)) continue;
    const one = fresh.get(old);
    kept.push({ path: entries.path(old), old, ...(one === undefined ? {} : { fresh: one }) });
  }
  return [...kept, ...added];
}

/** Where each expected entry is: mostly in the same order; what is sorted in the archive may stand between the others. */
function places({ entries }: Archive, expected: readonly Expected[]): (i: number) => number | undefined {
  if (expected.every(({ path }, i) => entries.path(i) === path)) return (i) => i;
  const byPath = new Map<string, number[]>();
  for (let n = 0; n < entries.count; n++) byPath.set(entries.path(n), [...(byPath.get(entries.path(n)) ?? []), n]);
  const found = expected.map(({ path }) => byPath.get(path)?.shift());
  return (i) => found[i];
}

async function sameStored(
  before: Archive,
  after: Archive,
  old: number,
  n: number,
  signal: AbortSignal,
): Promise<boolean> {
  const a = storedSource(before, old);
  const b = storedSource(after, n);
  if (a.size !== b.size) return false;
  let at = 0;
  for await (const chunk of readChunks(a, 0, a.size, { signal })) {
    if (Buffer.compare(chunk, await b.read(at, chunk.length)) !== 0) return false;
    at += chunk.length;
  }
  return true;
}
