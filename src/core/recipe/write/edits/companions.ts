/**
 * Rows that tell something of an entry and are none themselves, such as a chunk with its name in front of it: they come
 * and go with it.
 */
import { FaultError, FormatError } from '../../../faults';
import { sameValue, type Scope, type Value } from '../../formula/value';
import { parseExpression, type Expression } from '../../language/expression';
import type { Formula, Recipe } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { entryScope } from '../../read/entry-bytes';
import type { RowCursor } from '../../read/table';
import type { FoundRow } from '../model/identity';

/** A row found near that of an entry. */
export interface CompanionRow extends FoundRow {
  /** -1 when it is before the entry, 1 behind it. */
  readonly step: -1 | 1;
}

function tellingFormulas({ entries: { path, hash, id, size, time, prefixed } }: Recipe): Formula[] {
  return [path, hash, id, size, time, ...prefixed].filter(
    (formula) => (formula?.uses.neighbours.length ?? 0) > 0,
  ) as Formula[];
}

/** True when entries can have companions at all. */
export function hasCompanions(recipe: Recipe): boolean {
  return tellingFormulas(recipe).length > 0;
}

/** The rows without which the entry would read otherwise. */
export function companionsOf(archive: OpenedArchive, entry: number): CompanionRow[] {
  const { entries, recipe } = archive;
  const scope = entryScope(archive, entry);
  const rows: CompanionRow[] = [];
  for (const formula of tellingFormulas(recipe)) {
    if (!matters(formula, scope)) continue;
    for (const { step, find } of formula.uses.neighbours) {
      const found = find(scope) as RowCursor | undefined;
      // Another entry's row is its own, whatever it states about this one.
      if (found === undefined || entries.entryOfRow(found.row) >= 0) continue;
      if (!rows.some(({ row }) => row === found.row)) rows.push({ table: found.table, row: found.row, step });
    }
  }
  return rows;
}

/** True when a formula says something else without the rows around. */
export function matters(formula: Formula, scope: Scope): boolean {
  let said: Value;
  try {
    said = formula.evaluate(scope);
  } catch (error) {
    if (error instanceof FaultError) return false;
    throw error;
  }
  scope.alone = true;
  try {
    return !sameValue(formula.evaluate(scope), said);
  } catch (error) {
    if (error instanceof FaultError) return true;
    throw error;
  } finally {
    scope.alone = false;
  }
}

/** Companions of removed entries that no other entry needs. */
export function orphanedRows(archive: OpenedArchive, isRemoved: (entry: number) => boolean): ReadonlySet<number> {
  const orphaned = new Set<number>();
  if (!hasCompanions(archive.recipe)) return orphaned;
  for (let i = 0; i < archive.entries.count; i++)
    if (isRemoved(i)) for (const { row } of companionsOf(archive, i)) orphaned.add(row);
  if (orphaned.size === 0) return orphaned;
  for (let i = 0; i < archive.entries.count; i++)
    if (!isRemoved(i)) for (const { row } of companionsOf(archive, i)) orphaned.delete(row);
  return orphaned;
}

/**
 * Companions of an entry that was found, for a new one to have the like.
 *
 * @throws FormatError `cannot-add` when no entry has any
 */
export function companionsToFollow(archive: OpenedArchive | undefined, recipe: Recipe): CompanionRow[] {
  for (let i = (archive?.entries.count ?? 0) - 1; i >= 0; i--) {
    const rows = companionsOf(archive!, i);
    if (rows.length > 0) return rows;
  }
  const [formula] = tellingFormulas(recipe);
  throw new FormatError({
    code: 'cannot-add',
    recipe: recipe.id,
    line: formula!.line,
    what: 'an entry is described by a row near its own, and there is no entry whose row a new one could follow',
    found: formula!.text,
  });
}

/** How the path of an entry is made of one field of a row near it. */
export interface NamedBy {
  readonly field: string;
  /** The field holds the last part of the path only. */
  readonly lastPart: boolean;
}

/** The field that names an entry when its path is that field of another row, alone or behind the path of a folder. */
export function namedBy({ entries: { path } }: Recipe): NamedBy | undefined {
  if (path === undefined || path.uses.neighbours.length === 0) return undefined;
  const expression = parseExpression(path.text);
  const whole = fieldOfNeighbour(expression);
  if (whole !== undefined) return { field: whole, lastPart: false };
  if (expression.kind !== 'call' || expression.name !== 'join') return undefined;
  const last = fieldOfNeighbour(expression.args.at(-1));
  return last === undefined ? undefined : { field: last, lastPart: true };
}

function fieldOfNeighbour(expression: Expression | undefined): string | undefined {
  if (expression?.kind !== 'member' || expression.of.kind !== 'call') return undefined;
  return expression.of.name === 'before' || expression.of.name === 'after' ? expression.name : undefined;
}

/** True when a new row says by itself what path its entry has, so that it needs no other row. */
export function tellsItself({ entries: { path } }: Recipe, scope: Scope, wanted: string): boolean {
  if (path === undefined) return true;
  scope.alone = true;
  try {
    return path.evaluate(scope) === wanted;
  } catch (error) {
    if (error instanceof FaultError) return false;
    throw error;
  } finally {
    scope.alone = false;
  }
}
