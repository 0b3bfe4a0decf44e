/** Which lists hold the rows of entries. */
import { compileFormula } from '../formula/compile-formula';
import type { TextPath } from '../language/yaml-text';
import type { Binding, FieldType } from '../model';
import { invalid, type Setting } from './setting';

/** All tables that `entries` binds. */
export interface Bindings {
  readonly each: Binding;
  readonly beside: readonly Binding[];
  readonly folders: Binding | undefined;
  readonly blocks: Binding | undefined;
}

export function compileBindings(setting: Setting): Bindings {
  const { entries } = setting.parsed.recipe;
  const path: TextPath = ['entries'];
  return {
    each: bindingOf(entries.each, [...path, 'each'], setting),
    beside: (entries.beside ?? []).map((text, i) => {
      const at = [...path, 'beside', i];
      const [, where, by] = /^(.*?)(?:\s+by\s+(.+))?$/s.exec(text)!;
      const binding = bindingOf(where!, at, setting);
      if (binding.anywhere)
        throw invalid(
          setting.parsed.lineOf([...path, 'beside', i]),
          'a table beside the rows is a list',
          'NAME in region.field',
        );
      if (by === undefined) return binding;
      const names = { ...setting.names, rows: [{ name: binding.name, shape: binding.shape }] };
      return { ...binding, by: compileFormula(by, setting.parsed.lineOf(at), names) };
    }),
    folders:
      entries.folders === undefined
        ? undefined
        : bindingOf(entries.folders.each, [...path, 'folders', 'each'], setting),
    blocks:
      entries.blocks?.each === undefined
        ? undefined
        : bindingOf(entries.blocks.each, [...path, 'blocks', 'each'], setting),
  };
}

/** `row in index.rows`: the items of that list; `file in tree`, where `file` is a shape: all of them below. */
export function bindingOf(text: string, textPath: TextPath, setting: Setting): Binding {
  const { parsed, shapes, names } = setting;
  const line = parsed.lineOf(textPath);
  const match = /^\s*([A-Za-z_][\w-]*)\s+in\s+(\S+)\s*$/.exec(text);
  if (match === null)
    throw invalid(line, `"${text}" does not say where the rows are`, 'NAME in region, or NAME in region.field');
  const [, name, path] = match as unknown as [string, string, string];
  const [regionName, ...fieldNames] = path.split('.');
  const region = names.regions.get(regionName!);
  if (region?.type === undefined)
    throw invalid(
      line,
      `no region with rows is called ${regionName}`,
      `one of ${[...names.regions.keys()].join(', ')}`,
    );
  let type: FieldType = region.type;
  const fieldPath: number[] = [];
  for (const fieldName of fieldNames) {
    if (type.kind !== 'shape') throw invalid(line, `.${fieldName} needs a shape before the dot`);
    const index: number = type.shape.indexOf(fieldName);
    if (index < 0) throw invalid(line, `shape ${type.shape.name} has no field ${fieldName}`);
    fieldPath.push(index);
    type = type.shape.fields[index]!.kind.type;
  }
  const list = type.kind === 'list' && type.of.kind === 'shape' ? type.of.shape : undefined;
  const named = shapes.get(name);
  // A name that is a shape other than the list's means its instances at any depth.
  if (named !== undefined && (list === undefined || (named !== list && list.name !== name) || named.recursive))
    return { name, region: region.index, fieldPath, shape: named, anywhere: true };
  if (list === undefined)
    throw invalid(
      line,
      `${path} is not a list of shapes`,
      'shape[count], or the name of a shape inside it before `in`',
    );
  return { name, region: region.index, fieldPath, shape: list, anywhere: list.recursive };
}
