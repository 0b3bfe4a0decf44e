/** Instances of shapes in the new file: made where they are asked for, from rows that were found or from nothing. */
import { FormatError } from '../../../faults';
import {
  isFields,
  isList,
  scopeOf,
  type Fields,
  type ListValue,
  type Scope,
  type Stretch,
  type Value,
} from '../../formula/value';
import type { Binding, Field, Formula, Shape } from '../../model';
import type { ShapeColumn } from '../../read/columns';
import { tellsBlock } from '../../read/blocks';
import { itemsOf, type Column } from '../../read/columns';
import type { RowCursor } from '../../read/table';
import { itemShape } from '../edits/carriers';
import { tellsItself } from '../edits/companions';
import { DraftLists, type KeysOfItems, type ListAt } from '../edits/draft-lists';
import { shapeOfItems, type ListItems } from '../edits/list-items';
import type { BoundPlace } from '../edits/bound-places';
import type { SortKeys } from '../edits/sorting';
import type { Draft } from '../model/draft';
import { plainIdentity, type DraftParent, type FoundRow, type Identity } from '../model/identity';
import { keyText } from '../model/places';
import { DraftFields } from './draft-fields';

export class Instances {
  readonly lists: DraftLists;
  /** New instances stay the same over all rounds: what they drew at random must not change. */
  private readonly fresh = new Map<string, DraftFields>();

  constructor(readonly draft: Draft) {
    this.lists = new DraftLists(draft, this.keysOfItems());
  }

  /** The value of a region's list whose items come and go; undefined for any other. */
  regionList(region: number, column: Column | undefined, item: Shape | undefined, sort: readonly Formula[]) {
    const found = column === undefined ? undefined : { column, row: 0 };
    return this.listValue({
      key: `region ${region}`,
      region,
      owner: undefined,
      found,
      item: shapeOfItems(found) ?? item,
      sort,
    });
  }

  /** The same for a field of an instance. */
  listOf(fields: DraftFields, field: Field): ListValue | undefined {
    const { identity, shape } = fields;
    const { base } = identity;
    const pieces = this.blockList(fields, field);
    if (pieces !== undefined) return pieces;
    const found = base === undefined ? undefined : { column: base.table.columns[field.index]!, row: base.row };
    return this.listValue({
      key: `${keyText(identity.key)}.${field.index}`,
      region: identity.region,
      owner: { instance: fields, identity, shape, field: field.index },
      found,
      item: shapeOfItems(found) ?? itemShape(field.kind),
      sort: field.sort,
    });
  }

  /** In the row of an entry with new or moved bytes, the list whose items tell of its blocks has one for each. */
  private blockList(fields: DraftFields, field: Field): ListValue | undefined {
    const { draft } = this;
    const { out } = fields.identity;
    const rule = draft.setting.recipe.entries;
    if (rule.blocks === undefined || out === undefined || out < 0 || draft.entries.fresh(out) === undefined)
      return undefined;
    const item = fields.shape === rule.each.shape ? itemShape(field.kind) : undefined;
    if (item === undefined || !tellsBlock(item)) return undefined;
    return {
      length: draft.blocks(out).length,
      at: (i) => {
        const key = `block ${out}.${field.index}/${i}`;
        const { folder, region } = fields.identity;
        return this.persistent(key, item, {
          ...plainIdentity(region, key),
          ...{ out, folder, block: i, index: i, parent: fields, isTop: false },
        });
      },
    };
  }

  private listValue(list: ListAt): ListValue | undefined {
    const known = this.lists.itemsOf(list);
    if (known === undefined) return undefined;
    const { items, place } = known;
    const around = aroundItems(list);
    return { length: items.rows.length, at: (i) => this.item(list, items, around, i, place) };
  }

  private item(
    list: ListAt,
    items: ListItems,
    around: Identity,
    i: number,
    place: BoundPlace | undefined,
  ): DraftFields {
    const row = items.rows[i]!;
    if (row >= 0) {
      const { column } = itemsOf(list.found!.column, list.found!.row)!;
      const { table } = column as ShapeColumn;
      const owners = items.owners;
      if (owners !== undefined)
        return this.found({ table, row }, { ...around, out: owners.outs[i]!, block: owners.blocks[i]! }, i);
      if (place?.role === 'beside')
        return this.found({ table, row }, { ...around, out: this.outBeside(place, row) }, i);
      return this.found({ table, row }, around, i);
    }
    const item = items.fresh[-row - 1]!;
    const shape = place?.binding.shape ?? list.item!;
    return this.persistent(item.key, shape, {
      base: undefined,
      out: item.out,
      folder: item.folder ?? around.folder,
      block: item.block,
      key: item.key,
      region: list.region,
      index: i,
      parent: around.parent,
      isTop: around.isTop,
      template: item.template,
      brings: item.brings,
    });
  }

