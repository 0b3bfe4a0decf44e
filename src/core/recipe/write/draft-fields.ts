/** Instances of shapes in the making: each field computed by its formula, or as it was found. */
import { FormatError } from '../../faults';
import { withBits } from '../formula/bits';
import {
  isFields,
  isList,
  sameValue,
  type EntryFacts,
  type Fields,
  type ListValue,
  type Scope,
  type Stretch,
  type Value,
} from '../formula/value';
import { EMPTY_LIST } from '../kinds/list-kind';
import type { Field, FieldKind, Formula, Shape } from '../model';
import { itemsOf, ShapeColumn } from '../read/columns';
import type { RowCursor, Table } from '../read/table';
import type { Draft } from './draft';
import type { DraftLists } from './draft-lists';
import type { NewBytes } from './new-bytes';
import type { InstanceKey } from './places';

/** Facts that stay the same as long as the entry's own bytes and name do. */
const STEADY_FACTS = new Set([
  'path',
  'name',
  'folder',
  'stored',
  'size',
  'method',
  'time',
  'deleted',
  'hash',
  'id',
  'block-count',
  'block',
  'row',
]);

export interface Identity {
  /** The row it was read from. */
  readonly base: { readonly table: Table; readonly row: number } | undefined;
  /** The entry, folder and block it belongs to. */
  readonly out: number | undefined;
  readonly folder: number | undefined;
  readonly block: number | undefined;
  readonly key: InstanceKey;
}

/** One instance of a shape in the new file. */
export class DraftFields implements Fields {
  private pending: Set<number> | undefined;

  constructor(
    private readonly draft: Draft,
    private readonly lists: DraftLists,
    readonly shape: Shape,
    readonly identity: Identity,
    /** The packed bytes of the entry, in the shape around them. */
    private readonly packed?: Stretch,
  ) {}

  /** The value as formulas see it. */
  get(index: number): Value {
    return this.value(index, false);
  }
  /** The value as it is written: what stays keeps the very bytes it has. */
  written(index: number): Value {
    return this.value(index, true);
  }

  private value(index: number, asFound: boolean): Value {
    const field = this.shape.fields[index]!;
    const list = this.listOf(field);
    if (list !== undefined) return list;
    if (field.is !== undefined && this.mustCompute(field.is)) {
      if (this.isAbsent(index)) return undefined;
      return this.isListField(field) ? this.computedList(field, field.is) : this.computed(field, field.is, asFound);
    }
    const value = this.plain(field, index, asFound);
    return field.parts.length === 0 || value === undefined ? value : this.withParts(field, value);
  }

  startOf(index: number): number {
    return this.draft.places.start(this.identity.key, index);
  }
  lengthOf(index: number): number {
    return this.draft.places.length(this.identity.key, index);
  }
  note(index: number, start: number, length: number): void {
    this.draft.places.note(this.identity.key, index, start, length);
  }
  foundAt(index: number): number | undefined {
    const { base } = this.identity;
    return base === undefined || base.table.columns[index]!.get(base.row) === undefined
      ? undefined
      : base.table.markedStart(index, base.row);
  }
  neighbour(by: number): Fields | undefined {
    const { base } = this.identity;
    return base === undefined ? undefined : base.table.row(base.row).neighbour(by);
  }

  private isListField(field: Field): boolean {
    return field.kind.type.kind === 'list';
  }

  /** A field that was left out stays out. */
  private isAbsent(index: number): boolean {
    const { base } = this.identity;
    return (
      base !== undefined &&
      base.table.columns[index]!.kept(base.row) === undefined &&
      this.shape.fields[index]!.when === undefined
    );
  }

  /** Unchanged entries keep what does not follow the layout; everything else is worked out. */
  private mustCompute(formula: Formula): boolean {
    const { base, out } = this.identity;
    if (base === undefined) return true;
    // A row that is no entry keeps what only an entry could tell.
    if (
      out === undefined &&
      (formula.uses.entry.size > 0 || formula.uses.content.length > 0) &&
      this.identity.folder === undefined
    )
      return false;
    const changed = out !== undefined && out >= 0 && this.draft.entries.fresh(out) !== undefined;
    // Hashes over the bytes of an unchanged entry, and what stands around these, stay with them.
    const overBytes = formula.uses.content.length > 0 || formula.uses.entry.has('own');
    if (!changed && out !== undefined && overBytes) return false;
    return out === undefined || changed || !isSteady(formula, this.shape);
  }

  private plain(field: Field, index: number, asFound: boolean): Value {
    const { base, out } = this.identity;
    const fresh = out === undefined || out < 0 ? undefined : this.draft.entries.fresh(out);
    const holdsData = (this.packed !== undefined || fresh !== undefined) && this.isData(field);
    if (holdsData && this.packed !== undefined) return this.packed;
    if (holdsData && fresh !== undefined) return { stretch: true, at: 0, length: fresh.stored.size, out } as Stretch;
    if (base !== undefined) return this.kept(index, base, asFound);
    const made = this.madeValues(fresh);
    const inside = keyText(this.identity.key).split('/').slice(1).join('/');
    const key = `${inside}:${this.shape.name}.${index}`;
    if (!made.has(key)) made.set(key, this.initial(field));
    return made.get(key);
  }

