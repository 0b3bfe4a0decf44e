/** Lists whose items are entries, folders or blocks: which rows stay, which go, and where new ones come in. */
import { FormatError } from '../../faults';
import { compareValues } from '../formula/arithmetic';
import { type EntryFacts, type Fields, type ListValue, type Value } from '../formula/value';
import type { Binding, Field, Formula, Shape } from '../model';
import { instanceOf, itemsOf, ShapeColumn, type Column } from '../read/columns';
import type { Table } from '../read/table';
import type { Draft } from './draft';
import { DraftFields, keyText, type Identity } from './draft-fields';
import type { InstanceKey } from './places';

/** The rows of a new list: a row that stays, or an entry, folder or block that is new. */
interface Items {
  /** Row of the old table, or -1. */
  readonly rows: Int32Array;
  /** Entry (or folder) of the new file, or -1. */
  readonly outs: Int32Array;
  /** Number of the block within its entry; only in tables of blocks. */
  readonly blocks?: Int32Array;
}

type Role = 'entries' | 'beside' | 'folders' | 'blocks';

const NOTHING: Identity = { base: undefined, out: undefined, folder: undefined, block: undefined, key: 'new' };

export class DraftLists {
  private readonly cache = new Map<string, Items>();
  private readonly freshRows = new Map<string, DraftFields>();
  private readonly places: readonly {
    binding: Binding;
    role: Role;
    beside: number;
    column: Column | undefined;
    row: number;
    owner: { shape: Shape; index: number } | undefined;
  }[];
  private lastFacts: { out: number; facts: EntryFacts } | undefined;
  private addsTaken: string | undefined;
  private knownPrevious: boolean | undefined;

  constructor(private readonly draft: Draft) {
    const { recipe, archive } = draft.setting;
    const rule = recipe.entries;
    const roles: [Binding | undefined, Role, number][] = [
      [rule.each, 'entries', -1],
      ...rule.beside.map((binding, i): [Binding, Role, number] => [binding, 'beside', i]),
      [rule.folders?.each, 'folders', -1],
      [rule.blocks?.each, 'blocks', -1],
    ];
    this.places = roles.flatMap(([binding, role, beside]) => {
      if (binding === undefined) return [];
      const top = archive?.regions.get(binding.region)?.column;
      const place = top === undefined ? undefined : followPath(top, binding.fieldPath);
      return [
        {
          binding,
          role,
          beside,
          column: place?.column,
          row: place?.row ?? 0,
          owner: ownerOf(binding, recipe.regions[binding.region]!.holds),
        },
      ];
    });
  }

  get usesPrevious(): boolean {
    return (this.knownPrevious ??= this.draft.setting.recipe.shapes.some((shape) =>
      shape.fields.some((field) => field.is?.uses.entry.has('previous') === true),
    ));
  }

  /** Before each round: places of entries have moved. */
  forgetFacts(): void {
    this.lastFacts = undefined;
  }

  factsOf(out: number): EntryFacts {
    if (this.lastFacts?.out !== out) this.lastFacts = { out, facts: this.draft.entryFacts(out) };
    return this.lastFacts.facts;
  }

  /** The value of a region's list, when its items are entries, folders or blocks. */
  regionList(region: number, column: Column | undefined, sort: readonly Formula[]): ListValue | undefined {
    const place = this.places.find(
      ({ binding }) => binding.region === region && binding.fieldPath.length === 0 && !binding.anywhere,
    );
    if (place !== undefined) return this.listValue(place, `region ${region}`, column, 0, sort);
    const anywhere = this.places.find(({ binding }) => binding.region === region && binding.anywhere);
    const items = column === undefined ? undefined : itemsOf(column, 0);
    const shape = items?.column instanceof ShapeColumn ? items.column.table.shape : undefined;
    if (anywhere === undefined || shape === undefined) return undefined;
    return this.nestedList(NOTHING, shape, `region ${region}`, column, 0, sort);
  }

