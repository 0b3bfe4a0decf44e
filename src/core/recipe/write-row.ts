import type { ByteWriter } from '../bytes';
import { FaultError } from '../faults';
import { truthy } from './formula';
import type { Shape } from './model';
import type { Fields, Scope } from './value';

/**
 * Writes one instance of a shape. `fields` gives the value of each field: computed by its formula, or as it was found.
 *
 * @throws FormatError `layout-impossible` when a value does not fit its field
 */
export function writeRow(shape: Shape, fields: Fields, writer: ByteWriter, scope: Scope): void {
  const outer = scope.fields;
  for (const field of shape.fields) {
    scope.fields = fields;
    try {
      if (field.when !== undefined && !truthy(field.when.evaluate(scope))) continue;
      field.kind.write(writer, fields.get(field.index), scope);
    } catch (error) {
      scope.fields = outer;
      throw error instanceof FaultError ? error.with({ field: field.name, line: field.line }) : error;
    }
  }
  scope.fields = outer;
}