  /**
   * What a new instance was given once, kept with its entry or for the whole file: what was drawn by lot is the same
   * whenever it is asked for.
   */
  private madeValues(fresh: NewBytes | undefined): Map<string, Value> {
    if (fresh !== undefined) return fresh.made;
    const { store } = this.draft.setting;
    const name = keyText(this.identity.key);
    let made = store.get(name);
    if (made === undefined) store.set(name, (made = new Map()));
    return made;
  }

  private isData(field: Field): boolean {
    const { kind } = field;
    if (kind.chosen === undefined) return kind.type.kind === 'data';
    const { scope } = this.draft;
    const outer = { ...scope };
    const chosen = kind.chosen(this.entered(scope));
    Object.assign(scope, outer);
    return chosen.type.kind === 'data';
  }

  private kept(index: number, base: { readonly table: Table; readonly row: number }, asFound: boolean): Value {
    const column = base.table.columns[index]!;
    const edited = this.draft.setting.fieldValues.get(column)?.get(base.row);
    if (edited !== undefined) return edited;
    const value = column.kept(base.row);
    if (value === undefined || value instanceof Uint8Array) {
      if (this.shape.fields[index]!.kind.type.kind === 'pool') return this.pool(index, value);
      return asFound ? value : column.get(base.row);
    }
    if (isFields(value)) return this.inner(value as RowCursor);
    if (!isList(value)) return asFound ? value : column.get(base.row);
    const items = itemsOf(column, base.row);
    return items?.column instanceof ShapeColumn
      ? { length: value.length, at: (i: number) => this.inner((value as ListValue).at(i) as RowCursor) }
      : asFound
        ? value
        : column.get(base.row);
  }

  private pool(index: number, found: Value): Value {
    if (!(found instanceof Uint8Array)) return found;
    const known = this.draft.places.pools.get(`${this.shape.name}.${index}`);
    if (known !== undefined) return known;
    const pool = this.shape.fields[index]!.kind.poolOf!(found);
    this.draft.places.pools.set(`${this.shape.name}.${index}`, pool);
    return pool;
  }

  /** A shape inside this one that was found. */
  private inner(row: RowCursor): DraftFields {
    return this.lists.instance(row.table, row.row, this.identity);
  }

  /** Lists whose items are entries, folders or blocks are made anew. */
  private listOf(field: Field): ListValue | undefined {
    const { kind } = field.kind.type;
    if (kind !== 'list' && kind !== 'any') return undefined;
    return this.lists.bound(this, field);
  }

  private initial(field: Field): Value {
    const { scope, setting } = this.draft;
    const { kind } = field;
    if (field.must !== undefined) return field.must.only;
    if (field.fresh === 'neighbour') return this.lists.neighbourValue(field);
    if (field.fresh !== undefined) return this.evaluated(field.fresh);
    const made = this.initialOf(field, kind.chosen?.(this.entered(scope)) ?? kind);
    if (made !== undefined) return made;
    if (field.parts.length > 0) return 0;
    if (field.when !== undefined || field.kind.minSize === 0) return undefined;
    throw new FormatError({
      code: 'cannot-add',
      recipe: setting.recipe.id,
      line: field.line,
      field: field.name,
      what:
        this.identity.out === undefined
          ? 'this recipe cannot make a file from nothing'
          : 'this recipe cannot add entries',
      expected: '`is`, `must` or `new`',
      found: 'none of them',
      hint: 'Say in the recipe what the field is in a new row, such as new: 0.',
    });
  }

  private initialOf(field: Field, kind: FieldKind): Value {
    switch (kind.type.kind) {
      case 'shape':
        return this.lists.freshInstance(kind.type.shape, this.identity, `${keyText(this.identity.key)}/${field.name}`);
      case 'list':
        return EMPTY_LIST;
      case 'pool': {
        const key = `${this.shape.name}.${field.index}`;
        const known = this.draft.places.pools.get(key) ?? kind.poolOf!(new Uint8Array(0));
        this.draft.places.pools.set(key, known);
        return known;
      }
      case 'data':
        return { stretch: true, at: 0, length: 0 } as Stretch;
      default:
        return undefined;
    }
  }

  private computed(field: Field, formula: Formula, asFound: boolean): Value {
    this.pending ??= new Set();
    if (this.pending.has(field.index)) throw circularField(this.draft, field);
    this.pending.add(field.index);
    try {
      const found = this.foundValue(field);
      const value = this.evaluated(formula, found);
      // A text that means the same keeps the bytes it has, such as what stands behind its end.
      const { base } = this.identity;
      if (asFound && base !== undefined && found !== undefined && sameValue(value, found))
        return base.table.columns[field.index]!.kept(base.row);
      return value;
    } finally {
      this.pending.delete(field.index);
    }
  }

