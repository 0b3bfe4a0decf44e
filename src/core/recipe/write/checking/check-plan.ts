/** Opening a planned archive again, before it is written, and comparing it with what it was meant to hold. */
import { readChunks, type ByteSource, type Scratch } from '../../../bytes';
import { FaultError, FormatError, hexBytes, throwIfStopped, type Fault } from '../../../faults';
import type { Limits } from '../../limits';
import { sameValue, showValue } from '../../formula/value';
import type { Field, Recipe, Step } from '../../model';
import { checkFormulas, type FormulaCheck } from '../../proof/formula-check';
import { openTables, type Keys, type OpenedArchive } from '../../read/archive';
import { containerOf, entryFault, openEntry, readEntry } from '../../read/entry-bytes';
import { sameChain } from '../../read/through';
import type { Column } from '../../read/columns';
import type { FieldEdit } from '../edits/edits';
import type { Plan } from '../rendering/planned';
import { pieceIndexAt, plannedSource } from './planned-source';

/** One entry that a plan is meant to hold. */
export interface MeantEntry {
  readonly path: string;
  /** Its index in the archive that is rebuilt; undefined for an added entry. */
  readonly base: number | undefined;
  /** Its new plain bytes; undefined when they stay. */
  readonly plain: ByteSource | undefined;
  readonly deleted: boolean;
}

/** All entries in the order in which their rows will be read; made one by one, for there may be a million. */
export interface MeantEntries {
  readonly count: number;
  at(index: number): MeantEntry;
}

export interface CheckSetting {
  readonly recipe: Recipe;
  readonly keys: Keys;
  readonly limits: Limits;
  readonly scratch: Scratch;
  readonly signal: AbortSignal | undefined;
  /** The archive that is rebuilt; undefined for a new one. */
  readonly archive: OpenedArchive | undefined;
  readonly meant: MeantEntries;
  /** New bytes of regions, by their index in the recipe. */
  readonly regions: ReadonlyMap<number, Uint8Array>;
  /** New values of fields that were found. */
  readonly values: readonly FieldEdit[];
}

/**
 * Opens a plan with the recipe it was made with and compares: every `must`, every formula, the list of paths, the plain
 * bytes of each new or changed entry, and for each other entry that its stored bytes still mean the same.
 *
 * @throws FormatError `check-failed`, or the fault of reading, naming the entry and the field
 */
export async function checkPlan(setting: CheckSetting, plan: Plan): Promise<void> {
  const { recipe, archive } = setting;
  try {
    const again = await openTables(recipe, plan.volumes.map(plannedSource), {
      keys: setting.keys,
      limits: setting.limits,
      scratch: setting.scratch,
      names: namesFor(setting),
      ...(setting.signal === undefined ? {} : { signal: setting.signal }),
    });
    const found = matchEntries(setting, again);
    const changed = new Set<number>();
    const { meant } = setting;
    for (let i = 0; i < meant.count; i++) if (meant.at(i).plain !== undefined) changed.add(found(i));
    await checkAllFormulas(setting, again, changed);
    for (let i = 0; i < meant.count; i++) {
      if (i % 1024 === 0) throwIfStopped(setting.signal);
      const checking = checkEntry(setting, plan, again, meant.at(i), found(i));
      if (checking !== undefined) await checking;
    }
    checkRegions(setting, again);
    checkValues(setting, again, found);
  } catch (error) {
    if (!(error instanceof FaultError) || error.fault.code === 'stopped' || error.fault.code === 'disk-full')
      throw error;
    throw refusal(error.fault, archive?.source.name ?? plan.volumes[0]?.name, recipe);
  }
}

/** The fault of what would have been written, as the reason why it was not. */
function refusal(fault: Fault, file: string | undefined, recipe: Recipe): FormatError {
  return new FormatError({
    ...fault,
    code: 'check-failed',
    what: fault.code === 'check-failed' ? fault.what! : (fault.what ?? CAUSES[fault.code] ?? fault.code),
    recipe: recipe.id,
    ...(fault.file === undefined && file !== undefined ? { file } : {}),
  });
}

const CAUSES: Partial<Record<Fault['code'], string>> = {
  'cut-short': 'it would end too early',
  'must-differs': 'a field would not be what it has to be',
  'formula-differs': 'a field would disagree with its formula',
  'codec-failed': 'a stretch of it could not be unpacked',
  'size-differs': 'an entry would unpack to another size',
  'checksum-differs': 'a checksum would not agree',
  'outside-file': 'a pointer would lead out of the file',
  'bad-text': 'a text would not be in its encoding',
  'key-wrong': 'it could not be unlocked again',
};