  /** The entry of a row in a table beside, or -1; nothing for one that names no entry, and stays as it is. */
  private outBeside({ beside, binding }: BoundPlace, row: number): number | undefined {
    const { archive } = this.draft.setting;
    const entry = archive?.entries.entryBeside(beside, row) ?? -1;
    if (entry < 0 && binding.by !== undefined) return undefined;
    return entry < 0 ? -1 : this.draft.outOf(entry);
  }

  /** An instance that was found, with what it belongs to. */
  found({ table, row }: FoundRow, around: Identity, index: number): DraftFields {
    const { draft } = this;
    const { archive } = draft.setting;
    let { out, folder } = around;
    if (archive !== undefined && table === archive.entries.rows) {
      const own = draft.outOfRow(table, row);
      if (own >= 0) out = own;
    }
    if (archive?.folders !== undefined && table === archive.folders.table)
      folder = draft.folderNow(archive.folders.indexOf(row));
    const base = { table, row };
    return new DraftFields(draft, this, table.shape, {
      base,
      out,
      folder,
      block: around.block,
      key: base,
      region: around.region,
      index,
      parent: around.parent,
      isTop: around.isTop,
    });
  }

  /** A shape inside an instance that was found. */
  inside(row: RowCursor, around: Identity, index = around.index): DraftFields {
    return this.found({ table: row.table, row: row.row }, around, index);
  }

  /** The instance a region of a new file holds. */
  root(shape: Shape, region: number): DraftFields {
    return this.persistent(`region ${region}`, shape, plainIdentity(region, `region ${region}`));
  }

  /** A new shape inside a new instance. */
  freshInside(shape: Shape, field: Field, around: Identity): DraftFields {
    const key = `${keyText(around.key)}/${field.name}`;
    const { recipe } = this.draft.setting;
    const brought = around.brings;
    const isEntry = brought?.entry !== undefined && shape === recipe.entries.each.shape;
    const isFolder = brought?.folder !== undefined && shape === recipe.entries.folders?.each.shape;
    const identity: Identity = {
      ...around,
      base: undefined,
      key,
      ...(isEntry ? { out: brought.entry } : {}),
      ...(isFolder ? { folder: brought.folder } : {}),
      ...(isEntry || isFolder ? { brings: undefined } : {}),
    };
    return this.persistent(key, shape, identity);
  }

  private persistent(key: string, shape: Shape, identity: Identity): DraftFields {
    const known = this.fresh.get(key);
    if (known !== undefined && known.shape === shape) {
      known.moveTo(identity);
      return known;
    }
    const made = new DraftFields(this.draft, this, shape, identity);
    this.fresh.set(key, made);
    return made;
  }

  /** The shape around the bytes of an entry. */
  wrapOf(out: number, found: RowCursor | undefined, packed?: Stretch): DraftFields {
    const { wrap } = this.draft.setting.recipe.entries;
    const base = found === undefined ? undefined : { table: found.table, row: found.row };
    const key = base ?? `wrap:${out}`;
    return new DraftFields(this.draft, this, wrap!, { ...plainIdentity(-1, key), base, out }, packed);
  }

  /** What the formulas of an entry see outside of any row: for its steps, and for what is read of it. */
  entryScope(out: number): Scope {
    const { draft } = this;
    const { each, beside, wrap } = draft.setting.recipe.entries;
    const scope = scopeOf(draft.facts);
    scope.entry = draft.entryFacts(out);
    const before = draft.usesPrevious ? draft.order.before(out) : undefined;
    scope.previous = before === undefined ? undefined : draft.entryFacts(before);
    scope.rows = [each, ...beside].map((binding, i) => this.rowOf(out, binding, i));
    scope.index = draft.order.positionOf(out);
    scope.volume = draft.entryVolume[out]!;
    const folder = draft.folderOfEntry(out);
    scope.folder = folder < 0 ? undefined : draft.folderFacts(folder);
    if (wrap !== undefined) scope.own = draft.entries.fresh(out)?.wrap;
    return scope;
  }

  /** The rows formulas of an entry see. */
  rowsOf(out: number, current: DraftFields): readonly (Fields | undefined)[] {
    const { each, beside } = this.draft.setting.recipe.entries;
    const isOwn = current.identity.template === undefined;
    if (isOwn && current.shape === each.shape && beside.length === 0) return [current];
    return [each, ...beside].map((binding, i) =>
      isOwn && current.shape === binding.shape ? current : this.rowOf(out, binding, i),
    );
  }

  /** The instance a bound list lies in; not known for rows at any depth. */
  private aroundRows({ anywhere, region, fieldPath }: Binding): Pick<Identity, 'parent' | 'isTop'> {
    if (anywhere) return { isTop: false };
    const owner =
      fieldPath.length === 0 ? undefined : this.follow(this.draft.regionValue(region), fieldPath.slice(0, -1));
    return isFields(owner) ? { parent: owner as DraftParent, isTop: false } : { isTop: true };
  }

