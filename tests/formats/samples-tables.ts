/** Formats with a table of entries: in front, at the end, in arrays side by side, with pools, sorted, hashed. */
import { createHash } from 'node:crypto';
import * as zlib from 'node:zlib';
import { ByteBuilder } from './byte-builder';
import type { SampleFormat } from './sample';

const crc = (bytes: Uint8Array): number => {
  let value = 0xffffffff;
  for (const byte of bytes) {
    value ^= byte;
    for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
  }
  return ~value >>> 0;
};

export const endFooter: SampleFormat = {
  name: 'an index at the end, found through a footer, names in a pool',
  grows: true,
  removes: true,
  recipe: `
recipe: end-footer
title: End footer archive
revision: 1
numbers: little
match: { at: -4, bytes: FOOT }
shapes:
  footer:
    - { field: names, as: u32, is: start(names) }
    - { field: namesLength, as: u32, is: length(names) }
    - { field: index, as: u32, is: start(index) }
    - { field: count, as: u32, is: count(entries) }
    - { field: magic, as: ascii(4), must: FOOT }
  row:
    - { field: name, as: varint, is: place(names, entry.path) }
    - { field: at, as: u64, is: entry.at }
    - { field: kept, as: varint, is: entry.stored }
    - { field: size, as: varint, is: entry.size }
    - { field: flags, as: u8, parts: { packed: { bits: 0, is: entry.stored != entry.size }, more: { bits: 1..7, new: 0 } } }
    - { field: crc, as: u32, is: crc32(entry.data), when: flags.packed }
regions:
  - { region: data, holds: entries, align: 8, fill: 0xEE }
  - { region: names, at: foot.names, length: foot.namesLength, holds: pool(zero, utf-8) }
  - { region: index, at: foot.index, holds: row[foot.count] }
  - { region: foot, at: end - 20, holds: footer }
presents: archive
entries:
  each: row in index
  path: text-at(names, row.name)
  at: row.at
  stored: row.kept
  size: row.size
  through: [{ when: row.flags.packed, use: deflate }]
`,
  make: (entries) => {
    const out = new ByteBuilder();
    const rows = entries.map(({ path, bytes }) => {
      out.align(8, 0xee);
      const packed = zlib.deflateRawSync(bytes);
      const stored = packed.length < bytes.length ? packed : bytes;
      const at = out.length;
      out.raw(stored);
      return { path, at, stored, bytes };
    });
    const namesAt = out.length;
    const offsets = new Map<string, number>();
    for (const { path } of rows) {
      offsets.set(path, out.length - namesAt);
      out.textZ(path);
    }
    const namesLength = out.length - namesAt;
    const indexAt = out.length;
    for (const { path, at, stored, bytes } of rows) {
      const packed = stored.length !== bytes.length;
      out
        .varint(offsets.get(path)!)
        .u64(at)
        .varint(stored.length)
        .varint(bytes.length)
        .u8(packed ? 1 : 0);
      if (packed) out.u32(crc(bytes));
    }
    out.u32(namesAt).u32(namesLength).u32(indexAt).u32(rows.length).text('FOOT');
    return [{ name: 'sample.foot', bytes: out.bytes() }];
  },
};

function fnv(text: string): bigint {
  let hash = 0xcbf29ce484222325n;
  for (const byte of Buffer.from(text)) hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash;
}

export const hashedVolumes: SampleFormat = {
  name: 'an index with hashed names and numbered volumes of sectors',
  grows: true,
  removes: true,
  hashed: true,
  recipe: `
recipe: hashed-volumes
title: Hashed volumes
revision: 1
numbers: big
match: { at: 0, bytes: "HV01" }
volumes:
  main: "{stem}.idx"
  data: { file: "{stem}.{n:000}", limit: 8192 }
shapes:
  header:
    - { field: magic, as: ascii(4), must: HV01 }
    - { field: count, as: u32, is: count(entries) }
    - { field: volumes, as: u16, is: volumes() }
    - { field: sum, as: bytes(20), is: sha1(plain(table)) }
  row:
    - { field: hash, as: u64, is: entry.hash }
    - { field: place, as: u32, parts: { sector: { bits: 0..23, is: entry.at / 512 }, volume: { bits: 24..31, is: entry.volume } } }
    - { field: size, as: u24, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
  - { region: table, at: length(head), holds: row[head.count], sort: hash }
  - { region: sectors, volume: data, holds: entries, align: 512 }
presents: archive
entries:
  each: row in table
  hash: row.hash
  hashing: fnv1a-64(lower(replace(entry.path, "/", "\\\\")))
  volume: data[row.place.volume]
  at: row.place.sector * 512
  stored: row.size
  size: row.size
`,
  make: (entries) => {
    const volumes: ByteBuilder[] = [new ByteBuilder(false)];
    const rows = entries.map(({ path, bytes }) => {
      let volume = volumes.at(-1)!;
      volume.align(512);
      if (volume.length > 0 && volume.length + bytes.length > 8192) volumes.push((volume = new ByteBuilder(false)));
      const sector = volume.length / 512;
      volume.raw(bytes);
      const hash = fnv(path.replaceAll('/', '\\').toLowerCase());
      return { hash, sector, volume: volumes.length - 1, size: bytes.length };
    });
    rows.sort((a, b) => (a.hash < b.hash ? -1 : 1));
    const table = new ByteBuilder(false);
    for (const { hash, sector, volume, size } of rows)
      table
        .u64(hash)
        .u32(sector + volume * 0x1000000)
        .u24(size);
    const main = new ByteBuilder(false).text('HV01').u32(rows.length).u16(volumes.length);
    main.raw(createHash('sha1').update(table.bytes()).digest()).raw(table.bytes());
    return [
      { name: 'world.idx', bytes: main.bytes() },
      ...volumes.map((one, i) => ({ name: `world.${String(i).padStart(3, '0')}`, bytes: one.bytes() })),
    ];
  },
};

