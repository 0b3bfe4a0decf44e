/** The parts `mesh` and `clip`: which fields tell what of a mesh and of what moves it, and how their numbers lie. */
import { compileFormula } from '../formula/compile-formula';
import type { Names } from '../formula/names';
import type { TextPath } from '../language/yaml-text';
import type {
  AttributeRule,
  Binding,
  ClipRule,
  Formula,
  MeshRule,
  NumberKind,
  PackedRule,
  Region,
  VertexArrays,
} from '../model';
import { bindingOf } from './compile-bindings';
import { checkForm, formulasOf, invalid, regionOfBytes, type Setting } from './setting';

/** @throws FormatError `recipe-invalid` when a recipe presents a mesh and does not say how, or the other way round */
export function compileMesh(regions: readonly Region[], setting: Setting): MeshRule | undefined {
  checkForm('mesh', setting);
  const { mesh } = setting.parsed.recipe;
  if (mesh === undefined) return undefined;
  const { materials, joints, levels, bounds, parts } = mesh;
  const path = ['mesh'] as const;
  const formula = formulasOf(mesh, path, setting, setting.names);
  return {
    line: setting.parsed.lineOf(path),
    // Formulas know whole numbers alone.
    unit: typeof mesh.unit === 'number' ? mesh.unit : (formula('unit') ?? 1),
    up: mesh.up ?? 'y',
    materials:
      materials &&
      rowsOf(materials, [...path, 'materials'], setting, (of) => ({ name: of('name')!, textures: of('textures') })),
    joints:
      joints &&
      rowsOf(joints, [...path, 'joints'], setting, (of, names) => ({
        name: of('name')!,
        parent: of('parent')!,
        at: listed(joints.at, [...path, 'joints', 'at'], setting, names),
        turn: listed(joints.turn ?? [], [...path, 'joints', 'turn'], setting, names),
      })),
    levels: levels && rowsOf(levels, [...path, 'levels'], setting, (of) => ({ from: of('from'), parts: of('parts')! })),
    bounds: bounds && {
      low: listed(bounds.low, [...path, 'bounds', 'low'], setting, setting.names),
      high: listed(bounds.high, [...path, 'bounds', 'high'], setting, setting.names),
    },
    parts: rowsOf(parts, [...path, 'parts'], setting, (of) => ({
      material: of('material'),
      vertices: of('vertices')!,
      indices: of('indices')!,
    })),
    ...numberFields(mesh, regions, setting),
  };
}

type MeshText = NonNullable<Setting['parsed']['recipe']['mesh']>;

/** @throws FormatError `recipe-invalid` when neither or both of the two ways are described */
function numberFields(
  mesh: MeshText,
  regions: readonly Region[],
  setting: Setting,
): Pick<MeshRule, 'packed' | 'arrays'> {
  const { from, stride, layout, index, align, arrays, parts } = mesh;
  if (arrays !== undefined && from === undefined && stride === undefined && layout === undefined && index === undefined)
    return { packed: undefined, arrays: arraysOf(arrays, parts.each, setting) };
  if (from === undefined || stride === undefined || layout === undefined || index === undefined || arrays !== undefined)
    throw invalid(
      setting.parsed.lineOf(['mesh']),
      'it is not clear where the numbers of vertices are',
      'from, stride, layout and index, or arrays instead of them',
    );
  return {
    packed: { ...packed({ from, stride, layout }, ['mesh'], regions, setting), index, align: align ?? 1 },
    arrays: undefined,
  };
}

function arraysOf(text: NonNullable<MeshText['arrays']>, each: string, setting: Setting): VertexArrays {
  const path = ['mesh', 'arrays'] as const;
  const { parsed } = setting;
  if (setting.numbers === 'stored')
    throw invalid(parsed.lineOf(path), 'the byte order of arrays depends on the file', 'numbers: little or big');
  const binding = bindingOf(each, ['mesh', 'parts', 'each'], setting);
  const names: Names = { ...setting.names, rows: [{ name: binding.name, shape: binding.shape }] };
  const place = (one: { in: string; at: string }, at: TextPath) => {
    const formula = formulasOf(one, at, setting, names);
    return { bytes: formula('in')!, at: formula('at')! };
  };
  return {
    little: setting.numbers === 'little',
    vertices: text.vertices.map((one, i) => ({
      line: parsed.lineOf([...path, 'vertices', i]),
      of: one.is,
      as: one.as,
      stride: one.stride,
      ...place(one, [...path, 'vertices', i]),
    })),
    index: { as: text.index.as, ...place(text.index, [...path, 'index']) },
    isClockwise: text.clockwise ?? false,
  };
}

/** @throws FormatError `recipe-invalid` as {@link compileMesh} */
export function compileClip(regions: readonly Region[], setting: Setting): ClipRule | undefined {
  checkForm('clip', setting);
  const { clip } = setting.parsed.recipe;
  if (clip === undefined) return undefined;
  const path = ['clip'] as const;
  const formula = formulasOf(clip, path, setting, setting.names);
  return {
    line: setting.parsed.lineOf(path),
    mesh: formula('mesh'),
    rate: formula('rate')!,
    frames: formula('frames')!,
    joints: formula('joints')!,
    loops: formula('loops'),
    ...packed(clip, path, regions, setting),
  };
}

/** A table of rows, with formulas over one of them. */
function rowsOf<T extends { each: string }, R>(
  text: T,
  path: TextPath,
  setting: Setting,
  make: (of: (key: keyof T & string) => Formula | undefined, names: Names) => R,
): R & { each: Binding } {
  const each = bindingOf(text.each, [...path, 'each'], setting);
  const names: Names = { ...setting.names, rows: [{ name: each.name, shape: each.shape }] };
  return { each, ...make(formulasOf(text, path, setting, names), names) };
}

const listed = (texts: readonly string[], path: TextPath, { parsed }: Setting, names: Names): Formula[] =>
  texts.map((text, i) => compileFormula(text, parsed.lineOf([...path, i]), names));

interface PackedText<Of extends string> {
  readonly from: string;
  readonly stride: string;
  readonly layout: readonly {
    readonly is: Of;
    readonly as: NumberKind;
    readonly at: string;
    readonly when?: string | undefined;
  }[];
}

function packed<Of extends string>(
  text: PackedText<Of>,
  path: TextPath,
  regions: readonly Region[],
  setting: Setting,
): PackedRule<Of> {
  const { parsed, names } = setting;
  return {
    from: regionOfBytes(text.from, parsed.lineOf([...path, 'from']), regions),
    numbers: setting.numbers,
    stride: formulasOf(text, path, setting, names)('stride')!,
    layout: text.layout.map((one, i): AttributeRule<Of> => {
      const of = formulasOf(one, [...path, 'layout', i], setting, names);
      return { line: parsed.lineOf([...path, 'layout', i]), of: one.is, as: one.as, at: of('at')!, when: of('when') };
    }),
  };
}
