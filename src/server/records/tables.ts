/** Tables of records as they were gathered, and the fields that refer from one to another. */
import type { Note } from '../../core/notes';
import { QueryTypes } from 'sequelize';
import type { CellValue } from '../../core/forms/records';
import { database } from '../database';
import { profileOf, requireGame } from '../games';
import type { RecordTable } from '../shapes';
import { recordsOf } from './read';

export function select<T extends object>(sql: string, bind: readonly unknown[]): Promise<T[]> {
  return database().query<T>(sql, { bind: [...bind], type: QueryTypes.SELECT });
}

export const tablesOf = (gameId: number): Promise<RecordTable[]> =>
  select<RecordTable>('select id, name, rows, columns from record_tables where game_id = $1 order by name', [gameId]);

/** A field as a person declares it: the table and the column. */
export function placeOf(tables: readonly RecordTable[], field: string): { table: number; column: string } | undefined {
  const at = field.lastIndexOf(': ');
  const table = tables.find(({ name }) => name === field.slice(0, at));
  const column = field.slice(at + 2);
  return table?.columns.some(({ name }) => name === column) === true ? { table: table.id, column } : undefined;
}

/**
 * References of a file of records that lead nowhere, each with its place, in sentences.
 *
 * @param bytes as the game is to have it
 */
export async function danglingIn(gameId: number, path: string, bytes: Uint8Array): Promise<Note[]> {
  const { references } = profileOf(await requireGame(gameId));
  if (references.length === 0) return [];
  const tables = await tablesOf(gameId);
  const notes: Note[] = [];
  for (const { table, pointer, values } of await recordsOf(gameId, bytes, path))
    for (const { field, to } of references) {
      const at = field.lastIndexOf(': ');
      const [value, target] = [values[field.slice(at + 2)], placeOf(tables, to)];
      if (field.slice(0, at) !== table || value == null || target === undefined) continue;
      for (const one of Array.isArray(value) ? (value as CellValue[]) : [value]) {
        const [found] = await select<{ count: number }>(
          'select count(*)::int as count from record_values where table_id = $1 and field = $2 and value = $3',
          [target.table, target.column, String(one)],
        );
        if (found!.count === 0)
          notes.push({
            code: 'record-dangling',
            ...{ at: [...pointer, field.slice(at + 2)].join('.'), value: String(one), to },
          });
      }
    }
  return notes;
}