export const arraysBeside: SampleFormat = {
  name: 'arrays side by side, offsets as differences, endianness told by the file, time stamps, a hash over the whole file',
  ordered: true,
  grows: true,
  removes: true,
  recipe: `
recipe: arrays-beside
title: Arrays beside
revision: 1
numbers: { from: head.order, little: 0x4949, big: 0x4D4D }
match: [{ at: 0, bytes: "II" }, { at: 0, bytes: "MM" }]
let: { base: length(head) + head.count * 12 + length(names) }
shapes:
  header:
    - { field: order, as: u16, numbers: little, must: [0x4949, 0x4D4D] }
    - { field: version, as: u16, must: 1..3, new: 2 }
    - { field: count, as: u32, is: count(entries) }
    - { field: namesLength, as: u32, is: length(names) }
    - { field: check, as: bytes(16), is: md5(blanked(span(0, end))) }
  place: [{ field: gap, as: u32, is: entry.at - if(entry.index == 0, start(data), previous.end) }]
  size: [{ field: bytes, as: u32, is: entry.size }]
  stamp: [{ field: at, as: time(unix), is: entry.time, new: 0 }]
  name: [{ field: text, as: text(u8, utf-16), is: entry.path }]
regions:
  - { region: head, at: 0, holds: header }
  - { region: places, at: length(head), holds: place[head.count] }
  - { region: sizes, at: start(places) + head.count * 4, holds: size[head.count] }
  - { region: times, at: start(sizes) + head.count * 4, holds: stamp[head.count] }
  - { region: names, at: start(times) + head.count * 4, length: head.namesLength, holds: name[head.count] }
  - { region: data, holds: entries, align: 4, fill: 0xFF }
presents: archive
entries:
  each: name in names
  beside: [place in places, size in sizes, stamp in times]
  path: name.text
  at: if(entry.index == 0, start(data), previous.end) + place.gap
  stored: size.bytes
  size: size.bytes
  time: stamp.at
`,
  make: (entries) => {
    const big = entries.length % 2 === 1;
    const names = new ByteBuilder(!big);
    for (const { path } of entries) {
      const bytes = Buffer.from(path, 'utf16le');
      names.u8(path.length).raw(big ? bytes.swap16() : bytes);
    }
    const start = 28 + entries.length * 12 + names.length;
    const data = new ByteBuilder();
    const gaps = new ByteBuilder(!big);
    const sizes = new ByteBuilder(!big);
    const times = new ByteBuilder(!big);
    const aligned = Math.ceil(start / 4) * 4;
    let end = aligned;
    data.fill(aligned - start, 0xff);
    for (const [i, { bytes }] of entries.entries()) {
      const at = Math.ceil(end / 4) * 4;
      data.fill(at - end, 0xff).raw(bytes);
      gaps.u32(at - end);
      sizes.u32(bytes.length);
      times.u32(1_700_000_000 + i);
      end = at + bytes.length;
    }
    const whole = (check: Uint8Array) =>
      new ByteBuilder(!big)
        .text(big ? 'MM' : 'II')
        .u16(2)
        .u32(entries.length)
        .u32(names.length)
        .raw(check)
        .raw(gaps.bytes())
        .raw(sizes.bytes())
        .raw(times.bytes())
        .raw(names.bytes())
        .raw(data.bytes())
        .bytes();
    const check = createHash('md5')
      .update(whole(new Uint8Array(16)))
      .digest();
    return [{ name: 'sample.arr', bytes: whole(check) }];
  },
};
