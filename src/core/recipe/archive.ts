/** Opening an archive with a recipe: regions in the order they can be read, then the table of entries. */
import type { ByteSource } from '../bytes';
import { FaultError, FormatError, hexBytes, throwIfStopped, type Fault } from '../faults';
import { entryFault } from './entry-bytes';
import { checkFormulas } from './formula-check';
import { readEntryTable, type EntryTable } from './entry-table';
import { DEFAULT_LIMITS, type Limits } from './limits';
import type { Recipe, Region } from './model';
import { entryRows, readRegion, regionValue, type FoundRegion } from './read-region';
import { ShapeColumn } from './table';
import type { FileFacts, Fields, Scope } from './value';

export type Keys = ReadonlyMap<string, Uint8Array>;

export interface OpenOptions {
  readonly keys?: Keys;
  readonly limits?: Partial<Limits>;
  readonly signal?: AbortSignal;
}

/** An archive whose tables have been read. It holds these, never its entries' bytes. */
export interface OpenedArchive {
  readonly recipe: Recipe;
  readonly source: ByteSource;
  readonly keys: Keys;
  readonly limits: Limits;
  readonly regions: ReadonlyMap<number, FoundRegion>;
  readonly entries: EntryTable;
  readonly facts: FileFacts;
}

export interface Archive extends OpenedArchive {
  /** Formulas that disagree and rows that point nowhere: the archive opens all the same. */
  readonly complaints: readonly Fault[];
}

/**
 * Opens an archive.
 *
 * @throws FormatError for what the file has wrong, with region, field, offset, expected and found
 * @throws FaultError `key-missing` or `key-wrong`, naming the slot
 */
export async function openArchive(recipe: Recipe, source: ByteSource, options: OpenOptions = {}): Promise<Archive> {
  const limits: Limits = { ...DEFAULT_LIMITS, ...options.limits };
  const keys = options.keys ?? new Map<string, Uint8Array>();
  const found = new Map<number, FoundRegion>();
  const facts = foundFacts(recipe, found, keys, () => entries?.count ?? 0);
  let entries: EntryTable | undefined;
  const at = { file: source.name, recipe: recipe.id };
  try {
    checkMatch(recipe, await source.read(0, Math.min(source.size, matchLength(recipe))));
    for (const index of recipe.readingOrder) {
      throwIfStopped(options.signal);
      const region = recipe.regions[index]!;
      try {
        found.set(index, await readRegion(region, source, facts, limits));
      } catch (error) {
        throw explained(error, region, found);
      }
    }
    const scope: Scope = { file: facts, fields: undefined, row: undefined, entry: undefined };
    const rows = entryRows(recipe, found);
    entries = readEntryTable(recipe.entries, rows.table, rows.first, rows.count, scope);
    const opened: OpenedArchive = { recipe, source, keys, limits, regions: found, entries, facts };
    const check = await checkFormulas(opened, { deep: false, signal: options.signal });
    return { ...opened, complaints: [...check.faults, ...pointerComplaints(recipe, entries, source)] };
  } catch (error) {
    throw error instanceof FaultError ? error.with(at) : error;
  }
}

/** True when the first bytes are those of this recipe's format. Cheap: no more than {@link matchLength} bytes needed. */
export function matches(recipe: Recipe, head: Uint8Array): boolean {
  return recipe.match.some(
    ({ at, bytes }) => head.length >= at + bytes.length && bytes.every((byte, i) => head[at + i] === byte),
  );
}

/** How many bytes from the start of a file {@link matches} looks at. */
export function matchLength(recipe: Recipe): number {
  return Math.max(...recipe.match.map(({ at, bytes }) => at + bytes.length));
}

function checkMatch(recipe: Recipe, head: Uint8Array): void {
  if (matches(recipe, head)) return;
  const [first] = recipe.match;
  const { at, bytes } = first!;
  throw new FormatError({
    code: 'must-differs',
    what: `this is not a ${recipe.title.toLowerCase()}`,
    offset: at,
    expected: printable(bytes),
    found: head.length > at ? printable(head.subarray(at, at + bytes.length)) : 'the end of the file',
    hint: 'Choose another recipe, or let the scan find one.',
  });
}

function printable(bytes: Uint8Array): string {
  const text = Buffer.from(bytes).toString('latin1');
  return /^[\x20-\x7e]+$/.test(text) ? JSON.stringify(text) : hexBytes(bytes);
}

function foundFacts(
  recipe: Recipe,
  found: ReadonlyMap<number, FoundRegion>,
  keys: Keys,
  entryCount: () => number,
): FileFacts {
  const get = (index: number) => {
    const region = found.get(index);
    if (region !== undefined) return region;
    throw new FormatError({
      code: 'recipe-circular',
      what: `region ${recipe.regions[index]!.name} is needed before it can be read`,
    });
  };
  return {
    region: (index) => regionValue(get(index)) as Fields,
    start: (index) => get(index).at,
    length: (index) => get(index).length,
    bytes: (index, which) => (which === 'plain' ? get(index).plain : get(index).stored),
    entryCount,
    key: (slot) => {
      const key = keys.get(slot);
      if (key !== undefined) return key;
      throw new FaultError({
        code: 'key-missing',
        what: `the slot "${slot}" needs a key`,
        expected: `a key of kind ${recipe.needs.get(slot) ?? 'unknown'}`,
        hint: 'Paste it on Open, or look for it in the game’s program.',
      });
    },
  };
}

/** Adds the region to a fault; where a checksum covers it and disagrees too, says so. */
function explained(error: unknown, region: Region, found: ReadonlyMap<number, FoundRegion>): unknown {
  if (!(error instanceof FaultError)) return error;
  const covering = [...found.values()].flatMap(({ column, region: other }) =>
    column instanceof ShapeColumn
      ? column.table.shape.fields
          .filter((field) => field.is?.uses.regionBytes.has(region.index))
          .map((field) => `${other.name}.${field.name}`)
      : [],
  );
  const hint =
    covering.length > 0 && error.fault.hint === undefined
      ? {
          hint: `The file keeps a checksum of it in ${covering.join(', ')}: a damaged copy is likely. Get the file again.`,
        }
      : {};
  return error.with({ region: region.name, line: region.line, ...hint });
}

/** At most this many complaints of one kind are kept; the rest are counted. */
const MAX_COMPLAINTS = 20;

function pointerComplaints(recipe: Recipe, entries: EntryTable, source: ByteSource): Fault[] {
  const complaints: Fault[] = [];
  let more = 0;
  for (let i = 0; i < entries.count; i++) {
    const end = entries.at(i) + entries.stored(i);
    if (end <= source.size && recipe.entries.stepsOf(entries.method(i)) !== undefined) continue;
    if (complaints.length >= MAX_COMPLAINTS) more++;
    else complaints.push({ ...entryFault(recipe, entries, i, source), file: source.name, recipe: recipe.id });
  }
  if (more > 0)
    complaints.push({
      code: 'outside-file',
      file: source.name,
      recipe: recipe.id,
      what: `${more.toLocaleString('en')} more entries cannot be read for the same reasons`,
    });
  return complaints;
}
