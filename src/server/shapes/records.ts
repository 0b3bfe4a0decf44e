/** Records as linked tables. */
import { z } from 'zod';
import type { CellValue, Column, Pointer } from '../../core/forms/records';
import { tileMapRule } from '../../core/forms/records/tile-map';
import { path } from './common';

export interface RecordTable {
  readonly id: number;
  readonly name: string;
  readonly rows: number;
  readonly columns: readonly Column[];
}

/** A field that names rows of another table. */
export interface RecordReference {
  /** Table and column, parted by a colon: `parcels/parcel_*.json: to`. */
  readonly field: string;
  readonly to: string;
  /** Rows whose value no row of the other table has; null where one of both is not there. */
  readonly dangling: number | null;
}

export interface RecordTablesAnswer {
  /** False while nobody has gathered them. */
  readonly known: boolean;
  /** Entries have changed since. */
  readonly stale: boolean;
  readonly tables: readonly RecordTable[];
  readonly references: readonly RecordReference[];
}

export interface RecordLine {
  readonly id: number;
  readonly path: string;
  readonly archive: number;
  readonly n: number;
  readonly pointer: Pointer;
  readonly values: Readonly<Record<string, CellValue>>;
  /** Its file is changed: the values are those that the game will have. */
  readonly changed: boolean;
}

export interface RecordsPage {
  readonly total: number;
  readonly rows: readonly RecordLine[];
}

/** Where a value stands, by field. */
export interface WhereAnswer {
  readonly value: string;
  readonly total: number;
  readonly fields: readonly {
    readonly table: number;
    readonly name: string;
    readonly field: string;
    readonly count: number;
  }[];
}

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

/** How a file holds a map of tile layers; null takes it back. */
export const tileMapEdit = tileMapRule.omit({ files: true }).nullable();
export type TileMapEdit = z.output<typeof tileMapEdit>;

export interface TileMapAnswer {
  /** As the profile of the game says. */
  readonly rule: NonNullable<TileMapEdit> | null;
  /** Where it may be, when nobody has said it yet; null where nothing looks like a map. */
  readonly guess: Omit<NonNullable<TileMapEdit>, 'tiles'> | null;
  readonly map: { readonly width: number; readonly height: number; readonly layers: readonly string[] } | null;
  readonly trouble: string | null;
}

/** Layers that are drawn, as numbers with commas; all without it. */
export const tileMapQuery = z.object({
  layers: z
    .string()
    .regex(/^(\d+(,\d+)*)?$/)
    .transform((text) => (text === '' ? [] : text.split(',').map(Number)))
    .optional(),
});
