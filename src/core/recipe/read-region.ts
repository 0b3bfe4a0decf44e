/** Reading the regions of a file: where they are, through what, and the shapes in them. */
import { Cursor, type ByteSource } from '../bytes';
import { FaultError, FormatError, LimitError } from '../faults';
import type { Limits } from './limits';
import type { FieldKind, ReadContext, Recipe, Region } from './model';
import { ShapeColumn, type Column, type ListColumn, type Table } from './table';
import { decodeWhole, prepareChain, type Chain } from './through';
import { wholeNumber, type FileFacts, type Fields, type ListValue, type Scope } from './value';

/** A region as it was found in the file. */
export interface FoundRegion {
  readonly region: Region;
  readonly at: number;
  /** Stored bytes, padding of the region's own included. */
  readonly length: number;
  readonly stored: Uint8Array;
  readonly plain: Uint8Array;
  readonly column: Column | undefined;
  /** Plain bytes that the shape explains; what follows is kept as it is. */
  readonly explained: number;
}

/** First fetch of a region whose length only its content tells. */
const FIRST_FETCH = 64 << 10;

/** What formulas see of a region: its fields, or its rows. */
export function regionValue(region: FoundRegion): Fields | ListValue {
  const { column } = region;
  if (column instanceof ShapeColumn) return column.table.row(column.innerRow(0));
  return column?.get(0) as ListValue;
}

/**
 * Reads one region whose dependencies have been read.
 *
 * @throws FormatError for what is wrong, with field and offset
 * @throws FaultError `key-missing` or `key-wrong`
 */
export async function readRegion(
  region: Region,
  source: ByteSource,
  facts: FileFacts,
  limits: Limits,
): Promise<FoundRegion> {
  const scope: Scope = { file: facts, fields: undefined, row: undefined, entry: undefined };
  const at = wholeNumber(region.at!.evaluate(scope), `the start of region ${region.name}`);
  const room = source.size - at;
  if (room < 0) throw outside(region, at, 0, source);
  const given =
    region.length === undefined
      ? undefined
      : wholeNumber(region.length.evaluate(scope), `the length of region ${region.name}`);
  if (given !== undefined && given > room) throw outside(region, at, given, source);
  if (region.through.length === 0 && given === undefined && region.holds !== 'bytes')
    return readGrowing(region, region.holds as FieldKind, source, at, scope, limits);
  const length = given ?? room;
  if (length > limits.maxRegionBytes) throw tooLarge(region, at, length, limits);
  const stored = await source.read(at, length);
  if (region.holds === 'bytes')
    return { region, at, length, stored, plain: stored, column: undefined, explained: length };
  const kind = region.holds as FieldKind;
  if (region.through.length === 0)
    return parseRegion(region, kind, at, length, stored, at, { scope, limits, beyond: 0, depth: 0, needed: 0 });
  const plainSize =
    region.plain === undefined
      ? undefined
      : wholeNumber(region.plain.evaluate(scope), `the plain length of region ${region.name}`);
  const chain = prepareChain(region.through, { scope, plainSize, maxPlainBytes: limits.maxRegionBytes });
  return unlock(region, kind, at, stored, chain, scope, limits);
}

