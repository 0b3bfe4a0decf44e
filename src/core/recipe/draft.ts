/** A file in the making: which entries it will hold, and the value of every field as far as it is settled. */
import type { ByteSource, Scratch } from '../bytes';
import { readChunks } from '../bytes';
import { createHasher } from '../codecs';
import { FormatError, throwIfStopped } from '../faults';
import type { Archive, Keys } from './archive';
import type { Edits, Layout } from './edits';
import type { Limits } from './limits';
import type { Field, Method, Recipe, RowCursor, Shape } from './model';
import type { FoundRegion } from './read-region';
import { ShapeColumn, type Table } from './table';
import { encodeChunks, prepareChain } from './through';
import {
  sameValue,
  type EntryFacts,
  type Fields,
  type FileFacts,
  type ListValue,
  type Scope,
  type Value,
} from './value';

/** An entry whose bytes are new. */
export interface NewBytes {
  /** Index in the archive it replaces, or undefined for an added entry. */
  readonly base: number | undefined;
  readonly path: string;
  readonly method: Method;
  readonly plainSize: number;
  readonly stored: ByteSource;
  readonly hashes: ReadonlyMap<string, Value>;
}

/** The entries of the file in the making, in the order of their rows. */
export interface DraftEntries {
  readonly count: number;
  /** Index in the archive that is rebuilt; undefined for an added entry. */
  base(out: number): number | undefined;
  /** Set when the entry's bytes are new. */
  fresh(out: number): NewBytes | undefined;
}

export interface DraftSetting {
  readonly recipe: Recipe;
  readonly keys: Keys;
  readonly limits: Limits;
  /** The archive that is rebuilt or gives its settings to a patch; undefined when a file is made from nothing. */
  readonly archive: Archive | undefined;
}

/**
 * Packs every new entry and lists what the file will hold.
 *
 * @throws FormatError `cannot-add` naming the field without a value for new rows
 */
export async function draftEntries(
  setting: DraftSetting,
  edits: Edits,
  layout: Layout,
  scratch: Scratch,
  signal?: AbortSignal,
): Promise<DraftEntries> {
  const { archive } = setting;
  const kept: number[] = [];
  const fresh = new Map<number, NewBytes>();
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (edits.remove.has(entry)) continue;
    const bytes = edits.replace.get(entry);
    if (layout === 'patch' && bytes === undefined) continue;
    if (bytes !== undefined) {
      throwIfStopped(signal);
      fresh.set(kept.length, await packEntry(setting, entry, archive!.entries.path(entry), bytes, scratch, signal));
    }
    kept.push(entry);
  }
  if (edits.add.length > 0) checkCanAdd(setting);
  for (const [i, { path, bytes }] of edits.add.entries()) {
    throwIfStopped(signal);
    fresh.set(kept.length + i, await packEntry(setting, undefined, path, bytes, scratch, signal));
  }
  return {
    count: kept.length + edits.add.length,
    base: (out) => kept[out],
    fresh: (out) => fresh.get(out),
  };
}

/** Every field of a new row must have a value from somewhere. */
function checkCanAdd({ recipe, archive }: DraftSetting): void {
  const missing = recipe.entries.shape.fields.find(
    (field) =>
      field.is === undefined &&
      field.must === undefined &&
      (field.fresh === undefined || (field.fresh === 'neighbour' && (archive?.entries.count ?? 0) === 0)),
  );
  if (missing === undefined) return;
  throw new FormatError({
    code: 'cannot-add',
    recipe: recipe.id,
    line: missing.line,
    field: missing.name,
    expected: '`is`, `must` or `new`',
    found: 'none of them',
    hint: 'Say in the recipe what the field is in a new row, such as new: 0.',
  });
}