  /** The row of an entry in one of its tables. */
  rowOf(out: number, binding: Binding, which: number): DraftFields | undefined {
    const { draft } = this;
    const { archive } = draft.setting;
    const base = draft.entries.base(out);
    if (base === undefined || archive === undefined) {
      const key = which === 0 ? `entries0:${out}` : `beside${which - 1}:${out}`;
      return this.persistent(key, binding.shape, {
        ...plainIdentity(binding.region, key),
        out,
        folder: draft.folderOfEntry(out),
        index: draft.order.positionOf(out),
        ...this.aroundRows(binding),
      });
    }
    const table = which === 0 ? archive.entries.rows : archive.entries.beside[which - 1]!;
    const row = which === 0 ? archive.entries.row(base) : archive.entries.besideRow(which - 1, base);
    return new DraftFields(draft, this, table.shape, {
      ...plainIdentity(binding.region, { table, row }),
      base: { table, row },
      out,
      folder: draft.folderOfEntry(out),
      index: draft.order.positionOf(out),
      ...this.aroundRows(binding),
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

  /**
   * Puts the entries into the order in which their rows will be read.
   *
   * @param regions the values of all regions, for rows that lie at any depth
   * @returns whether it is another order than before
   * @throws FormatError `cannot-add` when an added entry has no row
   */
  orderEntries(regionValue: (region: number) => Value): boolean {
    const { draft, lists } = this;
    if (!lists.mayReorder) return false;
    const { each } = draft.setting.recipe.entries;
    if (!each.anywhere) {
      // Working out the list puts it into order.
      this.follow(regionValue(each.region), each.fieldPath);
      const order = lists.groupOrder();
      return order !== undefined && draft.order.set(order);
    }
    const outs: number[] = [];
    const visit = (value: Value): void => {
      if (isList(value)) {
        for (let i = 0; i < value.length; i++) visit(value.at(i));
        return;
      }
      if (!isFields(value) || !(value instanceof DraftFields)) return;
      const { out, template } = value.identity;
      if (value.shape === each.shape && out !== undefined && out >= 0 && template === undefined) outs.push(out);
      for (const field of value.shape.fields) if ((field.kind.shapes ?? []).length > 0) visit(value.get(field.index));
    };
    visit(this.follow(regionValue(each.region), each.fieldPath));
    lists.checkTaken(outs.length);
    return outs.length === draft.entries.count && draft.order.set(Int32Array.from(outs));
  }

  private follow(value: Value, path: readonly number[]): Value {
    let at = value;
    for (const field of path) at = isFields(at) ? at.get(field) : undefined;
    // A list works out its items when it is looked at.
    return at;
  }

  private keysOfItems(): KeysOfItems {
    const { draft } = this;
    const keys = (fields: Fields, sort: readonly Formula[], out: number | undefined): SortKeys => {
      const { scope } = draft;
      const outer = { fields: scope.fields, entry: scope.entry };
      try {
        scope.fields = fields;
        scope.entry = out !== undefined && out >= 0 ? draft.factsOf(out) : undefined;
        return sort.map((key) => key.evaluate(scope));
      } finally {
        Object.assign(scope, outer);
      }
    };
    return {
      fresh: (list, items, i, place) => {
        const fields = this.item(list, items, aroundItems(list), i, place);
        return keys(fields, list.sort, fields.identity.out);
      },
      found: (list, i) => {
        const { column, first } = itemsOf(list.found!.column, list.found!.row)!;
        const { table } = column as ShapeColumn;
        const row = table.row((column as ShapeColumn).innerRow(first + i));
        const archive = draft.setting.archive!;
        const entry = table === archive.entries.rows ? archive.entries.entryOfRow(row.row) : -1;
        const { scope } = draft;
        const outer = { fields: scope.fields, entry: scope.entry, file: scope.file };
        try {
          Object.assign(scope, {
            fields: row,
            file: archive.facts,
            entry: entry < 0 ? undefined : archive.entries.facts(entry),
          });
          return list.sort.map((key) => key.evaluate(scope));
        } finally {
          Object.assign(scope, outer);
        }
      },
      tellsItself: (out) => {
        const { recipe } = draft.setting;
        const { scope } = draft;
        const row = this.rowOf(out, recipe.entries.each, 0);
        const outer = { fields: scope.fields, rows: scope.rows, entry: scope.entry, folder: scope.folder };
        try {
          const folder = draft.folderOfEntry(out);
          Object.assign(scope, {
            fields: undefined,
            rows: [row],
            entry: draft.factsOf(out),
            folder: folder < 0 ? undefined : draft.folderFacts(folder),
          });
          return tellsItself(recipe, scope, draft.path(out));
        } finally {
          Object.assign(scope, outer);
        }
      },
    };
  }
}

/** What every item of a list has of the instance the list lies in. */
function aroundItems({ owner, region }: ListAt): Identity {
  return owner === undefined
    ? plainIdentity(region, `region ${region}`)
    : { ...owner.identity, parent: owner.instance, isTop: false };
}
