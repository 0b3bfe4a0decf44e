import { FormatError } from '../../faults';
import type { Archive, Value } from '../../recipe';

/** @throws FormatError `wrong-kind` for a corner that is no vertex, or a material that is not there */
export function checkPart(
  file: Archive,
  part: number,
  has: { triangles: ArrayLike<number>; count: number; wears: Value; materials: number },
): void {
  const { triangles, count, wears, materials } = has;
  const { line } = file.recipe.mesh!;
  for (let corner = 0; corner < triangles.length; corner++)
    if (triangles[corner]! >= count)
      throw wrong(file, line, `part ${part}, corner ${corner}`, `one of ${count} vertices`, String(triangles[corner]));
  const skin = Number(wears ?? 0);
  if (materials > 0 && skin >= materials)
    throw wrong(file, line, `part ${part}`, `one of ${materials} materials`, String(skin));
}

export const wrong = ({ source, recipe }: Archive, line: number, field: string, expected: string, found: string) =>
  new FormatError({ code: 'wrong-kind', file: source.name, recipe: recipe.id, line, field, expected, found });