/** Packs an entry as its original was packed; raw where that is smaller and the format can say so. */
async function packEntry(
  setting: DraftSetting,
  base: number | undefined,
  path: string,
  plain: ByteSource,
  scratch: Scratch,
  signal: AbortSignal | undefined,
): Promise<NewBytes> {
  const { recipe, archive, limits } = setting;
  const rule = recipe.entries;
  const neighbour =
    base ?? (archive !== undefined && archive.entries.count > 0 ? archive.entries.count - 1 : undefined);
  const usual = neighbour === undefined ? rule.methods.at(-1)! : archive!.entries.method(neighbour);
  const data = await hashes(setting, 'data', plain, signal);
  const tried: NewBytes[] = [];
  for (const method of [usual, ...rule.rawMethods, ...rule.methods]) {
    if (tried.some((one) => sameValue(one.method, method))) continue;
    const steps = rule.stepsOf(method);
    if (steps === undefined) continue;
    const row =
      archive === undefined || neighbour === undefined
        ? undefined
        : archive.entries.rows.row(archive.entries.row(neighbour));
    const file = archive?.facts ?? keyFacts(setting);
    const scope: Scope = { file, fields: undefined, row, entry: undefined };
    const chain = prepareChain(steps, { scope, plainSize: plain.size, maxPlainBytes: limits.maxEntryBytes });
    const stored =
      steps.length === 0
        ? plain
        : await scratch.keep(encodeChunks(plain, chain, { maxStoredBytes: limits.maxRegionBytes, signal }), path);
    const packed = await hashes(setting, 'packed', stored, signal);
    const made: NewBytes = { base, path, method, plainSize: plain.size, stored, hashes: new Map([...data, ...packed]) };
    tried.push(made);
    const helps =
      steps.length === 0 || stored.size < plain.size || !steps.some(({ codec }) => codec.family === 'compression');
    if ((helps || rule.rawMethods.length === 0) && tellsMethod(setting, made)) return made;
  }
  const fallback = tried.find((made) => tellsMethod(setting, made));
  if (fallback !== undefined) return fallback;
  throw new FormatError({
    code: 'layout-impossible',
    recipe: recipe.id,
    line: rule.line,
    entry: path,
    what: 'no way of packing gives a row that says how it was packed',
    hint: 'Give the field that tells the method `is: entry.method`.',
  });
}

/** True when a reader of the new row would find the method that was used. */
function tellsMethod(setting: DraftSetting, made: NewBytes): boolean {
  const entry: EntryFacts = {
    path: made.path,
    at: 0,
    stored: made.stored.size,
    size: made.plainSize,
    method: made.method,
    content: (which, hasher) => made.hashes.get(`${which}:${hasher}`),
  };
  const facts = {
    ...(setting.archive?.facts ?? keyFacts(setting)),
    start: () => 0,
    length: () => 0,
    entryCount: () => 1,
  };
  const scope: Scope = { file: facts, fields: undefined, row: undefined, entry };
  const row = new DraftRow(setting, scope, { count: 1, base: () => made.base, fresh: () => made }, () => entry);
  return sameValue(setting.recipe.entries.methodOf({ ...scope, row }), made.method);
}

function keyFacts({ keys, recipe }: DraftSetting): FileFacts {
  const none = (what: string): never => {
    throw new FormatError({
      code: 'recipe-circular',
      recipe: recipe.id,
      what: `${what} is not known while entries are packed`,
    });
  };
  return {
    region: () => none('a region'),
    start: () => none('a region'),
    length: () => none('a region'),
    bytes: () => none('a region'),
    entryCount: () => none('the number of entries'),
    key: (slot) => keys.get(slot) ?? none(`the key for "${slot}"`),
  };
}

async function hashes(
  { recipe }: DraftSetting,
  which: 'data' | 'packed',
  source: ByteSource,
  signal: AbortSignal | undefined,
): Promise<[string, Value][]> {
  const names = new Set(
    recipe.entries.shape.fields.flatMap((field) =>
      (field.is?.uses.content ?? []).filter((one) => one.which === which).map((one) => one.hasher),
    ),
  );
  if (names.size === 0) return [];
  const machines = [...names].map((name) => ({ name, hasher: createHasher(name)! }));
  for await (const chunk of readChunks(source, 0, source.size, signal === undefined ? {} : { signal })) {
    for (const { hasher } of machines) hasher.update(chunk);
  }
  return machines.map(({ name, hasher }) => [`${which}:${name}`, hasher.digest()]);
}

/** A field whose formula says the same as long as the entry's own bytes and name do. */
function isStable(field: Field, shape: Shape, seen = new Set<number>()): boolean {
  if (field.is === undefined || seen.has(field.index)) return true;
  seen.add(field.index);
  const { uses } = field.is;
  if (uses.layout || uses.elsewhere || uses.regionBytes.size > 0) return false;
  return [...uses.siblings].every((index) => isStable(shape.fields[index]!, shape, seen));
}

/** The row of one entry in the making. One object serves all rows: set `out` to look at another. */
export class DraftRow implements Fields {
  out = 0;
  private readonly stable: readonly boolean[];
  private readonly pending = new Set<number>();
  constructor(
    private readonly setting: DraftSetting,
    private readonly scope: Scope,
    private readonly entries: DraftEntries,
    private readonly factsOf: (out: number) => EntryFacts,
  ) {
    const { shape } = setting.recipe.entries;
    this.stable = shape.fields.map((field) => isStable(field, shape));
  }