/** Names that give hashed entries theirs, those of added entries among them. */
function* namesFor({ archive, meant }: CheckSetting): Generator<string> {
  if (archive?.hashes === undefined && archive !== undefined) return;
  for (let i = 0; i < meant.count; i++) {
    const { path, base } = meant.at(i);
    if (base === undefined || archive!.entries.isNamed(base)) yield path;
  }
}

/** True when the path of an entry says nothing but where it lies or which it is, so that it changes with its neighbours. */
function isNumbered({ entries: { path, hash, id } }: Recipe): boolean {
  if (path === undefined) return hash === undefined && id === undefined;
  return path.uses.layout;
}

/**
 * Finds each meant entry among those that were read.
 *
 * @returns the index of each
 * @throws FormatError when one is missing, is there twice, or has another name
 */
function matchEntries({ recipe, meant, values }: CheckSetting, { entries }: OpenedArchive): (index: number) => number {
  if (entries.count !== meant.count)
    throw failed({
      what: 'it would hold another number of entries',
      expected: meant.count.toLocaleString('en'),
      found: entries.count.toLocaleString('en'),
    });
  const inOrder = (index: number) => index;
  if (isNumbered(recipe)) {
    checkNumbers(meant, entries);
    return inOrder;
  }
  let first = 0;
  while (first < meant.count && entries.path(first) === meant.at(first).path) first++;
  if (first === meant.count) return inOrder;
  if (values.length > 0 && isRenamedByValues(meant, entries, first)) return inOrder;
  const byPath = new Map<string, number[]>();
  for (let i = entries.count - 1; i >= first; i--) {
    const path = entries.path(i);
    const same = byPath.get(path);
    if (same === undefined) byPath.set(path, [i]);
    else same.push(i);
  }
  const lost: string[] = [];
  const found = Int32Array.from({ length: meant.count - first }, (_, i) => {
    const { path } = meant.at(first + i);
    const index = byPath.get(path)?.pop();
    if (index === undefined) lost.push(path);
    return index ?? -1;
  });
  if (lost.length === 0) return (index) => (index < first ? index : found[index - first]!);
  const stranger = [...byPath].find(([, left]) => left.length > 0);
  const line = lineOf(recipe);
  throw failed({
    what: 'an entry would not be found again',
    entry: lost[0]!,
    expected: lost[0]!,
    found: stranger?.[0] ?? 'nothing',
    ...(line === undefined ? {} : { line }),
  });
}

/** @throws FormatError when an added entry would not get the path it was added under */
function checkNumbers(meant: MeantEntries, entries: OpenedArchive['entries']): void {
  for (let i = 0; i < meant.count; i++) {
    const { path, base } = meant.at(i);
    if (base !== undefined || entries.path(i) === path) continue;
    throw failed({
      what: 'the format keeps no names, and an added entry would be found under another path',
      entry: path,
      expected: path,
      found: entries.path(i),
      hint: `Add it as ${entries.path(i)}.`,
    });
  }
}

/**
 * True when no more than the paths of kept entries differ, each still a path of its own: a field of the header that was
 * changed stands in them, like the language of a table. What lies under each is compared in their order.
 */
function isRenamedByValues(meant: MeantEntries, entries: OpenedArchive['entries'], first: number): boolean {
  const paths = new Set<string>();
  for (let i = 0; i < meant.count; i++) paths.add(entries.path(i));
  if (paths.size !== meant.count) return false;
  for (let i = first; i < meant.count; i++) {
    const { path, base } = meant.at(i);
    if (base === undefined && entries.path(i) !== path) return false;
  }
  return true;
}

const lineOf = ({ entries: { path, hash } }: Recipe) => (path ?? hash)?.line;

function failed(facts: Omit<Fault, 'code'>): FormatError {
  return new FormatError({ code: 'check-failed', ...facts });
}

/** Formulas that disagree in the new file and did not in the old one. */
async function checkAllFormulas(
  { archive, signal }: CheckSetting,
  again: OpenedArchive,
  changed: ReadonlySet<number>,
): Promise<void> {
  const check = await checkFormulas(again, { deep: changed, signal });
  if (check.agree === check.total) return;
  const before: Pick<FormulaCheck, 'differing'> =
    archive === undefined
      ? { differing: new Map<number, number>() }
      : await checkFormulas(archive, { deep: false, signal });
  for (const [line, count] of check.differing) {
    if (count <= (before.differing.get(line) ?? 0)) continue;
    const fault = check.faults.find((one) => one.line === line);
    throw new FormatError(fault ?? { code: 'formula-differs', line });
  }
}

