/** What was found in a file as an archive: a table that is made here, and the file as its second volume. */
import { KIND_NAMES, type Kind } from '../game';
import { compileRecipe, type Recipe } from '../recipe';
import type { Found, FoundMethod } from './carve';

const METHODS: readonly FoundMethod[] = ['stored', 'zlib', 'gzip', 'zstd', 'lz4-frame'];

/** The recipe that reads such a table; it is no format of any game, and is never matched with files. */
export const FOUND_RECIPE = 'found-inside';

const TEXT = `
recipe: ${FOUND_RECIPE}
title: Found inside
revision: 1
numbers: little
volumes: { table: "{name}", file: "{name}" }
shapes:
  head:
    - { field: count, as: u32, is: count(entries) }
  row:
    - { field: at,     as: u64, is: entry.at }
    - { field: stored, as: u64, is: entry.stored }
    - { field: size,   as: u64, is: entry.size }
    - { field: method, as: u8, values: { 0: stored, 1: zlib, 2: gzip, 3: zstd, 4: lz4-frame }, new: stored }
    - { field: path,   as: "text(u16, utf-8)", is: entry.path }
regions:
  - { region: head, at: 0, holds: head }
  - { region: rows, at: length(head), holds: "row[head.count]" }
  - { region: data, volume: file, holds: entries }
presents: archive
entries:
  each: row in rows
  path: row.path
  volume: file
  at: row.at
  stored: row.stored
  size: row.size
  method: row.method
  methods: { stored: [], zlib: zlib, gzip: gzip, zstd: zstd, lz4-frame: lz4-frame }
`;

let compiled: Recipe | undefined;

export function foundRecipe(): Recipe {
  return (compiled ??= compileRecipe(TEXT));
}

const folderOf = (kind: Kind): string => (kind === 'bytes' ? 'streams' : KIND_NAMES[kind].folder);

/** A thing in a file, as a row of the table. */
export interface ListedBytes {
  readonly path: string;
  readonly at: number;
  readonly stored: number;
  readonly size: number;
  readonly method: FoundMethod;
}

/** The bytes of the table, for things that have names. */
export function listingTable(rows: readonly ListedBytes[]): Uint8Array {
  const head = Buffer.alloc(4);
  head.writeUInt32LE(rows.length);
  const bytes = rows.flatMap(({ path, at, stored, size, method }) => {
    const name = Buffer.from(path);
    const row = Buffer.alloc(27);
    row.writeBigUInt64LE(BigInt(at), 0);
    row.writeBigUInt64LE(BigInt(stored), 8);
    row.writeBigUInt64LE(BigInt(size), 16);
    row.writeUInt8(METHODS.indexOf(method), 24);
    row.writeUInt16LE(name.length, 25);
    return [row, name];
  });
  return new Uint8Array(Buffer.concat([head, ...bytes]));
}

/** What was found, as rows; things are called by their offsets. */
export function listFound(found: readonly Found[]): ListedBytes[] {
  return found.map(({ at, stored, size, method, kind, extension }) => ({
    path: `${folderOf(kind)}/${at.toString(16).padStart(8, '0')}.${extension}`,
    ...{ at, stored, size, method },
  }));
}
