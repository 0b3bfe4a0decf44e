/** Records as CSV (RFC 4180), for spreadsheets. */
import { stringify } from 'csv-stringify/sync';
import { bufferSource } from '../../bytes';
import type { FormConverter } from '../converter';
import { formRecipe } from '../form-recipe';
import { ifReadable } from '../if-readable';
import { readRecords } from './read-records';
import { readRecipeRecords } from './recipe-records';
import { recordFormat, type CellValue, type RecordRow } from './records';

/** The column with the name of the table, where a file has several. */
const TABLE = 'table';

export const recordsConverter: FormConverter<'csv'> = {
  formats: ['csv'],
  async convert({ path, head, bytes, recipes }) {
    const recipe = await formRecipe(
      recipes.filter(({ presents }) => presents === 'records'),
      head,
      path,
    );
    if (recipe === undefined && recordFormat(path) === undefined) return undefined;
    const all = await bytes();
    const rows =
      recipe === undefined
        ? // A file of this ending may hold anything.
          await ifReadable(Promise.resolve().then(() => readRecords(all, path)))
        : await readRecipeRecords(recipe, bufferSource(all, path));
    return rows === undefined || rows.length === 0
      ? undefined
      : { bytes: new TextEncoder().encode(recordsAsCsv(rows)), notes: [] };
  },
  // Which cell of a table is for which place of the file only the pages can ask.
  fit: () => Promise.resolve(undefined),
};

/** One row a record, one column a field of any of them; lists are JSON, and a field that a record lacks is empty. */
export function recordsAsCsv(rows: readonly RecordRow[]): string {
  const columns = [...new Set(rows.flatMap(({ values }) => Object.keys(values)))];
  const hasTables = new Set(rows.map(({ table }) => table)).size > 1;
  const head = hasTables ? [TABLE, ...columns] : columns;
  const body = rows.map(({ table, values }) => {
    const cells = columns.map((column) => textOfCell(values[column]));
    return hasTables ? [table, ...cells] : cells;
  });
  return stringify([head, ...body], { record_delimiter: '\r\n', quoted_match: /[\r\n]/ });
}

const textOfCell = (value: CellValue | undefined): string =>
  value === undefined || value === null ? '' : typeof value === 'object' ? JSON.stringify(value) : String(value);
