/** The lists of the new file whose items come and go: what each holds, in which order. */
import type { Formula, Shape, SlotRule } from '../../model';
import { slotFormulas, slotRow } from '../../read/slots';
import type { Draft } from '../model/draft';
import type { DraftParent, Identity } from '../model/identity';
import { blockItems, folderItems } from './block-items';
import { boundPlaces, type BoundPlace } from './bound-places';
import { EntryGroup } from './entry-group';
import { reordered, type FoundList, type ListItems } from './list-items';
import { inSlots, numberedItems } from './numbered-rows';
import { NestedLists } from './nested-lists';
import { RowRoles } from './row-roles';
import { placeInSlots, type SlotItem } from './slots';
import { isSorted, sortedOrder, type SortKeys } from './sorting';

/** A list of the new file, as the one who writes it comes across it. */
export interface ListAt {
  /** Tells it from all others. */
  readonly key: string;
  readonly region: number;
  /** The instance it lies in; undefined where a region holds it. */
  readonly owner:
    | {
        readonly instance: DraftParent;
        readonly identity: Identity;
        readonly shape: Shape;
        readonly field: number;
      }
    | undefined;
  readonly found: FoundList | undefined;
  /** The shape of its items. */
  readonly item: Shape | undefined;
  readonly sort: readonly Formula[];
}

/** Works out the keys of an item of the new file, or of one that was found. */
export interface KeysOfItems {
  fresh(list: ListAt, items: ListItems, index: number, place: BoundPlace | undefined): SortKeys;
  found(list: ListAt, index: number): SortKeys;
  /** True when a new row says by itself what path its entry has. */
  tellsItself(out: number): boolean;
}

export class DraftLists {
  private readonly cache = new Map<string, ListItems>();
  /** Lists that follow where things lie are sorted again in each round. */
  private readonly unsteady = new Set<string>();
  /** Set while keys are worked out: the lists they look at are then not sorted yet. */
  private sorting = false;
  private readonly wasSorted = new Map<string, boolean>();

  constructor(
    private readonly draft: Draft,
    private readonly keys: KeysOfItems,
  ) {}

  /** A draft of one entry has no use for the lists of all: each part is worked out when it is first asked for. */
  private get places(): readonly BoundPlace[] {
    return (this.knownPlaces ??= boundPlaces(this.draft.setting.recipe, this.draft.setting.archive));
  }
  private knownPlaces: readonly BoundPlace[] | undefined;
  private get roles(): RowRoles {
    return (this.knownRoles ??= new RowRoles(this.draft, (out) => this.keys.tellsItself(out)));
  }
  private knownRoles: RowRoles | undefined;
  private get nested(): NestedLists {
    return (this.knownNested ??= new NestedLists(this.draft, this.roles));
  }
  private knownNested: NestedLists | undefined;
  private get group(): EntryGroup | undefined {
    if (this.draft.setting.recipe.entries.each.anywhere) return undefined;
    return (this.knownGroup ??= new EntryGroup(
      this.places.filter(
        ({ role, binding }) =>
          (role === 'entries' || (role === 'beside' && binding.by === undefined)) && !binding.anywhere,
      ),
      this.roles,
    ));
  }
  private knownGroup: EntryGroup | undefined;

  /** True when the order of the entries may differ from that in which they are numbered, which is that of the rows found. */
  get mayReorder(): boolean {
    return this.roles.changesRows || this.isSorted;
  }

  /** True when the order follows from values, which may be others in each round. */
  get isSorted(): boolean {
    return this.places.some(({ sort, slots }) => sort.length > 0 || slots !== undefined);
  }

  /** Entries in the order of their rows, where one list holds these. */
  groupOrder(): Int32Array | undefined {
    return this.group?.entryOrder();
  }

  /** @throws FormatError `cannot-add` when an entry got no row */
  checkTaken(ordered: number): void {
    if (this.bindsNested) this.nested.checkTaken(ordered);
  }

  /** Before a round: what follows where things lie is sorted again. */
  forget(): void {
    for (const key of this.unsteady) {
      this.cache.delete(key);
      if (this.keysOfPlaces.has(key)) this.groupSorted = false;
    }
  }

  private get bindsNested(): boolean {
    const { each, folders } = this.draft.setting.recipe.entries;
    return each.anywhere || folders?.each.anywhere === true;
  }

  /** The items of a list of entries, folders or blocks; undefined for any other. */
  itemsOf(list: ListAt): { readonly items: ListItems; readonly place: BoundPlace | undefined } | undefined {
    const place = this.placeOf(list);
    if (place === undefined && (list.item === undefined || !this.bindsNested || !this.nested.concerns(list.item)))
      return undefined;
    let items = this.cache.get(list.key);
    if (items === undefined) {
      items = this.make(list, place);
      if (!this.sorting) this.cache.set(list.key, items);
      const { sort } = list;
      if (sort.some(({ uses }) => uses.layout)) this.unsteady.add(list.key);
    }
    return { items, place };
  }

  private make(list: ListAt, place: BoundPlace | undefined): ListItems {
    const { draft } = this;
    if (place !== undefined && this.group?.places.includes(place) === true) {
      if (!this.sorting && !this.groupSorted) this.sortGroup(list, place);
      return this.group.itemsOf(place, this.sorting);
    }
    if (place?.binding.by !== undefined) return this.numbered(list, place);
    const items =
      place?.role === 'folders'
        ? folderItems(draft, place)
        : place?.role === 'blocks'
          ? blockItems(draft, place)
          : this.nested.itemsOf({
              key: list.key,
              owner: list.owner?.identity ?? { ...NOWHERE, region: list.region },
              field: { owner: list.owner?.shape, index: list.owner?.field ?? list.region, item: list.item! },
              found: list.found,
            });
    if (this.sorting || !this.isSortedTable(list)) return items;
    return reordered(items, this.sortedItems(list, items, place));
  }

