/** The formulas of a field, and what they ask for. */
import type { Field, Formula } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import type { Table } from '../read/table';

/** That of the field and those of its bits. */
export function formulasIn(field: Field): Formula[] {
  return [field.is, ...field.parts.map((part) => part.is)].filter((formula) => formula !== undefined);
}

/** True when a field can be worked out where there is no entry. */
export function isFree(field: Field): boolean {
  return formulasIn(field).every(asksNoEntry);
}

/** True for a formula that says the same wherever it is. */
export function asksNoEntry({ uses }: Formula): boolean {
  return uses.entry.size === 0 && uses.content.length === 0;
}

/** True when the shape around the entry's bytes has to be read for it. */
export function usesBytes(formula: Formula): boolean {
  return formula.uses.entry.has('own');
}

/** True when some formula looks at the entry before. */
export function usesPrevious({ recipe }: OpenedArchive): boolean {
  return recipe.shapes.some((shape) =>
    shape.fields.some((field) => formulasIn(field).some(({ uses }) => uses.entry.has('previous'))),
  );
}

/** True when the entry's property was read from this very field, so that the formula cannot disagree. */
export function agreesByItself(field: Field, { recipe }: OpenedArchive): boolean {
  if (field.is === undefined || field.parts.length > 0) return false;
  const rule = recipe.entries;
  const property = field.is.entryProperty;
  if (property === 'method') return rule.methodField === field.index;
  if (property !== 'path' && property !== 'at' && property !== 'stored' && property !== 'size' && property !== 'hash')
    return false;
  return rule[property]?.rowField === field.index;
}

/** Exact while the fields before it have fixed sizes, else the start of the row. */
export function fieldOffset(table: Table, row: number, field: Field): number {
  if (field.marked) return table.markedStart(field.index, row);
  let offset = table.start(row);
  for (const before of table.shape.fields.slice(0, field.index)) {
    if (before.kind.fixedSize === undefined || before.when !== undefined || before.at !== undefined)
      return table.start(row);
    offset += before.kind.fixedSize;
  }
  return offset;
}
