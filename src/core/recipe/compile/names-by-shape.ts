/** Which names fields of a shape may use, and where a shape occurs. */
import type { Names } from '../formula/names';
import type { ParsedText } from '../language/recipe-text';
import type { Shape } from '../model';
import type { Bindings } from './compile-bindings';
import type { Open } from './compile-shapes';
import type { Setting } from './setting';

/** Which names hold in which shape: rows know their entry, folders their folder, and what lies in them does too. */
export function namesByShape(
  parsed: ParsedText,
  shapes: ReadonlyMap<string, Open<Shape>>,
  bindings: Bindings,
  setting: Setting,
): Map<Open<Shape>, Names> {
  const text = parsed.recipe.entries;
  const rows = [bindings.each, ...bindings.beside].map(({ name, shape }) => ({ name, shape }));
  const wrap = text.wrap === undefined ? undefined : shapes.get(text.wrap);
  const starts = [bindings.each.shape, ...bindings.beside.map((one) => one.shape), wrap, bindings.blocks?.shape];
  const entryShapes = reachable(starts, parsed, shapes);
  const folderShapes = reachable([bindings.folders?.shape], parsed, shapes);
  const carriers = carriersOf([bindings.each.shape, bindings.folders?.shape], parsed, shapes);
  const spaces = spacesOf(parsed, shapes);
  return new Map(
    [...shapes.values()].map((shape) => {
      const entry = entryShapes.has(shape);
      const names: Names = {
        ...setting.names,
        space: spaces.get(shape),
        rows: entry ? rows.filter((row) => row.shape !== shape || shape === wrap) : [],
        entry,
        block: text.blocks !== undefined,
        folder: folderShapes.has(shape),
        carries: carriers.has(shape) ? { entry: true, folder: bindings.folders !== undefined } : undefined,
        own: entry && shape !== wrap ? wrap : undefined,
        around: shape === wrap,
      };
      return [shape, names];
    }),
  );
}

/** Shapes that hold one of the rows without a list between: a new one is made for an entry, or for a folder. */
function carriersOf(
  rows: readonly (Shape | undefined)[],
  parsed: ParsedText,
  shapes: ReadonlyMap<string, Open<Shape>>,
): Set<Shape> {
  const holders = new Map<Shape, Shape[]>();
  for (const shape of shapes.values())
    for (const kind of kindsIn(parsed, shape)) {
      const inner = shapes.get(kind.trim());
      if (inner === undefined) continue;
      const known = holders.get(inner) ?? [];
      known.push(shape);
      holders.set(inner, known);
    }
  const carriers = new Set<Shape>();
  const left = rows.filter((row) => row !== undefined);
  for (let row = left.pop(); row !== undefined; row = left.pop())
    for (const holder of holders.get(row) ?? []) {
      if (carriers.has(holder)) continue;
      carriers.add(holder);
      left.push(holder);
    }
  return carriers;
}

function kindsIn(parsed: ParsedText, shape: Shape): string[] {
  return parsed.recipe.shapes[shape.name]!.flatMap(({ as }) => (typeof as === 'string' ? [as] : Object.values(as)));
}

function reachable(
  starts: readonly (Shape | undefined)[],
  parsed: ParsedText,
  shapes: ReadonlyMap<string, Open<Shape>>,
): Set<Shape> {
  const found = new Set<Shape>();
  const visit = (shape: Shape | undefined) => {
    if (shape === undefined || found.has(shape)) return;
    found.add(shape);
    for (const kind of kindsIn(parsed, shape)) visit(shapes.get(kind.replace(/\[.*$/, '').trim()));
  };
  for (const start of starts) visit(start);
  return found;
}

/** The unlocked region each shape lies in; shapes of plain regions lie in the file itself. */
function spacesOf(parsed: ParsedText, shapes: ReadonlyMap<string, Open<Shape>>): Map<Shape, number> {
  const spaces = new Map<Shape, number>();
  for (const [index, region] of parsed.recipe.regions.entries()) {
    if (region.through === undefined) continue;
    const start = shapes.get(region.holds.replace(/\[.*$/, '').trim());
    for (const shape of reachable([start], parsed, shapes)) spaces.set(shape, index);
  }
  return spaces;
}
