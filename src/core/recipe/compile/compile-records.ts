/** The part `records`: which rows of a file are records. */
import type { Binding } from '../model';
import { bindingOf } from './compile-bindings';
import { checkForm, type Setting } from './setting';

/** @throws FormatError `recipe-invalid` when a recipe presents records and does not say which, or the other way round */
export function compileRecords(setting: Setting): ReadonlyMap<string, Binding> | undefined {
  checkForm('records', setting);
  const { records } = setting.parsed.recipe;
  if (records === undefined) return undefined;
  return new Map(
    Object.entries(records.tables).map(([name, each]) => [name, bindingOf(each, ['records', 'tables', name], setting)]),
  );
}