  /** The same for a field of an instance. */
  bound(fields: DraftFields, field: Field): ListValue | undefined {
    const { base, key } = fields.identity;
    const column = base?.table.columns[field.index];
    const name = `${keyText(key)}.${field.index}`;
    const place = this.places.find(({ binding, column: wanted, row, owner }) => {
      if (binding.anywhere || binding.fieldPath.length === 0) return false;
      if (base !== undefined) return wanted === column && row === base.row;
      return owner !== undefined && owner.shape === fields.shape && owner.index === field.index;
    });
    if (place !== undefined) return this.listValue(place, name, column, base?.row ?? 0, field.sort);
    const { type } = field.kind;
    const item = type.kind === 'list' && type.of.kind === 'shape' ? type.of.shape : itemShape(column, base?.row ?? 0);
    if (item === undefined) return undefined;
    return this.nestedList(fields.identity, item, name, column, base?.row ?? 0, field.sort, fields.shape, field.index);
  }

  private listValue(
    place: DraftLists['places'][number],
    name: string,
    column: Column | undefined,
    row: number,
    sort: readonly Formula[],
  ): ListValue {
    const { role, beside, binding } = place;
    let items = this.cache.get(name);
    if (items === undefined) {
      const old = column === undefined ? undefined : itemsOf(column, row);
      items =
        role === 'folders' ? this.folderItems(old) : role === 'blocks' ? this.blockItems(old) : this.entryItems(old);
      items = this.sorted(items, old, sort, role, binding.shape, beside);
      this.cache.set(name, items);
    }
    const known = items;
    const old = column === undefined ? undefined : itemsOf(column, row);
    const table = (old?.column as ShapeColumn | undefined)?.table;
    return { length: known.outs.length, at: (i) => this.item(known, i, role, binding.shape, table, beside) };
  }

  private item(
    items: Items,
    i: number,
    role: Role,
    shape: Shape,
    table: Table | undefined,
    beside: number,
  ): DraftFields {
    const out = items.outs[i]!;
    const row = items.rows[i]!;
    if (role === 'folders') return this.folderInstance(shape, out, row, table);
    const block = items.blocks?.[i];
    if (row >= 0 && table !== undefined) {
      const identity = {
        base: { table, row },
        out: out < 0 ? undefined : out,
        folder: undefined,
        block,
        key: { table, row },
      };
      return new DraftFields(this.draft, this, shape, identity);
    }
    return this.persistent(
      `${role}${beside >= 0 ? beside : ''}:${out}${block === undefined ? '' : `/${block}`}`,
      shape,
      { ...NOTHING, out, block },
    );
  }

  private folderInstance(shape: Shape, folder: number, row: number, table: Table | undefined): DraftFields {
    if (row >= 0 && table !== undefined)
      return new DraftFields(this.draft, this, shape, {
        base: { table, row },
        out: undefined,
        folder,
        block: undefined,
        key: { table, row },
      });
    return this.persistent(`folder:${folder}`, shape, { ...NOTHING, folder });
  }

  /** New instances stay the same over all rounds: what they drew by lot must not change. */
  private persistent(key: string, shape: Shape, identity: Omit<Identity, 'key'>): DraftFields {
    let known = this.freshRows.get(key);
    if (known === undefined) {
      known = new DraftFields(this.draft, this, shape, { ...identity, key });
      this.freshRows.set(key, known);
    }
    return known;
  }

  /** Entries in the order of their rows; new ones behind the last, before rows that are no entries. */
  private entryItems(old: { column: Column; first: number; count: number } | undefined): Items {
    const { draft } = this;
    const rows: number[] = [];
    const outs: number[] = [];
    let behindLast = 0;
    const column = old?.column as ShapeColumn | undefined;
    const entriesTable = draft.setting.archive?.entries.rows;
    const primary = this.primaryColumn();
    for (let i = 0; i < (old?.count ?? 0); i++) {
      const row = column!.innerRow(old!.first + i);
      const out = column!.table === entriesTable ? draft.outOfRow(column!.table, row) : this.outBeside(primary, i);
      if (out === -1) continue;
      rows.push(row);
      outs.push(out >= 0 ? out : -1);
      if (out >= 0) behindLast = rows.length;
    }
    const added: number[] = [];
    for (let out = 0; out < draft.entries.count; out++) if (draft.entries.base(out) === undefined) added.push(out);
    if (added.length > 0) {
      rows.splice(behindLast, 0, ...added.map(() => -1));
      outs.splice(behindLast, 0, ...added);
    }
    return { rows: Int32Array.from(rows), outs: Int32Array.from(outs) };
  }

