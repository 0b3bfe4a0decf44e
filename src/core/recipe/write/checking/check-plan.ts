/** Opening a planned archive again, before it is written, and comparing it with what it was meant to hold. */
import type { ByteSource } from '../../../bytes';
import { FaultError, FormatError, hexBytes, throwIfStopped, type Fault } from '../../../faults';
import type { Formula, Recipe } from '../../model';
import { checkFormulas, type FormulaCheck } from '../../proof/formula-check';
import { madeFaults } from '../../proof/made-faults';
import { openTables } from '../../read/archive';
import type { OpenedArchive } from '../../read/opened-archive';
import { entryFault, readEntry } from '../../read/entry-bytes';
import { bytesFollowPlace } from '../packing/bound';
import type { Plan } from '../rendering/planned';
import { checkRegions, checkValues } from './given';
import { matchEntries } from './match-entries';
import { failed, type CheckSetting, type MeantEntry } from './meant';
import { plannedSource } from './planned-source';
import { checkUntouched } from './untouched';

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
    await checkAllFormulas(setting, again, mayReseal(recipe) ? true : changed);
    for (let i = 0; i < meant.count; i++) {
      if (i % 1024 === 0) throwIfStopped(setting.signal);
      const checking = checkEntry(setting, plan, again, meant.at(i), found(i));
      if (checking !== undefined) await checking;
    }
    const [unmade] = await madeFaults(again, setting.signal);
    if (unmade !== undefined && setting.layout !== 'patch') throw new FormatError(unmade);
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

/** True when the stored bytes of an unchanged entry may be put together again, and a field holds a hash over them. */
function mayReseal(recipe: Recipe): boolean {
  const isPacked = (formula: Formula | undefined) =>
    formula?.uses.content.some(({ which }) => which !== 'data') === true;
  return (
    (bytesFollowPlace(recipe) || recipe.entries.blocks?.at !== undefined) &&
    recipe.shapes.some(({ fields }) =>
      fields.some(({ is, parts }) => isPacked(is) || parts.some((part) => isPacked(part.is))),
    )
  );
}

/** Formulas that disagree in the new file and did not in the old one. */
async function checkAllFormulas(
  { archive, signal }: CheckSetting,
  again: OpenedArchive,
  deep: true | ReadonlySet<number>,
): Promise<void> {
  const check = await checkFormulas(again, { deep, signal });
  if (check.agree === check.total) return;
  const before: Pick<FormulaCheck, 'differing'> =
    archive === undefined
      ? { differing: new Map<number, number>() }
      : await checkFormulas(archive, { deep: deep === true, signal });
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
  return checkUntouched(setting, plan, again, entry, base!);
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
