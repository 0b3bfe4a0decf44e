/** Reading the regions of a file: where they are, through what, and the shapes in them. */
import { Cursor, type ByteSource } from '../../bytes';
import { FaultError, FormatError, LimitError } from '../../faults';
import { scopeOf, truthy, type FileFacts, type Scope, type Value } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { Limits } from '../limits';
import type { Budget, FieldKind, ReadContext, Region, Shape } from '../model';
import type { Column } from './columns';
import { FileFlow } from './flow';
import { Tables } from './table';
import { decodeWhole, prepareChain, type Chain } from './through';
import { outside, MOST_CANDIDATES, isNoStart, searchedPlace, notFound } from './region-place';

/** A region as it was found in the file. */
export interface FoundRegion {
  readonly region: Region;
  /** True when steps were taken: offsets then count in the plain bytes. */
  readonly unlocked: boolean;
  /** The volume it lies in, by its place among the opened ones. */
  readonly volume: number;
  readonly at: number;
  /** Stored bytes, padding of the region's own included. */
  readonly length: number;
  /** Undefined for regions that were read on the way. */
  readonly stored: Uint8Array | undefined;
  readonly plain: Uint8Array | undefined;
  readonly column: Column | undefined;
  readonly tables: Tables;
  /** Plain bytes that the shape explains; what follows is kept as it is. */
  readonly explained: number;
}

/** What formulas see of a region: its fields, its items, or its value. */
export function regionValue(found: FoundRegion | undefined): Value {
  return found?.column?.get(0);
}

export interface RegionSetting {
  readonly source: ByteSource;
  readonly volume: number;
  readonly facts: FileFacts;
  readonly limits: Limits;
  readonly budget: Budget;
  readonly signal?: AbortSignal | undefined;
  /** Shapes of which one bad row costs no more than itself. */
  readonly tolerant?: ReadonlySet<Shape>;
  readonly trace?: ReadContext['trace'];
}

/**
 * Reads one region whose dependencies have been read.
 *
 * @returns undefined when its `when` does not hold
 * @throws FormatError for what is wrong, with field and offset
 * @throws FaultError `key-missing` or `key-wrong`
 */
export async function readRegion(region: Region, setting: RegionSetting): Promise<FoundRegion | undefined> {
  const scope: Scope = { ...scopeOf(setting.facts), volume: setting.volume };
  const isNeeded = region.when === undefined ? !region.optional : truthy(region.when.evaluate(scope));
  if (!isNeeded && !region.optional) return undefined;
  let first: FormatError | undefined;
  let behind: number | undefined;
  const { rows } = setting.budget;
  for (let tries = 1; ; tries++) {
    const at = await searchedPlace(region, scope, setting, behind);
    if (at === undefined && !isNeeded) return undefined;
    if (at === undefined) throw first ?? notFound(region, scope);
    try {
      return await readAt(region, at, scope, setting);
    } catch (error) {
      // The bytes that mark its start may be elsewhere too, where nothing else of it does.
      if (region.search === undefined || tries === MOST_CANDIDATES || !isNoStart(error)) throw first ?? error;
      first ??= error;
      behind = at;
      setting.budget.rows = rows;
    }
  }
}

async function readAt(region: Region, at: number, scope: Scope, setting: RegionSetting): Promise<FoundRegion> {
  const { source, limits, volume } = setting;
  const room = source.size - at;
  if (room < 0) throw outside(region, at, 0, source);
  const stated = region.length?.evaluate(scope);
  const given = stated === undefined ? undefined : wholeNumber(stated, `the length of region ${region.name}`);
  if (given !== undefined && given > room) throw outside(region, at, given, source);
  const tables = new Tables();
  const context = {
    scope,
    limits,
    tables,
    beyond: 0,
    depth: 0,
    held: 0,
    needed: 0,
    budget: setting.budget,
    elsewhere: undefined,
    tolerant: setting.tolerant,
    ...(setting.trace === undefined ? {} : { trace: setting.trace }),
  };
  const taken = region.through.filter((step) => step.when === undefined || truthy(step.when.evaluate(scope)));
  if (region.holds === 'bytes') {
    const base = { region, unlocked: false, volume, at, length: given!, column: undefined, tables, explained: given! };
    if (given! > limits.maxWholeBytes) return { ...base, stored: undefined, plain: undefined };
    const stored = await source.read(at, given!);
    return { ...base, stored, plain: stored };
  }
  const kind = region.holds as FieldKind;
  if (taken.length === 0) {
    if (kind.flows) return readFlowing(region, kind, at, given, context, setting);
    if (given === undefined) return readGrowing(region, kind, at, context, setting);
  }
  const length = given ?? room;
  if (length > limits.maxRegionBytes) throw tooLarge(region, at, length, limits);
  const stored = await source.read(at, length);
  if (taken.length === 0) return parseRegion(region, kind, at, length, stored, at, context, volume);
  const plainSize =
    region.plain === undefined
      ? undefined
      : wholeNumber(region.plain.evaluate(scope), `the plain length of region ${region.name}`);
  const chain = prepareChain(taken, {
    scope,
    plainSize,
    maxPlainBytes: limits.maxRegionBytes,
    maxStretchBytes: limits.maxStretchBytes,
  });
  return unlock(region, kind, at, stored, chain, context, volume);
}

/** The length of a region that the recipe confines by the end of its volume; undefined for others. */
export function lengthToEnd({ length, name }: Region, facts: FileFacts, volume: number): number | undefined {
  if (length?.uses.end !== true || volume < 0) return undefined;
  return wholeNumber(length.evaluate({ ...scopeOf(facts), volume }), `the length of region ${name}`);
}