  private primaryColumn(): { column: ShapeColumn; first: number } | undefined {
    const place = this.places.find(({ role }) => role === 'entries')!;
    const items = place.column === undefined ? undefined : itemsOf(place.column, place.row);
    return items === undefined ? undefined : { column: items.column as ShapeColumn, first: items.first };
  }

  private outBeside(primary: { column: ShapeColumn; first: number } | undefined, index: number): number {
    if (primary === undefined) return -2;
    return this.draft.outOfRow(primary.column.table, primary.column.innerRow(primary.first + index));
  }

  private folderItems(old: { column: Column; first: number; count: number } | undefined): Items {
    const { folders, setting } = this.draft;
    const column = old?.column as ShapeColumn | undefined;
    const rows: number[] = [];
    const outs: number[] = [];
    for (let i = 0; i < (old?.count ?? 0); i++) {
      const row = column!.innerRow(old!.first + i);
      rows.push(row);
      outs.push(setting.archive?.folders?.indexOf(row) ?? -1);
    }
    for (const [index, folder] of folders.entries()) {
      if (folder.base !== undefined) continue;
      rows.push(-1);
      outs.push(index);
    }
    return { rows: Int32Array.from(rows), outs: Int32Array.from(outs) };
  }

  private blockItems(old: { column: Column; first: number; count: number } | undefined): Items {
    const { draft } = this;
    const { archive } = draft.setting;
    const rows: number[] = [];
    const outs: number[] = [];
    const blocks: number[] = [];
    const rule = draft.setting.recipe.entries.blocks!;
    const column = old?.column as ShapeColumn | undefined;
    for (const out of draft.blockOrder()) {
      const base = draft.entries.base(out);
      const stays = base !== undefined && draft.entries.fresh(out) === undefined && archive !== undefined;
      let first = -1;
      if (stays) {
        const scope = {
          ...draft.scope,
          rows: [archive.entries.rows.row(archive.entries.row(base))],
          entry: archive.entries.facts(base),
        };
        first = Number(rule.first!.evaluate(scope));
      }
      for (let b = 0; b < draft.blocks(out).length; b++) {
        rows.push(stays ? column!.innerRow(old!.first + first + b) : -1);
        outs.push(out);
        blocks.push(b);
      }
    }
    return { rows: Int32Array.from(rows), outs: Int32Array.from(outs), blocks: Int32Array.from(blocks) };
  }

  /** A list inside a tree: children that stay, and those that belong here. */
  private nestedList(
    owner: Identity,
    item: Shape,
    name: string,
    column: Column | undefined,
    row: number,
    sort: readonly Formula[],
    ownerShape?: Shape,
    fieldIndex = 0,
  ): ListValue | undefined {
    const { draft } = this;
    const rule = draft.setting.recipe.entries;
    const isEntries = rule.each.anywhere && item === rule.each.shape;
    const isFolders = rule.folders?.each.anywhere === true && item === rule.folders.each.shape;
    if (!isEntries && !isFolders) return undefined;
    let items = this.cache.get(name);
    const old = column === undefined ? undefined : itemsOf(column, row);
    if (items === undefined) {
      const firstOfKind =
        ownerShape === undefined ||
        ownerShape.fields.findIndex(
          ({ kind }) => kind.type.kind === 'list' && kind.type.of.kind === 'shape' && kind.type.of.shape === item,
        ) === fieldIndex;
      const rows: number[] = [];
      const outs: number[] = [];
      const table = (old?.column as ShapeColumn | undefined)?.table;
      for (let i = 0; i < (old?.count ?? 0); i++) {
        const inner = (old!.column as ShapeColumn).innerRow(old!.first + i);
        const out = isEntries ? draft.outOfRow(table!, inner) : (draft.setting.archive?.folders?.indexOf(inner) ?? -1);
        if (isEntries && out === -1) continue;
        rows.push(inner);
        outs.push(out >= 0 ? out : -1);
      }
      if (firstOfKind) {
        for (const out of isEntries ? this.addsFor(owner, name, rows) : this.foldersFor(owner)) {
          rows.push(-1);
          outs.push(out);
        }
      }
      items = { rows: Int32Array.from(rows), outs: Int32Array.from(outs) };
      items = this.sorted(items, old, sort, isEntries ? 'entries' : 'folders', item, -1);
      this.cache.set(name, items);
    }
    const known = items;
    const table = (old?.column as ShapeColumn | undefined)?.table;
    return {
      length: known.outs.length,
      at: (i) => this.item(known, i, isEntries ? 'entries' : 'folders', item, table, -1),
    };
  }

