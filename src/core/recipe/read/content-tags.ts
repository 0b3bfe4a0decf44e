import { type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { OpenedArchive } from './opened-archive';

/**
 * The checksums an archive keeps of each entry in its row, as a text; undefined where it keeps none. Two versions of an
 * entry that differ have different ones, and nothing has to be unpacked to see it.
 */
export function contentTags({ entries }: OpenedArchive): ((entry: number) => string) | undefined {
  const { rows } = entries;
  const kept = rows.shape.fields.filter(({ is }) => (is?.uses.content.length ?? 0) > 0);
  if (kept.length === 0) return undefined;
  const columns = kept.map(({ index }) => rows.columns[index]!);
  const say = (value: Value) => (typeof value === 'number' ? value.toString(36) : showValue(value));
  return (entry) => columns.map((column) => say(column.get(entries.row(entry)))).join(' ');
}
