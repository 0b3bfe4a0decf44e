/** Records as linked tables. */
import { z } from 'zod';
import { tileMapRule } from '../../core/forms/records/tile-map';
import { path } from './common';

const scalar = z.union([z.string(), z.number(), z.boolean(), z.null()]);
const cellValue = z.union([scalar, z.array(scalar).readonly()]);
/** A place in a file: names and positions from the outside in; for text by lines, the line first. */
const pointer = z.array(z.union([z.string(), z.number()])).readonly();
const column = z.object({
  name: z.string(),
  kind: z.enum(['whole', 'number', 'text', 'yes-no', 'list', 'mixed']),
  /** Rows that have no such value. */
  empty: z.number(),
  /** Of numbers. */
  low: z.number().nullable(),
  high: z.number().nullable(),
});

export const recordTable = z.object({
  id: z.number(),
  name: z.string(),
  rows: z.number(),
  columns: z.array(column).readonly(),
});
export type RecordTable = Readonly<z.output<typeof recordTable>>;

/** A field that names rows of another table. */
export const recordReference = z.object({
  /** Table and column, parted by a colon: `parcels/parcel_*.json: to`. */
  field: z.string(),
  to: z.string(),
  /** Rows whose value no row of the other table has; null where one of both is not there. */
  dangling: z.number().nullable(),
});
export type RecordReference = Readonly<z.output<typeof recordReference>>;

export const recordTablesAnswer = z.object({
  /** False until they have been read. */
  known: z.boolean(),
  /** Entries have changed since. */
  stale: z.boolean(),
  tables: z.array(recordTable).readonly(),
  references: z.array(recordReference).readonly(),
});
export type RecordTablesAnswer = Readonly<z.output<typeof recordTablesAnswer>>;

export const recordLine = z.object({
  id: z.number(),
  path: z.string(),
  archive: z.number(),
  n: z.number(),
  pointer: pointer,
  values: z.record(z.string(), cellValue),
  /** Its file is changed: the values are those that the game will have. */
  changed: z.boolean(),
});
export type RecordLine = Readonly<z.output<typeof recordLine>>;

export const recordsPage = z.object({
  total: z.number(),
  rows: z.array(recordLine).readonly(),
});
export type RecordsPage = Readonly<z.output<typeof recordsPage>>;

/** Where a value is, by field. */
export const whereAnswer = z.object({
  value: z.string(),
  total: z.number(),
  fields: z
    .array(
      z.object({
        table: z.number(),
        name: z.string(),
        field: z.string(),
        count: z.number(),
      }),
    )
    .readonly(),
});
export type WhereAnswer = Readonly<z.output<typeof whereAnswer>>;

export const recordsQuery = z.object({
  table: z.coerce.number().int().positive(),
  /** In any value of a row. */
  search: z.string().max(200).default(''),
  /** Only rows that have a value in a column. */
  column: z.string().max(300).optional(),
  value: z.string().max(200).optional(),
  /** Only rows whose reference leads nowhere. */
  dangling: z.stringbool().or(z.boolean()).default(false),
  sort: z.string().max(300).optional(),
  order: z.enum(['up', 'down']).default('up'),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export type RecordsQuery = z.output<typeof recordsQuery>;

export const whereQuery = z.object({ value: z.string().trim().min(1).max(200) });

export const cellEdit = z.strictObject({
  path,
  pointer: z.array(z.union([z.string().max(500), z.number().int().min(0)])).max(64),
  table: z.number().int().positive(),
  column: z.string().min(1).max(300),
  typed: z.string().max(1 << 16),
  /** Written although no row is called so. */
  anyway: z.boolean().default(false),
});

export type CellEdit = z.output<typeof cellEdit>;

const field = z.string().min(3).max(300);

export const referenceEdit = z.strictObject({ field, to: field.nullable() });

export type ReferenceEdit = z.output<typeof referenceEdit>;

const tileMap = tileMapRule.omit({ files: true });
/** How a file holds a map of tile layers; null takes it back. */
export const tileMapEdit = tileMap.nullable();
export type TileMapEdit = z.output<typeof tileMapEdit>;

export const tileMapAnswer = z.object({
  /** As the profile of the game says. */
  rule: tileMap.nullable(),
  /** A guess where it is, until a user says; null where nothing looks like a map. */
  guess: tileMap.omit({ tiles: true }).nullable(),
  map: z
    .object({
      width: z.number(),
      height: z.number(),
      layers: z.array(z.string()).readonly(),
    })
    .nullable(),
  trouble: z.string().nullable(),
});
export type TileMapAnswer = Readonly<z.output<typeof tileMapAnswer>>;

/** Layers that are drawn, as numbers with commas; all without it. */
export const tileMapQuery = z.object({
  layers: z
    .string()
    .regex(/^(\d+(,\d+)*)?$/)
    .transform((text) => (text === '' ? [] : text.split(',').map(Number)))
    .optional(),
});
