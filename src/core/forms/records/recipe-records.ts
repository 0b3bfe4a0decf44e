/** Records that a recipe presents: rows of a file by table, in the fields of their shape. */
import { collect, memoryScratch, type ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import { openArchive, planRebuild, rowFields, volumeBytes, type Recipe, type Value } from '../../recipe';
import { tableOfPath, type CellValue, type Pointer, type RecordRow } from './records';

const MOST_BYTES = 64 << 20;
const LIMITS = { maxWholeBytes: MOST_BYTES };

/** @throws FormatError for what the file has wrong */
export async function readRecipeRecords(recipe: Recipe, source: ByteSource): Promise<RecordRow[]> {
  const file = await openArchive(recipe, [source], { limits: LIMITS });
  return [...recipe.records!].flatMap(([name, each]) =>
    rowFields(file, each).map(({ values }, i): RecordRow => ({
      table: `${tableOfPath(source.name)}#${name}`,
      pointer: [name, i],
      values: Object.fromEntries(
        Object.entries(values).flatMap(([field, value]) => {
          const cell = cellOf(value);
          return cell === undefined ? [] : [[field, cell]];
        }),
      ),
    })),
  );
}

/** Bytes and shapes inside a row are no cells. */
function cellOf(value: Value): CellValue | undefined {
  switch (typeof value) {
    case 'number':
    case 'string':
    case 'boolean':
      return value;
    case 'bigint':
      // What a number cannot hold exactly is shown as its digits.
      return value <= BigInt(Number.MAX_SAFE_INTEGER) && value >= BigInt(Number.MIN_SAFE_INTEGER)
        ? Number(value)
        : String(value);
    case 'undefined':
      return null;
    default: {
      if (!('at' in value && typeof value.at === 'function' && 'length' in value)) return undefined;
      const items = Array.from({ length: value.length }, (_, i) => cellOf((value.at as (i: number) => Value)(i)));
      return items.every((item) => item !== undefined && !Array.isArray(item)) ? (items as CellValue) : undefined;
    }
  }
}

/**
 * The file with another value in one cell; counts, offsets and checksums follow.
 *
 * @throws FormatError `wrong-kind` when the value is of another kind, or the field follows a formula
 */
export async function withRecipeCell(
  recipe: Recipe,
  source: ByteSource,
  pointer: Pointer,
  column: string,
  typed: string,
): Promise<Uint8Array> {
  const file = await openArchive(recipe, [source], { limits: LIMITS });
  const each = recipe.records!.get(String(pointer[0]));
  const row = each === undefined ? undefined : rowFields(file, each)[Number(pointer[1])];
  const wrong = (what: string, expected?: string) =>
    new FormatError({
      ...{ code: 'wrong-kind', file: source.name, field: column, what, found: typed },
      ...(expected === undefined ? {} : { expected }),
    });
  const [found, place] = [row?.values[column], row?.places[column]];
  if (row === undefined || found === undefined) throw wrong('the value is not there any more');
  if (place === undefined) throw wrong('the field follows a formula of the recipe, and is set by it');
  const value = valueOf(found, typed.trim(), place.names, wrong) ?? typed;
  const plan = await planRebuild(
    file,
    { replace: new Map(), add: [], remove: new Set(), values: [{ place, value }] },
    { scratch: memoryScratch() },
  );
  return collect(volumeBytes(plan.volumes[0]!));
}

/** The value that was typed, of the kind of the one it replaces; undefined for a text. */
function valueOf(
  found: Value,
  typed: string,
  names: readonly string[] | undefined,
  wrong: (what: string, expected: string) => FormatError,
): Value {
  const another = 'the value is of another kind';
  if (names !== undefined) {
    if (!names.includes(typed)) throw wrong(another, `one of ${names.join(', ')}`);
    return typed;
  }
  switch (typeof found) {
    case 'bigint':
      if (!/^-?\d+$/.test(typed)) throw wrong(another, 'a whole number');
      return BigInt(typed);
    case 'number':
      if (!/^-?\d+(\.\d+)?([eE][-+]?\d+)?$/.test(typed)) throw wrong(another, 'a number');
      if (Number.isInteger(found) && !Number.isInteger(Number(typed))) throw wrong(another, 'a whole number');
      return Number(typed);
    case 'boolean':
      if (!/^(true|false)$/.test(typed)) throw wrong(another, 'true or false');
      return typed === 'true';
    case 'string':
      return undefined;
    default:
      throw wrong('only numbers and texts are set here', 'a field with one number or text');
  }
}
