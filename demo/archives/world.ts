/**
 * Writes the world: `world.idx` and the volumes `world.000`, `world.001`, … next to it.
 *
 * The index knows entries by the hash of their path alone, sorted; 24 bits say the sector and eight the volume. Every entry
 * is cut into blocks of 64 KiB, each packed by itself with zstd or, where that does not help, stored raw.
 */
import { createHash } from 'node:crypto';
import { compress, init } from '@bokuweb/zstd-wasm';
import { ByteBuilder } from './byte-builder';
import type { ArchiveEntry, ArchiveFile } from './entry';

const SECTOR = 512;
const BLOCK = 64 << 10;
const RAW = 0x8000_0000;

/** Once: the library breaks without a word when it is started a third time. */
let zstdReady: Promise<void> | undefined;

/** @param volumes the entries of each volume, in the order of their places */
export async function writeWorld(volumes: readonly (readonly ArchiveEntry[])[]): Promise<ArchiveFile[]> {
  await (zstdReady ??= init() as Promise<void>);
  const rows: { hash: bigint; sector: number; volume: number; size: number }[] = [];
  const files = volumes.map((entries, volume) => {
    const out = new ByteBuilder();
    for (const { path, bytes } of entries) {
      out.align(SECTOR);
      rows.push({ hash: pathHash(path), sector: out.length / SECTOR, volume, size: bytes.length });
      writeBlocks(out, bytes);
    }
    return { name: `world.${String(volume).padStart(3, '0')}`, bytes: out.bytes() };
  });
  rows.sort((a, b) => (a.hash < b.hash ? -1 : 1));
  const table = new ByteBuilder();
  for (const { hash, sector, volume, size } of rows)
    table
      .u64(hash)
      .u32(sector + volume * 2 ** 24)
      .u32(size);
  const index = new ByteBuilder()
    .text('WIDX')
    .u16(2) // version
    .u16(volumes.length)
    .u32(rows.length)
    .u32(SECTOR)
    .raw(createHash('sha1').update(table.bytes()).digest())
    .raw(table.bytes());
  return [{ name: 'world.idx', bytes: index.bytes() }, ...files];
}

function writeBlocks(out: ByteBuilder, bytes: Uint8Array): void {
  const blocks: Uint8Array[] = [];
  for (let at = 0; at < bytes.length; at += BLOCK) {
    const plain = bytes.subarray(at, at + BLOCK);
    const packed = compress(Buffer.from(plain), 12);
    const raw = packed.length >= plain.length;
    out.u32((raw ? plain : packed).length + (raw ? RAW : 0));
    blocks.push(raw ? plain : packed);
  }
  for (const block of blocks) out.raw(block);
}

/** FNV-1a, 64 bits, of the path in lower case with backslashes. */
export function pathHash(path: string): bigint {
  let hash = 0xcbf29ce484222325n;
  for (const byte of Buffer.from(path.toLowerCase().replaceAll('/', '\\')))
    hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash;
}
