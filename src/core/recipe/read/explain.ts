/** What every byte of a region is: the fields with their offsets, read again with a trace. */
import { bufferSource } from '../../bytes';
import { scopeOf } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { ReadContext } from '../model';
import type { OpenedArchive } from './opened-archive';
import { readingBudget } from './budget';
import { FileFlow } from './flow';
import { readRegion, type FoundRegion } from './read-region';
import { readRowFlow } from './read-row';
import { Tables, type Table } from './table';

export interface ExplainedField {
  readonly region: string;
  readonly shape: string;
  /** Row in the table of its shape, in reading order. */
  readonly row: number;
  readonly field: string;
  /** Offset in the volume, or in the plain bytes of the region when `unlocked`. */
  readonly at: number;
  readonly length: number;
  readonly volume: number;
  readonly unlocked: boolean;
  readonly value: string;
  /** The formula, when the field has one. */
  readonly formula: string | undefined;
  /** What it must be, when the recipe says so. */
  readonly must: string | undefined;
  readonly line: number;
}

type Wanted = (shape: string, row: number, at: number, end: number) => boolean;

/** The fields of a region that `wanted` picks, in the order of their bytes. At most `most` of them. */
export async function explainRegion(
  archive: OpenedArchive,
  found: FoundRegion,
  wanted: Wanted,
  most = Infinity,
): Promise<ExplainedField[]> {
  const fields: ExplainedField[] = [];
  const { source } = archive.volumes[found.volume]!;
  const trace = gather(found, wanted, fields);
  await readRegion(found.region, {
    source,
    volume: found.volume,
    facts: archive.facts,
    limits: archive.limits,
    budget: readingBudget(archive.limits, source.size),
    trace: (...args) => {
      if (fields.length < most) trace(...args);
    },
  });
  return fields;
}

function gather(found: FoundRegion, wanted: Wanted, fields: ExplainedField[]): NonNullable<ReadContext['trace']> {
  return (field, shape, row, at, end, value) => {
    // A nested shape is listed field by field; its own line would only repeat them.
    if (!['value', 'data', 'pool'].includes(field.kind.type.kind) || !wanted(shape.name, row, at, end)) return;
    fields.push({
      region: found.region.name,
      shape: shape.name,
      row,
      field: field.name,
      at,
      length: end - at,
      volume: found.volume,
      unlocked: found.unlocked,
      value: showValue(value),
      formula: field.is?.text,
      must: field.must?.text,
      line: field.line,
    });
  };
}

/** The recipe's fields that describe one entry. */
export async function explainEntry(archive: OpenedArchive, entry: number): Promise<ExplainedField[]> {
  const { recipe, entries } = archive;
  const rule = recipe.entries;
  const tables: [Table, number, number][] = [[entries.rows, entries.row(entry), rule.each.region]];
  for (const [i, table] of entries.beside.entries())
    tables.push([table, entries.besideRow(i, entry), rule.beside[i]!.region]);
  const fields: ExplainedField[] = [];
  for (const [table, row, region] of tables)
    fields.push(...(await explainRow(archive, archive.regions.get(region)!, table, row)));
  return fields;
}

/** One row is read again by itself; where that needs what is around it, the whole region is. */
async function explainRow(
  archive: OpenedArchive,
  found: FoundRegion,
  table: Table,
  row: number,
): Promise<ExplainedField[]> {
  const unlocked = found.unlocked;
  const source = unlocked ? bufferSource(found.plain!) : archive.volumes[found.volume]!.source;
  const at = table.start(row);
  const flow = new FileFlow(source, at, source.size, archive.limits.maxRegionBytes, archive.limits.windowBytes);
  const tables = new Tables();
  const fields: ExplainedField[] = [];
  const trace = gather(found, () => true, fields);
  try {
    await readRowFlow(table.shape, tables.of(table.shape), flow, {
      scope: { ...scopeOf(archive.facts), volume: found.volume },
      limits: archive.limits,
      tables,
      beyond: 0,
      depth: 0,
      held: 0,
      needed: 0,
      budget: readingBudget(archive.limits, source.size),
      elsewhere: undefined,
      trace,
    });
    return fields.map((one) => (one.shape === table.shape.name ? { ...one, row } : one));
  } catch {
    const { name } = table.shape;
    return explainRegion(archive, found, (shape, number) => shape === name && number === row);
  }
}

/** The field a byte of a volume belongs to, when it is in a region that can be read without unlocking. */
export async function fieldAt(
  archive: OpenedArchive,
  volume: number,
  offset: number,
): Promise<ExplainedField | undefined> {
  for (const found of archive.regions.values()) {
    const inside = found.volume === volume && offset >= found.at && offset < found.at + found.length;
    if (!inside || found.column === undefined || found.unlocked) continue;
    const fields = await explainRegion(archive, found, (_shape, _row, at, end) => offset >= at && offset < end, 1);
    return fields[0];
  }
  return undefined;
}

/** The name of the region a byte of a volume belongs to. */
export function regionAt(archive: OpenedArchive, volume: number, offset: number): string | undefined {
  return [...archive.regions.values()].find(
    (found) => found.volume === volume && offset >= found.at && offset < found.at + found.length,
  )?.region.name;
}