  private computedList(field: Field, formula: Formula): ListValue {
    const { out } = this.identity;
    const blocks = out === undefined || out < 0 ? [] : this.draft.blocks(out);
    const found =
      this.identity.base === undefined
        ? undefined
        : this.identity.base.table.columns[field.index]!.get(this.identity.base.row);
    const length =
      this.draft.setting.recipe.entries.blocks === undefined && isList(found) ? found.length : blocks.length;
    return {
      length,
      at: (i) => {
        const { scope } = this.draft;
        const outer = { block: scope.block, index: scope.index };
        scope.block = blocks[i];
        scope.index = i;
        try {
          return this.evaluated(formula, isList(found) && i < found.length ? found.at(i) : undefined);
        } finally {
          Object.assign(scope, outer);
        }
      },
    };
  }

  private withParts(field: Field, whole: Value): Value {
    const { base } = this.identity;
    let value = whole;
    for (const part of field.parts) {
      let bits: Value;
      if (part.is !== undefined && this.mustCompute(part.is)) bits = this.evaluated(part.is, undefined);
      else if (base !== undefined) continue;
      else if (part.must !== undefined) bits = part.must.only;
      else if (part.fresh !== undefined) bits = this.evaluated(part.fresh);
      else continue;
      const number = typeof bits === 'boolean' ? Number(bits) : (bits ?? 0);
      if (
        (typeof number !== 'number' && typeof number !== 'bigint') ||
        number < 0 ||
        BigInt(number) >= 1n << BigInt(part.width)
      )
        throw new FormatError({
          code: 'layout-impossible',
          recipe: this.draft.setting.recipe.id,
          line: part.line,
          field: `${field.name}.${part.name}`,
          what: 'the value does not fit its bits',
          expected: `0 to ${(1n << BigInt(part.width)) - 1n}`,
          found: String(bits),
        });
      value = withBits(value, part.shift, part.width, number);
    }
    return value;
  }

  private foundValue(field: Field): Value {
    const { base } = this.identity;
    if (base === undefined) return undefined;
    try {
      return base.table.columns[field.index]!.get(base.row);
    } catch {
      // Bytes that are no text: whatever the formula gives replaces them.
      return undefined;
    }
  }

  private evaluated(formula: Formula, found: Value = undefined): Value {
    const { scope } = this.draft;
    const outer = {
      own: scope.own,
      fields: scope.fields,
      entry: scope.entry,
      rows: scope.rows,
      previous: scope.previous,
      folder: scope.folder,
      block: scope.block,
      found: scope.found,
    };
    try {
      this.entered(scope);
      scope.found = found;
      return formula.evaluate(scope);
    } finally {
      Object.assign(scope, outer);
    }
  }

  /** Sets the scope so that formulas see this instance and what it belongs to. */
  private entered(scope: Scope): Scope {
    const { out, folder, block } = this.identity;
    scope.fields = this;
    if (out !== undefined && out >= 0) {
      scope.entry = this.factsOf(out);
      scope.rows = this.lists.rowsOf(out, this);
      scope.own = this.shape === this.draft.setting.recipe.entries.wrap ? this : this.draft.entries.fresh(out)?.wrap;
      scope.previous = out > 0 && this.lists.usesPrevious ? this.draft.entryFacts(out - 1) : undefined;
      if (block !== undefined) scope.block = this.draft.blocks(out)[block];
    }
    if (folder !== undefined && folder >= 0) scope.folder = this.draft.folderFacts(folder);
    return scope;
  }

  private factsOf(out: number): EntryFacts {
    return this.lists.factsOf(out);
  }
}

export function keyText(key: InstanceKey): string {
  return typeof key === 'string' ? key : `${key.table.shape.name}:${key.row}`;
}

/** A formula says the same as long as the entry's own bytes and name do. */
function isSteady(formula: Formula, shape: Shape, seen = new Set<number>()): boolean {
  const { uses } = formula;
  if (uses.layout || uses.elsewhere || uses.late || uses.regionBytes.size > 0) return false;
  for (const fact of uses.entry) if (!STEADY_FACTS.has(fact)) return false;
  for (const index of uses.siblings) {
    if (seen.has(index)) continue;
    seen.add(index);
    const field = shape.fields[index]!;
    if (field.is !== undefined && !isSteady(field.is, shape, seen)) return false;
  }
  return true;
}

function circularField(draft: Draft, field: Field): FormatError {
  return new FormatError({
    code: 'recipe-circular',
    recipe: draft.setting.recipe.id,
    line: field.line,
    field: field.name,
    what: 'the formula of a field needs the field itself',
  });
}
