/**
 * Writes the props: `props.crate`, objects with a type, a number and a name that need not be the only one of its kind, and
 * `props.crate.bulk`, from which the game streams what is large.
 */
import { crc32 } from '@node-rs/crc32';
import { ByteBuilder } from './byte-builder';
import type { ArchiveFile } from './entry';

export interface CrateObject {
  readonly type: string;
  readonly id: bigint;
  readonly name: string;
  readonly bytes: Uint8Array;
}

const HEAD_BYTES = 32;
const ROW_BYTES = 36;
/** From this size on, the bytes are streamed. */
const FAR_BYTES = 1024;

export function writeCrate(objects: readonly CrateObject[], release: string): ArchiveFile[] {
  const types = [...new Set(objects.map(({ type }) => type))];
  const typeNames = new ByteBuilder();
  for (const type of types) typeNames.text8(type);
  const names = new ByteBuilder();
  const nameAt = new Map<string, number>();
  for (const { name } of objects) {
    if (nameAt.has(name)) continue;
    nameAt.set(name, names.length);
    names.textZ(name);
  }
  const tablesEnd = HEAD_BYTES + typeNames.length + objects.length * ROW_BYTES + names.length;
  const near = new ByteBuilder().fill(tablesEnd);
  const far = new ByteBuilder().text('BULK').text(release.padEnd(12, '\0'));
  const rows = new ByteBuilder();
  for (const { type, id, name, bytes } of objects) {
    const isFar = bytes.length >= FAR_BYTES;
    const out = isFar ? far.align(16) : near.align(8);
    rows
      .u16(types.indexOf(type))
      .u16(isFar ? 1 : 0)
      .i64(id)
      .u32(nameAt.get(name)!)
      .u64(out.length)
      .u32(bytes.length)
      .u32(crc32(bytes))
      .u32(0); // spare
    out.raw(bytes);
  }
  const head = new ByteBuilder()
    .text('CRAT')
    .u16(5) // version
    .u16(types.length)
    .u32(objects.length)
    .u32(typeNames.length)
    .u32(names.length)
    .text(release.padEnd(12, '\0'));
  const main = new ByteBuilder()
    .raw(head.bytes())
    .raw(typeNames.bytes())
    .raw(rows.bytes())
    .raw(names.bytes())
    .raw(near.bytes().subarray(tablesEnd));
  return [
    { name: 'props.crate', bytes: main.bytes() },
    { name: 'props.crate.bulk', bytes: far.bytes() },
  ];
}
