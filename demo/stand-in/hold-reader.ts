/** Reads a `.hold` archive as a game does: every rule is checked, and the first that is broken stops it. */
import { createDecipheriv } from 'node:crypto';
import { inflateSync } from 'node:zlib';
import { crc32 } from './crc';
import { decodeLz4Block } from './lz4';
import { LoadStop } from './report';

const ALIGN = 16;
const HEAD_BYTES = 64;
const MAX_PATH_BYTES = 200;

export interface HoldRow {
  readonly path: string;
  readonly at: number;
  readonly kept: number;
  readonly size: number;
  readonly crc: number;
  readonly how: number;
  /** A marker: the entry of that path in the archives before is gone. */
  readonly deleted: boolean;
}

export interface Hold {
  readonly file: string;
  readonly release: string;
  readonly rows: readonly HoldRow[];
  /** @throws LoadStop when the entry does not decode or its checksum differs */
  bytes(row: HoldRow): Buffer;
}

export function readHold(file: string, archive: Buffer, key: Buffer): Hold {
  const stop = (code: string, offset: number, rule: string, found: unknown): never => {
    throw new LoadStop({ code, file, offset, rule, found: String(found) });
  };
  if (archive.length < HEAD_BYTES)
    stop('HOLD-SHORT', archive.length, `An archive has a head of ${HEAD_BYTES} bytes.`, archive.length);
  const magic = archive.toString('latin1', 0, 4);
  if (magic !== 'HOLD') stop('HOLD-MAGIC', 0, 'An archive starts with HOLD.', magic);
  const version = archive.readUInt16LE(4);
  if (version !== 3) stop('HOLD-VERSION', 4, 'This game reads version 3.', version);
  const flags = archive.readUInt16LE(6);
  if (flags !== 1) stop('HOLD-FLAGS', 6, 'The index is locked, and the flag says so.', flags);
  const count = archive.readUInt32LE(8);
  const indexAt = Number(archive.readBigUInt64LE(16));
  const indexSize = archive.readUInt32LE(24);
  const indexCrc = archive.readUInt32LE(28);
  if (indexAt % ALIGN !== 0) stop('HOLD-ALIGN', 16, `The index starts at a multiple of ${ALIGN}.`, indexAt);
  if (indexAt + indexSize !== archive.length)
    stop('HOLD-END', 24, 'The index ends where the file ends.', `${indexAt + indexSize} of ${archive.length}`);
  if (indexSize === 0 || indexSize % 16 !== 0)
    stop('HOLD-INDEX-SIZE', 24, 'The locked index is made of whole blocks.', indexSize);
  const index = unlock(archive.subarray(indexAt), key, archive.subarray(32, 48));
  if (index === undefined)
    return stop('HOLD-KEY', indexAt, 'The index unlocks with the key of this program.', 'bad padding');
  if (crc32(index) !== indexCrc) stop('HOLD-INDEX-CRC', 28, 'The checksum of the index agrees.', crc32(index));
  if (index.toString('latin1', 0, 4) !== 'ROWS')
    stop('HOLD-ROWS', indexAt, 'The index starts with ROWS.', index.toString('hex', 0, 4));
  const rows = readRows(file, index, count, indexAt);
  checkLayout(file, archive, rows, indexAt);
  return {
    file,
    release: archive.toString('latin1', 48, 64).replace(/\0+$/, ''),
    rows,
    bytes: (row) => decode(file, archive, row),
  };
}

function unlock(locked: Buffer, key: Buffer, iv: Buffer): Buffer | undefined {
  const decipher = createDecipheriv('aes-256-cbc', key, iv);
  try {
    return Buffer.concat([decipher.update(locked), decipher.final()]);
  } catch {
    return undefined;
  }
}