  /** New entries whose folder this is; without folders, all of them go where the last entry lies. */
  private addsFor(owner: Identity, name: string, rows: readonly number[]): number[] {
    const { draft } = this;
    const { entries, setting } = draft;
    const added: number[] = [];
    const foldered = setting.recipe.entries.folders !== undefined;
    if (!foldered) {
      const { archive } = setting;
      const last =
        archive === undefined || archive.entries.count === 0
          ? undefined
          : archive.entries.row(archive.entries.count - 1);
      if (last === undefined ? this.addsTaken !== undefined && this.addsTaken !== name : !rows.includes(last))
        return [];
      this.addsTaken = name;
    }
    for (let out = 0; out < entries.count; out++) {
      if (entries.base(out) !== undefined) continue;
      if (!foldered || draft.folderOf[out] === owner.folder) added.push(out);
    }
    return added;
  }

  private foldersFor(owner: Identity): number[] {
    const parent = owner.folder ?? -1;
    return this.draft.folders.flatMap((folder, index) =>
      folder.base === undefined && folder.parent === parent ? [index] : [],
    );
  }

  /** Tables that were sorted stay sorted. */
  private sorted(
    items: Items,
    old: { column: Column; first: number; count: number } | undefined,
    sort: readonly Formula[],
    role: Role,
    shape: Shape,
    beside: number,
  ): Items {
    if (sort.length === 0 || (old !== undefined && !this.wasSorted(old, sort))) return items;
    const table = (old?.column as ShapeColumn | undefined)?.table;
    const keys = Array.from(items.outs, (_, i) => {
      const fields = this.item(items, i, role, shape, table, beside);
      return this.keysOf(fields, sort, items.outs[i]!);
    });
    const order = Array.from(items.outs, (_, i) => i).sort((a, b) => compareKeys(keys[a]!, keys[b]!) || a - b);
    return {
      rows: Int32Array.from(order, (i) => items.rows[i]!),
      outs: Int32Array.from(order, (i) => items.outs[i]!),
      ...(items.blocks === undefined ? {} : { blocks: Int32Array.from(order, (i) => items.blocks![i]!) }),
    };
  }

  private keysOf(fields: Fields, sort: readonly Formula[], out: number): Value[] {
    const { scope } = this.draft;
    const outer = { fields: scope.fields, entry: scope.entry };
    try {
      scope.fields = fields;
      scope.entry = out >= 0 ? this.factsOf(out) : undefined;
      return sort.map((key) => key.evaluate(scope));
    } finally {
      Object.assign(scope, outer);
    }
  }

  private wasSorted(old: { column: Column; first: number; count: number }, sort: readonly Formula[]): boolean {
    const { table } = old.column as ShapeColumn;
    const scope = { ...this.draft.scope };
    let before: Value[] | undefined;
    for (let i = 0; i < old.count; i++) {
      scope.fields = table.row((old.column as ShapeColumn).innerRow(old.first + i));
      const keys = sort.map((key) => key.evaluate(scope));
      if (before !== undefined && compareKeys(before, keys) > 0) return false;
      before = keys;
    }
    return true;
  }