/** @returns undefined when nothing has to be read for it: a million untouched entries should cost no promise each */
function checkEntry(
  setting: CheckSetting,
  plan: Plan,
  again: OpenedArchive,
  meant: MeantEntry,
  entry: number,
): Promise<void> | undefined {
  const { path, base, plain, deleted } = meant;
  const { archive, signal } = setting;
  if (again.entries.isDeleted(entry) !== deleted)
    throw failed({
      what: deleted ? 'an entry would not be marked as deleted' : 'an entry would be marked as deleted',
      entry: path,
      ...(again.recipe.entries.deleted === undefined ? {} : { line: again.recipe.entries.deleted.line }),
    });
  if (deleted) return undefined;
  const fault = entryFault(again, entry);
  if (plain !== undefined) {
    if (fault !== undefined) throw new FormatError(fault);
    return compareBytes(plain, readEntry(again, entry, { signal }), path);
  }
  // What could not be read before is only kept.
  if (entryFault(archive!, base!) !== undefined) return undefined;
  if (fault !== undefined) throw new FormatError(fault);
  checkHashes(archive!, base!, again, entry);
  const { stored, steps, same } = facts(archive!, base!, again, entry);
  const untouched = same && (stored === 0 || isCopied(plan, again, entry, archive!, base!) === true);
  if (untouched && !varies(again, steps)) return undefined;
  return checkUntouched(setting, plan, again, entry, base!);
}

async function checkUntouched(
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
 * @returns undefined when it makes them anew, be they the same or not
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

/** @throws FormatError with the first byte that differs */
async function compareBytes(wanted: ByteSource, found: AsyncIterable<Uint8Array>, path: string): Promise<void> {
  let done = 0;
  for await (const chunk of found) {
    const length = Math.min(chunk.length, Math.max(0, wanted.size - done));
    const expected = await wanted.read(done, length);
    if (chunk.length > length || Buffer.compare(chunk, expected) !== 0) {
      const first = expected.findIndex((byte, i) => byte !== chunk[i]);
      const at = first < 0 ? length : first;
      throw failed({
        what: 'an entry would not read back as it was given',
        entry: path,
        offset: done + at,
        within: 'entry',
        expected: at < length ? hexBytes(expected.subarray(at, at + 8)) : 'the end',
        found: hexBytes(chunk.subarray(at, at + 8)),
      });
    }
    done += chunk.length;
  }
  if (done !== wanted.size)
    throw failed({
      what: 'an entry would not read back as it was given',
      entry: path,
      expected: `${wanted.size.toLocaleString('en')} bytes`,
      found: done.toLocaleString('en'),
    });
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

/** The formula that tells where entries lie: what mostly is to blame for bytes that are not found again. */
function fieldOfPlace({ recipe: { entries } }: OpenedArchive): Partial<Fault> {
  return entries.at === undefined ? {} : { field: entries.at.text, line: entries.at.line };
}

/** New values of fields have to be read back, in rows of entries and in what stands once in the file. */
function checkValues(
  { archive, meant, values }: CheckSetting,
  again: OpenedArchive,
  found: (i: number) => number,
): void {
  if (values.length === 0 || archive === undefined) return;
  const positions = new Map<number, number>();
  for (let i = 0; i < meant.count; i++) {
    const { base } = meant.at(i);
    if (base !== undefined) positions.set(base, found(i));
  }
  for (const { place, value } of values) {
    const where = placeOfColumn(archive, place.column);
    if (where === undefined) continue;
    const { region, table, field } = where;
    const now = again.regions.get(region)?.tables.find(table.shape);
    const entry = table === archive.entries.rows ? positions.get(archive.entries.entryOfRow(place.row)) : undefined;
    const row = entry !== undefined ? again.entries.row(entry) : table.length === now?.length ? place.row : undefined;
    if (now === undefined || row === undefined) continue;
    const made = now.columns[field.index]!.get(row);
    if (sameValue(made, value)) continue;
    throw failed({
      what: 'a field would not read back as it was set',
      region: archive.recipe.regions[region]!.name,
      field: field.name,
      line: field.line,
      expected: showValue(value),
      found: showValue(made),
    });
  }
}

function placeOfColumn(archive: OpenedArchive, column: Column) {
  for (const [region, { tables }] of archive.regions)
    for (const table of tables.all()) {
      const index = table.columns.indexOf(column);
      if (index >= 0) return { region, table, field: table.shape.fields[index]! };
    }
  return undefined;
}

function checkRegions({ regions }: CheckSetting, again: OpenedArchive): void {
  for (const [index, bytes] of regions) {
    const found = again.regions.get(index);
    if (found?.stored === undefined || Buffer.compare(found.stored, bytes) === 0) continue;
    throw failed({
      what: 'a region would not read back as it was given',
      region: found.region.name,
      line: found.region.line,
      offset: found.at,
    });
  }
}
