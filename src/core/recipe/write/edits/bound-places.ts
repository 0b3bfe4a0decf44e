/** The lists of a file that `entries` binds: rows of entries, tables next to them, folders, blocks. */
import type { Binding, Field, Formula, Recipe, Shape, SlotRule } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { instanceOf, type Column } from '../../read/columns';
import type { FoundList } from './list-items';

export type Role = 'entries' | 'beside' | 'folders' | 'blocks';

export interface BoundPlace {
  readonly binding: Binding;
  readonly role: Role;
  /** Which of the tables beside; -1 for others. */
  readonly beside: number;
  /** Where it was found; undefined in a new file. */
  readonly list: FoundList | undefined;
  /** The shape and field it is, when a region does not hold it directly. */
  readonly owner: { readonly shape: Shape; readonly index: number } | undefined;
  readonly sort: readonly Formula[];
  readonly slots: SlotRule | undefined;
}

export function boundPlaces(recipe: Recipe, archive: OpenedArchive | undefined): BoundPlace[] {
  const rule = recipe.entries;
  const roles: [Binding | undefined, Role, number][] = [
    [rule.each, 'entries', -1],
    ...rule.beside.map((binding, i): [Binding, Role, number] => [binding, 'beside', i]),
    [rule.folders?.each, 'folders', -1],
    [rule.blocks?.each, 'blocks', -1],
  ];
  return roles.flatMap(([binding, role, beside]) => {
    if (binding === undefined) return [];
    const top = archive?.regions.get(binding.region)?.column;
    const region = recipe.regions[binding.region]!;
    const owner = ownerOf(binding, region.holds);
    const sort = owner === undefined ? region.sort : owner.shape.fields[owner.index]!.sort;
    const slots = owner === undefined ? region.slots : undefined;
    const list = top === undefined ? undefined : follow(top, binding.fieldPath);
    return [{ binding, role, beside, owner, sort, slots, list }];
  });
}

function follow(top: Column, path: readonly number[]): FoundList | undefined {
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

/** The shape and field a bound list lies in. */
function ownerOf(binding: Binding, holds: unknown): BoundPlace['owner'] {
  if (binding.fieldPath.length === 0 || typeof holds !== 'object' || holds === null) return undefined;
  let { type } = holds as Field['kind'];
  for (const [i, index] of binding.fieldPath.entries()) {
    if (type.kind !== 'shape') return undefined;
    if (i === binding.fieldPath.length - 1) return { shape: type.shape, index };
    ({ type } = type.shape.fields[index]!.kind);
  }
  return undefined;
}
