/** How an item of a list comes to hold a row of entries or folders: by being one, or through fields that lie in it. */
import type { FieldKind, Recipe, Shape } from '../../model';
import { instanceOf } from '../../read/columns';
import type { FoundRow } from '../model/identity';

/** A list that can take new rows: a field of a shape, or the list a region holds. */
export interface ListField {
  readonly owner: Shape | undefined;
  /** The field, or the region where there is no owner. */
  readonly index: number;
  readonly item: Shape;
}

/** Kinds a field can have: its own, or those of which the file chooses. */
export function kindsOf(kind: FieldKind): readonly FieldKind[] {
  return kind.alternatives ?? [kind];
}

/**
 * Fields that lead from an item to the row inside it, without a list on the way; none when the item is the row itself.
 *
 * @returns undefined when no such row can lie in it
 */
export function pathTo(item: Shape, target: Shape): readonly number[] | undefined {
  let known = knownPaths.get(item);
  if (known === undefined) knownPaths.set(item, (known = new Map()));
  if (!known.has(target)) known.set(target, findPath(item, target, []));
  return known.get(target);
}

/** Asked for again with every list that is written. */
const knownPaths = new WeakMap<Shape, Map<Shape, readonly number[] | undefined>>();

function findPath(item: Shape, target: Shape, above: readonly Shape[]): readonly number[] | undefined {
  if (item === target) return [];
  if (above.includes(item)) return undefined;
  for (const { index, kind } of item.fields) {
    for (const { type } of kindsOf(kind)) {
      if (type.kind !== 'shape') continue;
      const rest = findPath(type.shape, target, [...above, item]);
      if (rest !== undefined) return [index, ...rest];
    }
  }
  return undefined;
}

/** The row of `target` inside an item that was found. */
export function rowInside(item: FoundRow, path: readonly number[], target: Shape): FoundRow | undefined {
  let at: FoundRow | undefined = item;
  for (const field of path) {
    at = instanceOf(at.table.columns[field]!, at.row);
    if (at === undefined) return undefined;
  }
  return at.table.shape === target ? at : undefined;
}

/** The shape of the items of a list, when they are shapes. */
export function itemShape({ type }: FieldKind): Shape | undefined {
  return type.kind === 'list' && type.of.kind === 'shape' ? type.of.shape : undefined;
}

/** All lists whose items can hold a row of `target`, those whose items are such rows first. */
export function listsFor({ shapes, regions }: Recipe, target: Shape): ListField[] {
  const lists: (ListField & { readonly steps: number })[] = [];
  const add = (owner: Shape | undefined, index: number, kind: FieldKind) => {
    for (const one of kindsOf(kind)) {
      const item = itemShape(one);
      const path = item === undefined ? undefined : pathTo(item, target);
      if (path !== undefined) lists.push({ owner, index, item: item!, steps: path.length });
    }
  };
  for (const { index, holds } of regions) if (typeof holds === 'object') add(undefined, index, holds);
  for (const shape of shapes) for (const { index, kind } of shape.fields) add(shape, index, kind);
  return lists.sort((a, b) => a.steps - b.steps);
}

export function sameList(a: Omit<ListField, 'item'>, b: Omit<ListField, 'item'>): boolean {
  return a.owner === b.owner && a.index === b.index;
}

export function nameOfList({ owner, index }: Omit<ListField, 'item'>, { regions }: Recipe): string {
  return owner === undefined ? regions[index]!.name : `${owner.name}.${owner.fields[index]!.name}`;
}

/** True when rows of entries are no items of a list, which could be longer or shorter. */
export function rowsAreFixed(recipe: Recipe): boolean {
  const { each } = recipe.entries;
  return each.anywhere && listsFor(recipe, each.shape).length === 0;
}