  /** The lists of the entries have one order: that of the one which is sorted. */
  private sortGroup(list: ListAt, place: BoundPlace): void {
    this.groupSorted = true;
    const hashed = this.group!.places.find(({ slots }) => slots !== undefined);
    if (hashed !== undefined) {
      if (this.placeSlots(list, hashed, hashed.slots!)) this.forgetPlace(hashed);
      return;
    }
    const sorted = this.group!.places.find(({ sort }) => sort.length > 0);
    if (sorted === undefined) return;
    const at: ListAt =
      sorted === place
        ? list
        : {
            ...list,
            key: `sorted ${sorted.role}${sorted.beside}`,
            found: sorted.list,
            item: sorted.binding.shape,
            sort: sorted.sort,
          };
    if (!this.isSortedTable(at)) return;
    const items = this.group!.itemsOf(sorted, true);
    if (!this.group!.reorder(this.sortedItems(at, items, sorted))) return;
    for (const other of this.group!.places) this.forgetPlace(other);
  }

  /**
   * Rows of a hashed table are where a search leads. Without one that comes or goes, all stay where they are.
   *
   * @returns whether they are elsewhere than before
   */
  private placeSlots(list: ListAt, place: BoundPlace, rule: SlotRule): boolean {
    if (!this.roles.changesRows) return false;
    const group = this.group!;
    const { slots, filler } = this.slotsOf(list, place, rule, group.itemsOf(place, true), (i) => group.foundIndex(i));
    return group.setSlots(slots, filler);
  }

  /**
   * @param foundIndex the place among the rows that were found of an item, or -1
   * @returns for each slot the position of its item, or -1 where the found row `filler` is, or a new one of no entry
   */
  private slotsOf(
    list: ListAt,
    place: BoundPlace,
    rule: SlotRule,
    items: ListItems,
    foundIndex: (item: number) => number,
  ): { readonly slots: Int32Array; readonly filler: number | undefined } {
    const at: ListAt = { ...list, sort: slotFormulas(rule) };
    const found = Array.from({ length: foundCount(place.list) }, (_, i) => slotRow(rule, this.keys.found(at, i)));
    this.sorting = true;
    try {
      const rows = Array.from(items.rows, (row, i): SlotItem => ({
        found: foundIndex(i),
        row: row >= 0 ? found[foundIndex(i)]! : slotRow(rule, this.keys.fresh(at, items, i, place), true),
      }));
      const used = (some: readonly SlotItem['row'][]) => some.filter(({ state }) => state === 'used').length;
      const kept = rows.filter((one) => one.found >= 0).map(({ row }) => row);
      const loses = used(kept) < used(found);
      const slots = placeInSlots(rows, { count: found.length, loses, full: rule.full });
      const filler = found.findIndex(({ state }) => state === 'free');
      return { slots, filler: filler < 0 ? undefined : filler };
    } finally {
      this.sorting = false;
    }
  }

  /** Rows that name their entries by numbers: those of entries that stay, new ones, and those that name none. */
  private numbered(list: ListAt, place: BoundPlace): ListItems {
    const { items, indexes } = numberedItems(this.draft, place, this.roles.added);
    if (this.sorting || !this.roles.changesRows) return items;
    if (place.slots === undefined)
      return this.isSortedTable(list) ? reordered(items, this.sortedItems(list, items, place)) : items;
    const { slots, filler } = this.slotsOf(list, place, place.slots, items, (i) => indexes[i]!);
    return inSlots(items, slots, place.list, filler);
  }

  private forgetPlace(place: BoundPlace): void {
    for (const key of this.cache.keys()) if (this.keysOfPlaces.get(key) === place) this.cache.delete(key);
  }
  private readonly keysOfPlaces = new Map<string, BoundPlace>();
  private groupSorted = false;

  private sortedItems(list: ListAt, items: ListItems, place: BoundPlace | undefined): Int32Array {
    this.sorting = true;
    try {
      return sortedOrder(items.rows.length, (i) => this.keys.fresh(list, items, i, place));
    } finally {
      this.sorting = false;
    }
  }

  /** True for a table that has an order, and had it when it was found. */
  private isSortedTable(list: ListAt): boolean {
    if (list.sort.length === 0) return false;
    let known = this.wasSorted.get(list.key);
    if (known === undefined) {
      const count = foundCount(list.found);
      known = isSorted(count, (i) => this.keys.found(list, i));
      this.wasSorted.set(list.key, known);
    }
    return known;
  }

  /** The bound list this is: by where it was found, or in a new file by the field it is. */
  private placeOf(list: ListAt): BoundPlace | undefined {
    const place = this.places.find(({ binding, list: wanted, owner }) => {
      if (binding.anywhere || binding.region !== list.region) return false;
      if (list.owner === undefined) return binding.fieldPath.length === 0;
      if (binding.fieldPath.length === 0) return false;
      if (list.owner.identity.base !== undefined)
        return wanted !== undefined && wanted.column === list.found?.column && wanted.row === list.found.row;
      return owner !== undefined && owner.shape === list.owner.shape && owner.index === list.owner.field;
    });
    if (place !== undefined) this.keysOfPlaces.set(list.key, place);
    return place;
  }
}

const NOWHERE: Identity = {
  base: undefined,
  out: undefined,
  folder: undefined,
  block: undefined,
  key: 'region',
  region: -1,
  index: 0,
};

function foundCount(list: FoundList | undefined): number {
  const value = list?.column.kept(list.row);
  return typeof value === 'object' && 'length' in value ? (value.length as number) : 0;
}
