/** Lists inside shapes that hold rows of entries or folders at any depth: what stays in them, and where new rows go. */
import type { Recipe, Shape } from '../../model';
import { instanceOf, itemsOf, ChoiceColumn, ShapeColumn, type Column } from '../../read/columns';
import type { Draft } from '../model/draft';
import type { FoundRow, Identity } from '../model/identity';
import { listsFor, nameOfList, pathTo, rowInside, sameList, type ListField } from './carriers';
import { foundItems, ItemsBuilder, type FoundList, type FreshItem, type ListItems } from './list-items';
import { noList, type RowRoles } from './row-roles';

/** A list of an instance of the new file. */
export interface NestedList {
  /** Tells it from all others. */
  readonly key: string;
  readonly owner: Identity;
  readonly field: ListField;
  readonly found: FoundList | undefined;
}

/** What a list is asked to take. */
type Wanted = 'entries' | 'folders';

/** Where new rows of one kind go: a list that was found, or the first list of its kind that comes by. */
interface Target {
  readonly found: FoundList | undefined;
  readonly field: ListField | undefined;
  /** The list that took them. */
  taken: string | undefined;
}

export class NestedLists {
  private readonly targets = new Map<string, Target>();
  /** Lists of the file that was found, in which rows of entries and folders lie. */
  private readonly homes = { entries: new Map<number, FoundList>(), folders: new Map<number, FoundList>() };
  private readonly usual: Record<Wanted, ListField[]>;
  private readonly used: Record<Wanted, Map<string, number>> = { entries: new Map(), folders: new Map() };
  private readonly recipe: Recipe;

  constructor(
    private readonly draft: Draft,
    private readonly roles: RowRoles,
  ) {
    const { recipe, archive } = draft.setting;
    this.recipe = recipe;
    const { each, folders } = recipe.entries;
    this.usual = {
      entries: each.anywhere ? listsFor(recipe, each.shape) : [],
      folders: folders?.each.anywhere === true ? listsFor(recipe, folders.each.shape) : [],
    };
    if (archive === undefined || !roles.changesRows) return;
    for (const { index, holds } of recipe.regions) {
      const column = archive.regions.get(index)?.column;
      if (column === undefined || typeof holds !== 'object') continue;
      this.findHomes(column, 0, { owner: undefined, index }, -1);
    }
  }

  /** True when the items of a list can hold rows of entries or folders. */
  concerns(item: Shape): boolean {
    return this.pathFor('entries', item) !== undefined || this.pathFor('folders', item) !== undefined;
  }

  private pathFor(wanted: Wanted, item: Shape): readonly number[] | undefined {
    const { each, folders } = this.recipe.entries;
    const binding = wanted === 'entries' ? each : folders?.each;
    return binding?.anywhere === true ? pathTo(item, binding.shape) : undefined;
  }

  itemsOf(list: NestedList): ListItems {
    const found = foundItems(list.found);
    const builder = new ItemsBuilder();
    let behindEntries = -1;
    let behindFolders = -1;
    for (let i = 0; i < (found?.count ?? 0); i++) {
      const row = { table: found!.table, row: found!.row(i) };
      if (this.isGone(row)) continue;
      builder.keep(row.row);
      const holds = this.heldBy(row);
      if (holds === 'entries') behindEntries = builder.length;
      if (holds === 'folders') behindFolders = builder.length;
    }
    // Those that come later in the list are put in first, so that positions stay right.
    const folders = this.newFolders(list);
    const entries = this.newEntries(list);
    const atFolders = behindFolders >= 0 ? behindFolders : builder.length;
    const atEntries = behindEntries >= 0 ? behindEntries : builder.length;
    if (atFolders >= atEntries) {
      builder.insert(atFolders, folders);
      builder.insert(atEntries, entries);
    } else {
      builder.insert(atEntries, entries);
      builder.insert(atFolders, folders);
    }
    return builder.build();
  }

  /** @throws FormatError `cannot-add` when a new row was taken by no list */
  checkTaken(ordered: number): void {
    const { draft, roles } = this;
    if (ordered === draft.entries.count) return;
    const out = roles.added.at(-1);
    if (out === undefined) return;
    const names = this.usual.entries.map((list) => nameOfList(list, this.recipe));
    throw noList(
      draft,
      this.recipe.entries.each.shape,
      out,
      names.length === 0
        ? 'Bind the list that holds the rows: each: row in region.list.'
        : `It would have to lie in ${names.join(' or ')}, and none of them is there.`,
    );
  }

  private isGone(row: FoundRow): boolean {
    const { draft, roles } = this;
    const { folders } = this.recipe.entries;
    if (roles.isGone(row.table, row.row)) return true;
    const entry = this.inside('entries', row);
    if (entry !== undefined && roles.isGone(entry.table, entry.row)) return true;
    const folder = folders === undefined ? undefined : this.inside('folders', row);
    return folder !== undefined && draft.isFolderGone(folder.row);
  }

  private heldBy(row: FoundRow): Wanted | undefined {
    const entry = this.inside('entries', row);
    if (entry !== undefined && this.roles.entryOf(entry.table, entry.row) >= 0) return 'entries';
    return this.inside('folders', row) === undefined ? undefined : 'folders';
  }

  private inside(wanted: Wanted, row: FoundRow): FoundRow | undefined {
    const path = this.pathFor(wanted, row.table.shape);
    const { each, folders } = this.recipe.entries;
    return path === undefined
      ? undefined
      : rowInside(row, path, wanted === 'entries' ? each.shape : folders!.each.shape);
  }

