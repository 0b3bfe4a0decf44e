/** Unchanged entries: their stored bytes are copied and mean the same, or unpack to the same bytes. */
import { readChunks, type ByteSource } from '../../../bytes';
import { FaultError, type Fault } from '../../../faults';
import { sameValue } from '../../formula/value';
import { showValue } from '../../formula/show-value';
import type { Field, Step } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { containerOf, openEntry, readEntry } from '../../read/entry-bytes';
import { sameChain } from '../../read/through';
import type { Plan } from '../rendering/planned';
import { failed, type CheckSetting } from './meant';
import { pieceIndexAt } from './planned-source';

/**
 * @returns undefined when nothing has to be read for it: a million untouched entries should cost no promise each
 * @throws FormatError `check-failed` naming the entry
 */
export function checkUntouched(
  setting: CheckSetting,
  plan: Plan,
  again: OpenedArchive,
  entry: number,
  base: number,
): Promise<void> | undefined {
  const archive = setting.archive!;
  checkHashes(archive, base, again, entry);
  const { stored, steps, same } = facts(archive, base, again, entry);
  const untouched = same && (stored === 0 || isCopied(plan, again, entry, archive, base) === true);
  return untouched && !varies(again, steps) ? undefined : compareStored(setting, plan, again, entry, base);
}

async function compareStored(
  setting: CheckSetting,
  plan: Plan,
  again: OpenedArchive,
  entry: number,
  base: number,
): Promise<void> {
  if (await isKept(setting, plan, again, entry, base)) return;
  await comparePlain(setting.archive!, base, again, entry, setting.signal);
}

/**
 * Hashes over plain bytes that stay have to stay as well.
 *
 * @throws FormatError naming the field that would be another
 */
function checkHashes(archive: OpenedArchive, base: number, again: OpenedArchive, entry: number): void {
  const { entries: before } = archive;
  const { entries: now } = again;
  for (const field of before.rows.shape.fields) {
    if (!hasDataHash(field)) continue;
    const found = before.rows.columns[field.index]!.get(before.row(base));
    const made = now.rows.columns[field.index]!.get(now.row(entry));
    if (found === undefined || sameValue(found, made)) continue;
    throw failed({
      what: 'a checksum of an entry that was not touched would change',
      entry: before.path(base),
      field: field.name,
      line: field.line,
      expected: showValue(found),
      found: showValue(made),
    });
  }
}

function hasDataHash({ is }: Field): boolean {
  return is?.uses.content.some(({ which }) => which === 'data') === true;
}

/** Whether an entry has the sizes and the method it had. */
function facts(archive: OpenedArchive, base: number, { entries: now, recipe }: OpenedArchive, entry: number) {
  const { entries: before } = archive;
  const stored = now.stored(entry);
  const sameSize = Object.is(now.size(entry), before.size(base));
  const same = stored === before.stored(base) && sameSize && sameValue(now.method(entry), before.method(base));
  return { stored, same, steps: recipe.entries.stepsOf(now.method(entry) ?? 0) ?? [] };
}

/** True when the stored bytes of an entry are those it had, and mean the same where they lie now. */
async function isKept(
  { archive }: CheckSetting,
  plan: Plan,
  again: OpenedArchive,
  entry: number,
  base: number,
): Promise<boolean> {
  const { same, steps } = facts(archive!, base, again, entry);
  if (!same || !(await hasSameBytes(plan, again, entry, archive!, base))) return false;
  if (!varies(again, steps)) return true;
  const [one, other] = [await openEntry(again, entry), await openEntry(archive!, base)];
  if (!sameChain(one.chain, other.chain)) return false;
  const blocks = one.blocks ?? [];
  return blocks.every(({ at, stored }, i) => other.blocks?.[i]?.at === at && other.blocks[i].stored === stored);
}

/** True when something that may have changed goes into the packing of an entry. */
function varies({ recipe }: OpenedArchive, steps: readonly Step[]): boolean {
  const { blocks } = recipe.entries;
  if (blocks === undefined && steps.length === 0) return false;
  const all = [...steps, ...(blocks?.through ?? [])];
  const formulas = all.flatMap(({ params }) => Object.values(params));
  return (
    (blocks !== undefined && (blocks.each !== undefined || blocks.stored.uses.entry.has('row'))) ||
    formulas.some(
      ({ uses }) =>
        uses.layout || uses.elsewhere || uses.regions.size > 0 || uses.siblings.size > 0 || uses.entry.has('row'),
    )
  );
}