  /** An instance that was found, with what it belongs to. */
  instance(table: Table, row: number, around: Identity): DraftFields {
    const { draft } = this;
    const { archive } = draft.setting;
    let { out, folder } = around;
    if (archive !== undefined && table === archive.entries.rows) {
      const own = draft.outOfRow(table, row);
      if (own >= 0) out = own;
    }
    if (archive?.folders !== undefined && table === archive.folders.table) folder = archive.folders.indexOf(row);
    return new DraftFields(draft, this, table.shape, {
      base: { table, row },
      out,
      folder,
      block: around.block,
      key: { table, row },
    });
  }

  /** The instance a region of a new file holds. */
  rootInstance(shape: Shape, region: number): DraftFields {
    return this.freshInstance(shape, NOTHING, `region ${region}`);
  }

  freshInstance(shape: Shape, around: Identity, key: InstanceKey): DraftFields {
    return this.persistent(keyText(key), shape, { ...around, base: undefined });
  }

  /** The rows formulas of an entry see. */
  rowsOf(out: number, current: DraftFields): readonly (Fields | undefined)[] {
    const { recipe } = this.draft.setting;
    if (current.shape === recipe.entries.each.shape && recipe.entries.beside.length === 0) return [current];
    return [recipe.entries.each, ...recipe.entries.beside].map((binding, i) =>
      current.shape === binding.shape ? current : this.rowOf(out, binding, i),
    );
  }

  /** The row of an entry in one of its tables. */
  rowOf(out: number, binding: Binding, which: number): DraftFields | undefined {
    const { draft } = this;
    const { archive } = draft.setting;
    const base = draft.entries.base(out);
    if (base === undefined || archive === undefined)
      return this.persistent(`${which === 0 ? 'entries' : `beside${which - 1}`}:${out}`, binding.shape, {
        ...NOTHING,
        out,
      });
    const table = which === 0 ? archive.entries.rows : archive.entries.beside[which - 1]!;
    const row = which === 0 ? archive.entries.row(base) : archive.entries.besideRow(which - 1, base);
    return new DraftFields(draft, this, binding.shape, {
      base: { table, row },
      out,
      folder: undefined,
      block: undefined,
      key: { table, row },
    });
  }

  /** The value a field has in the last row. */
  neighbourValue(field: Field): Value {
    const { archive, recipe } = this.draft.setting;
    if (archive === undefined || archive.entries.count === 0)
      throw new FormatError({
        code: 'cannot-add',
        recipe: recipe.id,
        line: field.line,
        field: field.name,
        what: 'a new row takes this from its neighbour, and there is none',
      });
    const { rows } = archive.entries;
    return rows.shape.fields[field.index] === field
      ? rows.columns[field.index]!.kept(archive.entries.row(archive.entries.count - 1))
      : undefined;
  }
}

function compareKeys(a: readonly Value[], b: readonly Value[]): number {
  for (const [i, key] of a.entries()) {
    const order = compareValues(key, b[i]);
    if (order !== 0) return order;
  }
  return 0;
}

function followPath(top: Column, path: readonly number[]): { column: Column; row: number } | undefined {
  let column = top;
  let row = 0;
  for (const field of path) {
    const instance = instanceOf(column, row);
    if (instance === undefined) return undefined;
    column = instance.table.columns[field]!;
    ({ row } = instance);
  }
  return { column, row };
}

/** The shape and field a bound list stands in, for files made from nothing. */
function ownerOf(binding: Binding, holds: unknown): { shape: Shape; index: number } | undefined {
  if (binding.fieldPath.length === 0 || typeof holds !== 'object' || holds === null) return undefined;
  let { type } = holds as Field['kind'];
  for (const [i, index] of binding.fieldPath.entries()) {
    if (type.kind !== 'shape') return undefined;
    if (i === binding.fieldPath.length - 1) return { shape: type.shape, index };
    ({ type } = type.shape.fields[index]!.kind);
  }
  return undefined;
}

function itemShape(column: Column | undefined, row: number): Shape | undefined {
  if (column === undefined) return undefined;
  const items = itemsOf(column, row);
  return items?.column instanceof ShapeColumn ? items.column.table.shape : undefined;
}
