/**
 * Writes a `.hold` archive, field by field, without the recipe engine: what the recipe says about the format is thereby
 * checked against a second hand.
 */
import { createCipheriv, createHash } from 'node:crypto';
import { crc32 } from '@node-rs/crc32';
import { deflateSync } from 'node:zlib';
import { compressSync } from 'lz4-napi';
import type { ArchiveEntry } from './entry';

export const HOLD_ALIGN = 16;
const HEAD_BYTES = 64;

export interface HoldEntry extends ArchiveEntry {
  /** A marker: the entry of that path in the archives before is gone. Its bytes are empty. */
  readonly deleted?: boolean;
}

export interface HoldFacts {
  /** 32 bytes. */
  readonly key: Uint8Array;
  /** Shown by the game; at most 16 ASCII characters. */
  readonly release: string;
  /** Seconds since 1970. */
  readonly built: number;
}

export function writeHold(entries: readonly HoldEntry[], facts: HoldFacts): Buffer {
  const data: Buffer[] = [];
  const rows: Buffer[] = [Buffer.from('ROWS', 'latin1')];
  let at = HEAD_BYTES;
  for (const { path, bytes, deleted } of entries) {
    if (deleted === true) {
      rows.push(row(path, 0, 0, 0, 0, 0, 1));
      continue;
    }
    const { how, stored } = pack(path, Buffer.from(bytes));
    const padding = (HOLD_ALIGN - (at % HOLD_ALIGN)) % HOLD_ALIGN;
    data.push(Buffer.alloc(padding), stored);
    at += padding;
    rows.push(row(path, at, stored.length, bytes.length, crc32(Buffer.from(bytes)), how, 0));
    at += stored.length;
  }
  const padding = (HOLD_ALIGN - (at % HOLD_ALIGN)) % HOLD_ALIGN;
  data.push(Buffer.alloc(padding));
  at += padding;
  const plain = Buffer.concat(rows);
  const iv = createHash('sha256').update(facts.release).update(facts.key).digest().subarray(0, 16);
  const cipher = createCipheriv('aes-256-cbc', facts.key, iv);
  const index = Buffer.concat([cipher.update(plain), cipher.final()]);
  const head = Buffer.alloc(HEAD_BYTES);
  head.write('HOLD', 0, 'latin1'); //             0 - magic
  head.writeUInt16LE(3, 4); //                    4 - version
  head.writeUInt16LE(1, 6); //                    6 - flags: bit 0 means the index is locked
  head.writeUInt32LE(entries.length, 8); //       8 - count
  head.writeUInt32LE(facts.built, 12); //        12 - built
  head.writeBigUInt64LE(BigInt(at), 16); //      16 - indexAt
  head.writeUInt32LE(index.length, 24); //       24 - indexSize
  head.writeUInt32LE(crc32(plain), 28); //       28 - indexCrc
  iv.copy(head, 32); //                          32 - iv
  head.write(facts.release, 48, 16, 'latin1'); // 48 - release
  return Buffer.concat([head, ...data, index]);
}

function pack(path: string, bytes: Buffer): { how: number; stored: Buffer } {
  if (/\.(json|txt|mesh|clip)$/.test(path)) {
    const stored = deflateSync(bytes, { level: 9 });
    if (stored.length < bytes.length) return { how: 1, stored };
  }
  if (/\.(wav|tex|texfar)$/.test(path)) {
    // The library keeps the plain size in front of the block.
    const stored = compressSync(bytes).subarray(4);
    if (stored.length < bytes.length) return { how: 2, stored };
  }
  return { how: 0, stored: bytes };
}

function row(path: string, at: number, kept: number, size: number, crc: number, how: number, tag: number): Buffer {
  const name = Buffer.from(path, 'utf8');
  const bytes = Buffer.alloc(2 + name.length + 22);
  bytes.writeUInt16LE(name.length, 0);
  name.copy(bytes, 2);
  const rest = 2 + name.length;
  bytes.writeBigUInt64LE(BigInt(at), rest);
  bytes.writeUInt32LE(kept, rest + 8);
  bytes.writeUInt32LE(size, rest + 12);
  bytes.writeUInt32LE(crc, rest + 16);
  bytes.writeUInt8(how, rest + 20);
  bytes.writeUInt8(tag, rest + 21); // bit 0: deleted
  return bytes;
}