/**
 * Whether the plan copies the stored bytes of an entry from where they were found.
 *
 * @returns undefined when it makes them again, be they the same or not
 */
function isCopied(
  plan: Plan,
  again: OpenedArchive,
  entry: number,
  archive: OpenedArchive,
  base: number,
): boolean | undefined {
  if (again.dataSpace !== undefined || again.recipe.wrapped.length > 0) return undefined;
  const at = again.entries.at(entry);
  const { pieces } = plan.volumes[again.entries.volume(entry)]!;
  const piece = pieces[pieceIndexAt(pieces, at)]!;
  const isPart =
    piece.source === containerOf(archive, base) && at + again.entries.stored(entry) <= piece.at + piece.length;
  return isPart ? piece.from + at - piece.at === archive.entries.at(base) : undefined;
}

async function hasSameBytes(
  plan: Plan,
  again: OpenedArchive,
  entry: number,
  archive: OpenedArchive,
  base: number,
): Promise<boolean> {
  const stored = again.entries.stored(entry);
  if (!(stored > 0)) return true;
  const copied = isCopied(plan, again, entry, archive, base);
  if (copied !== undefined) return copied;
  if (archive.recipe.entries.blocks?.at !== undefined) {
    const [one, other] = [await openEntry(archive, base), await openEntry(again, entry)];
    return one.stored.size === other.stored.size && equalBytes(one.stored, 0, other.stored, 0, one.stored.size);
  }
  const source = containerOf(archive, base)!;
  return equalBytes(source, archive.entries.at(base), containerOf(again, entry)!, again.entries.at(entry), stored);
}

async function equalBytes(
  one: ByteSource,
  oneAt: number,
  other: ByteSource,
  otherAt: number,
  length: number,
): Promise<boolean> {
  let done = 0;
  for await (const chunk of readChunks(one, oneAt, length)) {
    if (Buffer.compare(chunk, await other.read(otherAt + done, chunk.length)) !== 0) return false;
    done += chunk.length;
  }
  return true;
}

/** Both unpacked side by side: for entries whose stored bytes follow their place, their number or their name. */
async function comparePlain(
  archive: OpenedArchive,
  base: number,
  again: OpenedArchive,
  entry: number,
  signal: AbortSignal | undefined,
): Promise<void> {
  const path = archive.entries.path(base);
  const wanted = readEntry(archive, base, { verify: false, signal })[Symbol.asyncIterator]();
  let left = new Uint8Array(0) as Uint8Array;
  let done = 0;
  const differs = () =>
    failed({
      what: 'an entry that was not touched would read other bytes',
      entry: path,
      offset: done,
      within: 'entry',
      ...fieldOfPlace(again),
    });
  try {
    for await (const chunk of readEntry(again, entry, { signal, verify: false })) {
      for (let at = 0; at < chunk.length;) {
        if (left.length === 0) {
          const next = await wanted.next();
          if (next.done === true) throw differs();
          left = next.value;
          continue;
        }
        const count = Math.min(left.length, chunk.length - at);
        if (Buffer.compare(left.subarray(0, count), chunk.subarray(at, at + count)) !== 0) throw differs();
        left = left.subarray(count);
        at += count;
        done += count;
      }
    }
    if (left.length > 0 || !(await isOver(wanted))) throw differs();
  } catch (error) {
    // The old bytes cannot be unpacked either: nothing can be compared, and nothing was promised.
    if (error instanceof FaultError && error.fault.code !== 'check-failed' && !(await isReadable(archive, base)))
      return;
    throw error instanceof FaultError && error.fault.code !== 'check-failed' ? differs() : error;
  } finally {
    await wanted.return?.(undefined);
  }
}

async function isOver(chunks: AsyncIterator<Uint8Array>): Promise<boolean> {
  for (;;) {
    const next = await chunks.next();
    if (next.done === true) return true;
    if (next.value.length > 0) return false;
  }
}

async function isReadable(archive: OpenedArchive, entry: number): Promise<boolean> {
  try {
    for await (const _ of readEntry(archive, entry, { verify: false })) void _;
    return true;
  } catch (error) {
    if (error instanceof FaultError) return false;
    throw error;
  }
}

/** The formula that says where entries lie: what mostly is to blame for bytes that are not found again. */
function fieldOfPlace({ recipe: { entries } }: OpenedArchive): Partial<Fault> {
  return entries.at === undefined ? {} : { field: entries.at.text, line: entries.at.line };
}
