/** What every byte of a region is: the fields with their offsets, read again with a trace. */
import { Cursor } from '../bytes';
import type { Archive } from './archive';
import type { FieldKind } from './model';
import type { FoundRegion } from './read-region';
import { showValue, type Scope } from './value';

export interface ExplainedField {
  readonly region: string;
  readonly shape: string;
  /** Row in the table of its shape, in reading order. */
  readonly row: number;
  readonly field: string;
  /** Offset in the file, or in the plain bytes of the region when `unlocked`. */
  readonly at: number;
  readonly length: number;
  readonly unlocked: boolean;
  readonly value: string;
  /** The formula, when the field has one. */
  readonly formula: string | undefined;
  /** What it must be, when the recipe says so. */
  readonly must: string | undefined;
  readonly line: number;
}

/** The fields of a region that `wanted` picks, in the order of their bytes. */
export function explainRegion(
  archive: Archive,
  found: FoundRegion,
  wanted: (shape: string, row: number, at: number, end: number) => boolean,
): ExplainedField[] {
  const { region } = found;
  const unlocked = region.through.length > 0;
  const fields: ExplainedField[] = [];
  const scope: Scope = { file: archive.facts, fields: undefined, row: undefined, entry: undefined };
  const kind = region.holds as FieldKind;
  const column = kind.makeColumn();
  const cursor = new Cursor(found.plain, unlocked ? 0 : found.at);
  kind.read(cursor, column, {
    scope,
    limits: archive.limits,
    beyond: archive.source.size,
    depth: 0,
    needed: 0,
    trace: (field, shape, row, at, end) => {
      // A nested shape is told field by field; its own line would only repeat them.
      if (field.kind.type.kind !== 'value' || !wanted(shape.name, row, at, end)) return;
      fields.push({
        region: region.name,
        shape: shape.name,
        row,
        field: field.name,
        at,
        length: end - at,
        unlocked,
        value: showValue(scope.fields!.get(field.index)),
        formula: field.is?.text,
        must: field.must?.text,
        line: field.line,
      });
    },
  });
  return fields;
}

/** The recipe's fields that describe one entry. */
export function explainEntry(archive: Archive, entry: number): ExplainedField[] {
  const { recipe, entries } = archive;
  const found = archive.regions.get(recipe.entries.region)!;
  const row = entries.row(entry);
  const { name } = recipe.entries.shape;
  return explainRegion(archive, found, (shape, at) => shape === name && at === row);
}

/** The field a byte of the file belongs to, when it is in a region that can be read without unlocking. */
export function fieldAt(archive: Archive, offset: number): ExplainedField | undefined {
  for (const found of archive.regions.values()) {
    if (
      offset < found.at ||
      offset >= found.at + found.length ||
      found.column === undefined ||
      found.region.through.length > 0
    )
      continue;
    return explainRegion(archive, found, (_shape, _row, at, end) => offset >= at && offset < end)[0];
  }
  return undefined;
}

/** The name of the region a byte of the file belongs to. */
export function regionAt(archive: Archive, offset: number): string | undefined {
  return [...archive.regions.values()].find(({ at, length }) => offset >= at && offset < at + length)?.region.name;
}