/** Decodes and parses a region; a wrong key is told by the first field that is not what it must be. */
function unlock(
  region: Region,
  kind: FieldKind,
  at: number,
  stored: Uint8Array,
  chain: Chain,
  scope: Scope,
  limits: Limits,
): FoundRegion {
  const slots = region.through.flatMap((step) => step.slots);
  const parse = (plain: Uint8Array) => ({
    ...parseRegion(region, kind, at, stored.length, plain, 0, { scope, limits, beyond: 0, depth: 0, needed: 0 }),
    stored,
  });
  const keyFault = (error: unknown): unknown => {
    if (slots.length === 0 || !(error instanceof FormatError)) return error;
    const within = error.fault.offset === undefined ? {} : { within: region.name };
    return new FormatError(
      {
        ...error.fault,
        ...within,
        code: 'key-wrong',
        what: `with it in the slot “${slots.join(', ')}”`,
        hint: 'Keys change with game updates: is it the key of this build? If it is, the file is damaged.',
      },
      { cause: error },
    );
  };
  let plain: Uint8Array;
  try {
    plain = decodeWhole(stored, chain);
  } catch (error) {
    // What was unlocked so far tells more than a broken padding: compare it with what must be there.
    if (error instanceof FormatError && error.partial !== undefined && slots.length > 0) {
      try {
        parse(error.partial);
      } catch (better) {
        if (better instanceof FormatError && better.fault.code === 'must-differs') throw keyFault(better);
      }
    }
    throw keyFault(error);
  }
  try {
    return parse(plain);
  } catch (error) {
    if (error instanceof FormatError && error.fault.code === 'must-differs') throw keyFault(error);
    throw error instanceof FaultError && error.fault.offset !== undefined ? error.with({ within: region.name }) : error;
  }
}

/** Reads a region of unknown length: more is fetched as long as the shape runs over the end of what there is. */
async function readGrowing(
  region: Region,
  kind: FieldKind,
  source: ByteSource,
  at: number,
  scope: Scope,
  limits: Limits,
): Promise<FoundRegion> {
  const room = source.size - at;
  for (let window = Math.min(room, FIRST_FETCH), needed = 0; ;) {
    const bytes = await source.read(at, window);
    const context: ReadContext = { scope, limits, beyond: room - window, depth: 0, needed: 0 };
    try {
      const found = parseRegion(region, kind, at, window, bytes, at, context);
      const plain = bytes.subarray(0, found.explained);
      return { ...found, length: found.explained, stored: plain, plain };
    } catch (error) {
      const short = error instanceof FormatError && error.fault.code === 'cut-short';
      if (!short || window >= room) throw error;
      if (window >= limits.maxRegionBytes) throw tooLarge(region, at, window, limits);
      ({ needed } = context);
    }
    window = Math.min(room, Math.max(window * 4, needed * 2), limits.maxRegionBytes);
  }
}

function parseRegion(
  region: Region,
  kind: FieldKind,
  at: number,
  length: number,
  plain: Uint8Array,
  base: number,
  context: ReadContext,
): FoundRegion {
  const cursor = new Cursor(plain, base);
  const column = kind.makeColumn();
  kind.read(cursor, column, context);
  return { region, at, length, stored: plain, plain, column, explained: cursor.position };
}

function outside(region: Region, at: number, length: number, source: ByteSource): FormatError {
  return new FormatError({
    code: 'outside-file',
    what: `region ${region.name} is not inside the file`,
    line: region.line,
    offset: at,
    expected: `an end at or before 0x${source.size.toString(16).toUpperCase()}`,
    found: `0x${(at + length).toString(16).toUpperCase()}`,
    hint: 'The file may be cut off: compare its size with a fresh copy.',
  });
}

function tooLarge(region: Region, at: number, length: number, limits: Limits): LimitError {
  return new LimitError({
    code: 'limit-reached',
    what: `region ${region.name} is too large`,
    offset: at,
    found: `${length.toLocaleString('en')} bytes`,
    limit: `bytes of one region, ${limits.maxRegionBytes.toLocaleString('en')}`,
  });
}

/** The table and stretch of rows that the entries are told by. */
export function entryRows(
  recipe: Recipe,
  found: ReadonlyMap<number, FoundRegion>,
): { table: Table; first: number; count: number } {
  const rule = recipe.entries;
  let column = found.get(rule.region)!.column!;
  let row = 0;
  for (const field of rule.fieldPath) {
    const shapes = column as ShapeColumn;
    row = shapes.innerRow(row);
    column = shapes.table.columns[field]!;
  }
  const list = column as ListColumn;
  const { length: count } = list.get(row) ?? { length: 0 };
  return {
    table: (list.items as ShapeColumn).table,
    first: count === 0 ? 0 : (list.items as ShapeColumn).innerRow(list.first(row)),
    count,
  };
}