  get(index: number): Value {
    const { recipe, archive } = this.setting;
    const field = recipe.entries.shape.fields[index]!;
    const base = this.entries.base(this.out);
    const changed = this.entries.fresh(this.out) !== undefined;
    if (field.is !== undefined && (changed || !this.stable[index])) return this.computed(field);
    if (base !== undefined) return archive!.entries.rows.columns[index]!.kept(archive!.entries.row(base));
    if (field.is !== undefined) return this.computed(field);
    if (field.must !== undefined) return field.must.only;
    if (field.fresh === 'neighbour')
      return archive!.entries.rows.columns[index]!.kept(archive!.entries.row(archive!.entries.count - 1));
    return field.fresh?.evaluate({ ...this.scope, fields: this, row: this, entry: this.factsOf(this.out) });
  }

  private computed(field: Field): Value {
    if (this.pending.has(field.index)) throw circular(this.setting.recipe, field);
    this.pending.add(field.index);
    const { scope } = this;
    const outer = { fields: scope.fields, row: scope.row, entry: scope.entry };
    try {
      scope.fields = this;
      scope.row = this;
      scope.entry = this.factsOf(this.out);
      return field.is!.evaluate(scope);
    } finally {
      Object.assign(scope, outer);
      this.pending.delete(field.index);
    }
  }
}

export function circular(recipe: Recipe, field: Field): FormatError {
  return new FormatError({
    code: 'recipe-circular',
    recipe: recipe.id,
    line: field.line,
    field: field.name,
    what: 'the formula of a field needs the field itself',
  });
}

/** An instance of any shape other than the entries' rows. */
export class DraftFields implements Fields {
  private readonly pending = new Set<number>();
  private readonly fresh = new Map<number, Value>();
  constructor(
    private readonly setting: DraftSetting,
    private readonly scope: Scope,
    private readonly shape: Shape,
    private readonly base: { readonly table: Table; readonly row: number } | undefined,
    /** Gives the list of entry rows when the field is the one that holds it. */
    private readonly rowsAt: (shape: Shape, field: number) => ListValue | undefined,
  ) {}

  get(index: number): Value {
    const field = this.shape.fields[index]!;
    const rows = this.rowsAt(this.shape, index);
    if (rows !== undefined) return rows;
    if (field.is !== undefined) return this.computed(field);
    const { base } = this;
    if (base !== undefined) return this.kept(index, base);
    if (!this.fresh.has(index)) this.fresh.set(index, this.made(field));
    return this.fresh.get(index);
  }

  private kept(index: number, base: { readonly table: Table; readonly row: number }): Value {
    const column = base.table.columns[index]!;
    const { type } = this.shape.fields[index]!.kind;
    const child = (shape: Shape, table: Table, row: number) =>
      new DraftFields(this.setting, this.scope, shape, { table, row }, this.rowsAt);
    if (type.kind === 'shape') {
      const shapes = column as ShapeColumn;
      return shapes.innerRow(base.row) < 0 ? undefined : child(type.shape, shapes.table, shapes.innerRow(base.row));
    }
    const value = column.kept(base.row);
    if (type.kind !== 'list' || type.of.kind !== 'shape' || value === undefined) return value;
    const { shape } = type.of;
    const list = value as ListValue;
    return {
      length: list.length,
      at: (i: number) => {
        const inner = list.at(i) as RowCursor;
        return child(shape, inner.table, inner.row);
      },
    };
  }

  private made(field: Field): Value {
    if (field.must !== undefined) return field.must.only;
    const { type } = field.kind;
    if (type.kind === 'shape') return new DraftFields(this.setting, this.scope, type.shape, undefined, this.rowsAt);
    if (field.fresh !== undefined && field.fresh !== 'neighbour')
      return field.fresh.evaluate({ ...this.scope, fields: this });
    if (type.kind === 'list') return { length: 0, at: () => undefined };
    throw new FormatError({
      code: 'cannot-add',
      recipe: this.setting.recipe.id,
      line: field.line,
      field: field.name,
      what: 'this recipe cannot make a file from nothing',
      expected: '`is`, `must` or `new`',
      found: 'none of them',
    });
  }

  private computed(field: Field): Value {
    if (this.pending.has(field.index)) throw circular(this.setting.recipe, field);
    this.pending.add(field.index);
    const { scope } = this;
    const outer = scope.fields;
    try {
      scope.fields = this;
      return field.is!.evaluate(scope);
    } finally {
      scope.fields = outer;
      this.pending.delete(field.index);
    }
  }
}

/** The instance a found region holds, as the base of a draft. */
export function regionBase(found: FoundRegion | undefined): { table: Table; row: number } | undefined {
  const column = found?.column;
  return column instanceof ShapeColumn ? { table: column.table, row: column.innerRow(0) } : undefined;
}
