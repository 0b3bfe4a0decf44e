import { FaultError } from '../../../faults';
import { isList, truthy, type Fields, type Scope, type Value } from '../../formula/value';
import { wholeNumber } from '../../formula/show-value';
import type { Field, FoundPart, RegionWriter, Shape } from '../../model';

/** Instances in the making note where their fields came to lie. */
interface Noting {
  /** The value as it is written: what was found, in the very bytes it had. */
  written?(index: number): Value;
  note?(index: number, start: number, length: number): void;
  /** Where a field with `at` was found. */
  foundAt?(index: number): FoundPart | undefined;
}

/**
 * Writes one instance of a shape. `fields` gives the value of each field: computed by its formula, or as it was found.
 *
 * @throws FormatError `layout-impossible` when a value does not fit its field
 */
export function writeRow(shape: Shape, fields: Fields, writer: RegionWriter, scope: Scope): void {
  const outer = scope.fields;
  if (outer !== undefined) scope.outer.push(outer);
  for (const field of shape.fields) {
    scope.fields = fields;
    scope.here = writer.position;
    try {
      if (field.when !== undefined && !truthy(field.when.evaluate(scope))) continue;
      if (field.at === undefined) writeField(field, fields, writer, scope);
      else if (fields.get(field.index) !== undefined)
        writer.apart((fields as Noting).foundAt?.(field.index), field.align, (inner) =>
          writeField(field, fields, inner, scope),
        );
    } catch (error) {
      leave(scope, outer);
      throw error instanceof FaultError && error.fault.field === undefined
        ? error.with({ field: field.name, line: field.line })
        : error;
    }
  }
  leave(scope, outer);
}

function leave(scope: Scope, outer: Fields | undefined): void {
  if (outer !== undefined) scope.outer.pop();
  scope.fields = outer;
}

function writeField(field: Field, fields: Fields, writer: RegionWriter, scope: Scope): void {
  const start = writer.position;
  let value = (fields as Noting).written?.(field.index) ?? fields.get(field.index);
  scope.fields = fields;
  // A list with a formula has one value for each item.
  if (field.is !== undefined && field.kind.type.kind === 'list' && !isList(value)) value = undefined;
  field.kind.write(writer, value, scope);
  scope.fields = fields;
  if (field.size !== undefined && !scope.unsized) {
    const size = wholeNumber(field.size.evaluate(scope), `the size of ${field.name}`);
    const missing = size - (writer.position - start);
    if (missing > 0) writer.fill(missing, 0);
  }
  if (field.marked) (fields as Noting).note?.(field.index, start, writer.position - start);
}