  /** Added entries that go into this list, each with its companions. */
  private newEntries(list: NestedList): FreshItem[] {
    const path = this.pathFor('entries', list.field.item);
    if (path === undefined) return [];
    const foldered = this.recipe.entries.folders !== undefined;
    const folder = foldered ? (list.owner.folder ?? -1) : -1;
    const mine = this.roles.added.filter((out) => !foldered || this.draft.folderOf[out] === folder);
    if (mine.length === 0 || !this.takes(list, 'entries', folder)) return [];
    return mine.flatMap((out) => {
      const { before, behind } = this.roles.companionsFor(out);
      const item: FreshItem =
        path.length === 0 ? { key: `entries0:${out}`, out } : { key: `around:${out}`, brings: { entry: out } };
      return [...before, item, ...behind];
    });
  }

  /** New folders whose folder above this list belongs to. */
  private newFolders(list: NestedList): FreshItem[] {
    const path = this.pathFor('folders', list.field.item);
    if (path === undefined) return [];
    const parent = list.owner.folder ?? -1;
    const mine = this.draft.folders.flatMap(({ base, parent: above }, index) =>
      base === undefined && above === parent ? [index] : [],
    );
    if (mine.length === 0 || !this.takes(list, 'folders', parent)) return [];
    return mine.map((folder) =>
      path.length === 0 ? { key: `folder:${folder}`, folder } : { key: `around folder:${folder}`, brings: { folder } },
    );
  }

  /** Whether a list is the one for new rows: the one in which others of the folder lie, or the first of the usual kind. */
  private takes(list: NestedList, wanted: Wanted, folder: number): boolean {
    const key = `${wanted}:${folder}`;
    let target = this.targets.get(key);
    if (target === undefined) {
      const found = folder < 0 && wanted === 'entries' ? this.lastHome() : this.homes[wanted].get(this.baseOf(folder));
      target = { found, field: this.usualList(wanted, folder, list.field.owner), taken: undefined };
      this.targets.set(key, target);
    }
    if (target.taken !== undefined) return target.taken === list.key;
    const isTarget =
      target.found !== undefined
        ? target.found.column === list.found?.column && target.found.row === list.found.row
        : target.field === undefined || sameList(target.field, list.field);
    if (isTarget) target.taken = list.key;
    return isTarget;
  }

  private baseOf(folder: number): number {
    return folder < 0 ? -1 : (this.draft.folders[folder]?.base ?? -2);
  }

  /** The list of the last entry, where there are no folders. */
  private lastHome(): FoundList | undefined {
    return this.homes.entries.get(-1);
  }

  /**
   * The kind of list most rows lie in; in a file without any, the first that can take them. What lies in no folder is in
   * lists of another kind than what lies in one.
   *
   * @param owner the shape around the list that is asked
   */
  private usualList(wanted: Wanted, folder: number, owner: Shape | undefined): ListField | undefined {
    const used = this.used[wanted];
    const count = (list: ListField) => used.get(nameOfList(list, this.recipe)) ?? 0;
    const { folders } = this.recipe.entries;
    const mayBe = (list: ListField) => {
      if (folders === undefined) return true;
      if (folder < 0) return list.owner === owner;
      return list.owner !== undefined && this.inFolders.has(list.owner);
    };
    return this.usual[wanted].filter(mayBe).sort((a, b) => count(b) - count(a))[0];
  }

  /** Shapes that may lie in a folder, and the folder's own. */
  private get inFolders(): ReadonlySet<Shape> {
    if (this.knownInFolders === undefined) {
      const own = this.recipe.entries.folders?.each.shape;
      const found = new Set<Shape>(own === undefined ? [] : [own]);
      // What is added on the way is visited too.
      for (const shape of found)
        for (const { kind } of shape.fields) for (const inner of kind.shapes ?? []) found.add(inner);
      this.knownInFolders = found;
    }
    return this.knownInFolders;
  }
  private knownInFolders: ReadonlySet<Shape> | undefined;

  private findHomes(
    column: Column,
    row: number,
    list: { owner: Shape | undefined; index: number },
    folder: number,
  ): void {
    if (column instanceof ChoiceColumn) {
      const chosen = column.chosenColumn(row);
      if (chosen !== undefined) this.findHomes(chosen, row, list, folder);
      return;
    }
    if (column instanceof ShapeColumn) {
      const at = instanceOf(column, row);
      if (at !== undefined) this.findInside(at, folder);
      return;
    }
    const items = itemsOf(column, row);
    if (items === undefined) return;
    for (let i = 0; i < items.count; i++) {
      const item = instanceOf(items.column, items.first + i);
      if (item === undefined) continue;
      const held = this.heldBy(item);
      if (held !== undefined) {
        const name = nameOfList(list, this.recipe);
        this.used[held].set(name, (this.used[held].get(name) ?? 0) + 1);
        const key = held === 'entries' && this.recipe.entries.folders === undefined ? -1 : folder;
        this.homes[held].set(key, { column, row });
      }
      this.findInside(item, folder);
    }
  }

  private findInside({ table, row }: FoundRow, folder: number): void {
    const { archive } = this.draft.setting;
    const inner =
      archive!.folders !== undefined && table === archive!.folders.table ? archive!.folders.indexOf(row) : folder;
    for (const { index, kind } of table.shape.fields) {
      if ((kind.shapes ?? []).length === 0) continue;
      this.findHomes(table.columns[index]!, row, { owner: table.shape, index }, inner);
    }
  }
}
