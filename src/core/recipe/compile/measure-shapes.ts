/** How many bytes shapes take, where that is known beforehand. */
import type { Shape } from '../model';
import { invalid } from './setting';
import type { Open } from './compile-shapes';

/** Sizes and recursion, once all fields are known. */
export function measureShapes(shapes: ReadonlyMap<string, Open<Shape>>): void {
  const flowing = new Set<Shape>();
  for (const shape of shapes.values())
    if (shape.fields.some((field) => field.at !== undefined || field.kind.flows)) flowing.add(shape);
  for (const shape of shapes.values()) {
    shape.recursive = reaches(shape, shape, new Set());
    shape.compact = shape.fields.every(isCompact);
    shape.flows = flowing.has(shape) || [...flowing].some((one) => reaches(shape, one, new Set()));
  }
  const done = new Set<Shape>();
  const fine = new Set<Shape>();
  for (const shape of shapes.values()) {
    refuseEndless(shape, [], fine);
    measure(shape, done, []);
  }
}

function isCompact({ at, size, kind }: Shape['fields'][number]): boolean {
  if (at !== undefined || size !== undefined) return false;
  return !kind.flows || (kind.type.kind === 'data' && !kind.type.rest);
}

function reaches(from: Shape, to: Shape, seen: Set<Shape>): boolean {
  return from.fields.some((field) =>
    (field.kind.shapes ?? []).some((inner) => {
      if (inner === to) return true;
      if (seen.has(inner)) return false;
      seen.add(inner);
      return reaches(inner, to, seen);
    }),
  );
}

/** @throws FormatError where an instance always holds another of its own shape */
function refuseEndless(shape: Shape, above: readonly Shape[], fine: Set<Shape>): void {
  if (fine.has(shape)) return;
  for (const { when, at, kind, line } of shape.fields) {
    if (when !== undefined || at !== undefined || kind.type.kind !== 'shape') continue;
    const inner = kind.type.shape;
    if (inner === shape || above.includes(inner))
      throw invalid(line, `shape ${inner.name} would hold itself without end`, 'a `when`, a count, or `at`');
    refuseEndless(inner, [...above, shape], fine);
  }
  fine.add(shape);
}

function measure(shape: Open<Shape>, done: Set<Shape>, above: readonly Shape[]): void {
  if (done.has(shape)) return;
  for (const field of shape.fields)
    for (const inner of field.kind.shapes ?? [])
      if (!above.includes(inner) && inner !== shape) measure(inner as Open<Shape>, done, [...above, shape]);
  let fixed: number | undefined = 0;
  let least = 0;
  for (const field of shape.fields) {
    if (field.at !== undefined) continue;
    const optional = field.when !== undefined;
    const size = field.kind.fixedSize;
    fixed =
      fixed === undefined || size === undefined || optional || field.size !== undefined ? undefined : fixed + size;
    if (!optional) least += field.kind.minSize;
  }
  shape.fixedSize = fixed;
  shape.minSize = least;
  done.add(shape);
}