function readRows(file: string, index: Buffer, count: number, indexAt: number): HoldRow[] {
  const rows: HoldRow[] = [];
  const seen = new Set<string>();
  let at = 4;
  const stop = (code: string, rule: string, found: unknown): never => {
    throw new LoadStop({ code, file, offset: indexAt + at, rule, found: String(found) });
  };
  for (let i = 0; i < count; i++) {
    if (at + 2 > index.length)
      stop('HOLD-ROWS-SHORT', 'The index has as many rows as the head says.', `${i} of ${count}`);
    const length = index.readUInt16LE(at);
    if (at + 2 + length + 22 > index.length) stop('HOLD-ROWS-SHORT', 'A row lies inside the index.', `row ${i}`);
    const path = index.toString('utf8', at + 2, at + 2 + length);
    if (length === 0 || length > MAX_PATH_BYTES)
      stop('HOLD-PATH-LENGTH', `A path has 1 to ${MAX_PATH_BYTES} bytes.`, length);
    if (!/^[a-z0-9_]+(\/[a-z0-9_]+)*\.[a-z0-9]+$/.test(path))
      stop('HOLD-PATH', 'A path is lower case letters, digits and _, with / between folders.', path);
    if (seen.has(path)) stop('HOLD-TWICE', 'A path stands in an archive once.', path);
    seen.add(path);
    const rest = at + 2 + length;
    const tag = index.readUInt8(rest + 21);
    if (tag > 1) stop('HOLD-TAG', 'Only the tag for what is gone is known.', tag);
    if (tag === 1 && index.subarray(rest, rest + 21).some((byte) => byte !== 0))
      stop('HOLD-GONE', 'What is gone has no place, size or checksum.', path);
    rows.push({
      path,
      at: Number(index.readBigUInt64LE(rest)),
      kept: index.readUInt32LE(rest + 8),
      size: index.readUInt32LE(rest + 12),
      crc: index.readUInt32LE(rest + 16),
      how: index.readUInt8(rest + 20),
      deleted: tag === 1,
    });
    at = rest + 22;
  }
  if (at !== index.length) stop('HOLD-ROWS-LONG', 'Nothing stands behind the last row.', `${index.length - at} bytes`);
  return rows;
}

function checkLayout(file: string, archive: Buffer, rows: readonly HoldRow[], indexAt: number): void {
  let end = HEAD_BYTES;
  for (const row of rows.filter(({ deleted }) => !deleted).sort((a, b) => a.at - b.at || a.kept - b.kept)) {
    const stop = (code: string, rule: string, found: unknown): never => {
      throw new LoadStop({ code, file, offset: row.at, rule, found: `${row.path}: ${String(found)}` });
    };
    if (row.at % ALIGN !== 0) stop('HOLD-ALIGN', `Every entry starts at a multiple of ${ALIGN}.`, row.at);
    if (row.at < end)
      stop('HOLD-OVERLAP', 'Entries do not overlap.', `starts at ${row.at}, the one before ends at ${end}`);
    if (row.at + row.kept > indexAt) stop('HOLD-OUTSIDE', 'Entries lie before the index.', row.at + row.kept);
    for (let i = end; i < row.at; i++)
      if (archive[i] !== 0)
        stop('HOLD-FILL', 'Space between entries is filled with zeros.', `byte ${archive[i]} at ${i}`);
    end = row.at + row.kept;
  }
}

function decode(file: string, archive: Buffer, row: HoldRow): Buffer {
  const stop = (code: string, rule: string, found: unknown): never => {
    throw new LoadStop({ code, file, entry: row.path, offset: row.at, rule, found: String(found) });
  };
  const stored = archive.subarray(row.at, row.at + row.kept);
  let plain: Buffer | undefined;
  if (row.how === 0) plain = stored;
  else if (row.how === 1) plain = inflate(stored);
  else if (row.how === 2) plain = decodeLz4Block(stored, row.size);
  else stop('HOLD-HOW', 'An entry is stored, zlib or LZ4.', row.how);
  if (plain === undefined) return stop('HOLD-UNPACK', 'Every entry unpacks.', `method ${row.how}`);
  if (plain.length !== row.size)
    stop('HOLD-SIZE', 'An entry unpacks to the size in its row.', `${plain.length} instead of ${row.size}`);
  if (crc32(plain) !== row.crc) stop('HOLD-CRC', 'The checksum of an entry agrees.', crc32(plain).toString(16));
  return plain;
}

function inflate(stored: Buffer): Buffer | undefined {
  try {
    return inflateSync(stored, { maxOutputLength: 64 << 20 });
  } catch {
    return undefined;
  }
}