/** A shape with data inside, or with fields elsewhere in the file: read on the way. */
async function readFlowing(
  region: Region,
  kind: FieldKind,
  at: number,
  given: number | undefined,
  context: ReadContext,
  { source, volume, limits }: RegionSetting,
): Promise<FoundRegion> {
  const end = given === undefined ? source.size : at + given;
  const flow = new FileFlow(source, at, end, limits.maxRegionBytes, limits.windowBytes);
  const column = kind.makeColumn(context.tables);
  await kind.readFlow!(flow, column, 0, context);
  const explained = flow.position - at;
  const base = {
    region,
    unlocked: false,
    volume,
    at,
    column,
    tables: context.tables,
    explained,
    stored: undefined,
    plain: undefined,
  };
  return { ...base, length: given ?? explained };
}

/** Decodes and parses a region; a wrong key is recognised by the first field that is not what it must be. */
function unlock(
  region: Region,
  kind: FieldKind,
  at: number,
  stored: Uint8Array,
  chain: Chain,
  context: ReadContext,
  volume: number,
): FoundRegion {
  const slots = region.through.flatMap((step) => step.slots);
  let inner = context;
  const parse = (plain: Uint8Array) => {
    inner = { ...context, elsewhere: (offset) => elsewhereIn(plain, offset) };
    const found = { ...parseRegion(region, kind, at, stored.length, plain, 0, inner, volume), stored, unlocked: true };
    if (slots.length > 0) refuseMostlyDamaged(found);
    return found;
  };
  let plain: Uint8Array;
  try {
    plain = decodeWhole(stored, chain);
  } catch (error) {
    // What was unlocked so far says more than a broken padding: compare it with what must be there.
    if (error instanceof FormatError && error.partial !== undefined && slots.length > 0) {
      try {
        parse(error.partial);
      } catch (better) {
        if (better instanceof FormatError && better.fault.code === 'must-differs')
          throw keyFault(better, region, slots);
      }
    }
    throw keyFault(error, region, slots);
  }
  try {
    return parse(plain);
  } catch (error) {
    const code = error instanceof FormatError ? error.fault.code : '';
    // Once a field has been what it must be, the key fits, and anything else is damage.
    if (code === 'must-differs' || (inner.held === 0 && ['cut-short', 'bad-text'].includes(code)))
      throw keyFault(error, region, slots);
    throw error instanceof FaultError && error.fault.offset !== undefined ? error.with({ within: region.name }) : error;
  }
}

/** @throws FaultError when most rows are damaged: then the key is wrong, and not the rows */
function refuseMostlyDamaged({ tables }: FoundRegion): void {
  for (const { damage, length } of tables.all()) {
    const [first] = damage.values();
    if (first !== undefined && damage.size * 2 > length) throw first;
  }
}

function keyFault(error: unknown, region: Region, slots: readonly string[]): unknown {
  if (!(error instanceof FormatError)) return error;
  const within = error.fault.offset === undefined ? {} : { within: region.name };
  if (slots.length === 0) return error.with(within);
  return new FormatError(
    {
      ...error.fault,
      ...within,
      code: 'key-wrong',
      what: `with it in the slot “${[...new Set(slots)].join(', ')}”`,
      hint: 'Keys change with game updates: is it the key of this build? If it is, the file is damaged.',
    },
    { cause: error },
  );
}

function elsewhereIn(plain: Uint8Array, offset: number): Cursor {
  if (offset > plain.length)
    throw new FormatError({
      code: 'outside-file',
      what: 'a field lies outside its region',
      offset,
      expected: `an offset up to 0x${plain.length.toString(16).toUpperCase()}`,
      found: `0x${offset.toString(16).toUpperCase()}`,
    });
  const cursor = new Cursor(plain);
  cursor.position = offset;
  return cursor;
}

/** Reads a region of unknown length: more is fetched as long as the shape runs over the end of what there is. */
async function readGrowing(
  region: Region,
  kind: FieldKind,
  at: number,
  context: ReadContext,
  { source, volume, limits }: RegionSetting,
): Promise<FoundRegion> {
  const room = source.size - at;
  for (let window = Math.min(room, Math.max(kind.fixedSize ?? 0, limits.windowBytes)); ;) {
    const bytes = await source.read(at, window);
    const tables = new Tables();
    const inner: ReadContext = { ...context, tables, scope: { ...context.scope, outer: [] }, beyond: room - window };
    try {
      const found = parseRegion(region, kind, at, window, bytes, at, inner, volume);
      const plain = bytes.subarray(0, found.explained);
      return { ...found, length: found.explained, stored: plain, plain };
    } catch (error) {
      const short = error instanceof FormatError && error.fault.code === 'cut-short';
      if (!short || window >= room) throw error;
      if (window >= limits.maxRegionBytes) throw tooLarge(region, at, window, limits);
      window = Math.min(room, Math.max(window * 4, inner.needed), limits.maxRegionBytes);
    }
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
  volume: number,
): FoundRegion {
  const cursor = new Cursor(plain, base);
  const column = kind.makeColumn(context.tables);
  kind.read(cursor, column, 0, context);
  const explained = cursor.position;
  return {
    region,
    unlocked: false,
    volume,
    at,
    length,
    stored: plain,
    plain,
    column,
    tables: context.tables,
    explained,
  };
}

function tooLarge(region: Region, at: number, length: number, limits: Limits): LimitError {
  return new LimitError({
    code: 'limit-reached',
    what: `region ${region.name} is too large`,
    offset: at,
    found: `${length.toLocaleString('en')} bytes`,
    limit: `maxRegionBytes, ${limits.maxRegionBytes.toLocaleString('en')}`,
  });
}
