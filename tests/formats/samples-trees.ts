/** Formats whose entries lie in trees and streams: nested shapes, folder tables, pointers, chunks, headers between data. */
import { ByteBuilder } from './byte-builder';
import type { SampleEntry, SampleFormat } from './sample';

interface Folder {
  readonly name: string;
  readonly files: SampleEntry[];
  readonly folders: Folder[];
}

function treeOf(entries: readonly SampleEntry[]): Folder {
  const root: Folder = { name: '', files: [], folders: [] };
  for (const entry of entries) {
    let at = root;
    for (const name of entry.path.split('/').slice(0, -1)) {
      let next = at.folders.find((one) => one.name === name);
      if (next === undefined) at.folders.push((next = { name, files: [], folders: [] }));
      at = next;
    }
    at.files.push(entry);
  }
  return root;
}
const nameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);

export const nestedTree: SampleFormat = {
  name: 'a tree of folders inside one another',
  grows: true,
  removes: true,
  recipe: `
recipe: nested-tree
title: Nested tree
revision: 1
numbers: little
match: { at: 0, bytes: TREE }
shapes:
  header:
    - { field: magic, as: ascii(4), must: TREE }
    - { field: data, as: u32, is: start(data) }
  folder:
    - { field: name, as: text(u8, utf-8), is: folder.name }
    - { field: fileCount, as: u16, is: count(files) }
    - { field: folderCount, as: u16, is: count(folders) }
    - { field: files, as: file[fileCount] }
    - { field: folders, as: folder[folderCount] }
  file:
    - { field: name, as: text(u8, utf-8), is: entry.name }
    - { field: at, as: u32, is: entry.at - start(data) }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
  - { region: tree, at: 8, holds: folder }
  - { region: data, at: head.data, holds: entries, align: 16 }
presents: archive
entries:
  each: file in tree
  path: join(folder.path, file.name)
  at: file.at + head.data
  stored: file.size
  size: file.size
  folders: { each: folder in tree, name: folder.name }
`,
  make: (entries) => {
    const ordered: SampleEntry[] = [];
    const collect = (folder: Folder) => {
      ordered.push(...folder.files);
      folder.folders.forEach(collect);
    };
    const root = treeOf(entries);
    collect(root);
    const places = new Map<string, number>();
    const data = new ByteBuilder();
    for (const { path, bytes } of ordered) {
      data.align(16);
      places.set(path, data.length);
      data.raw(bytes);
    }
    const tree = new ByteBuilder();
    const write = ({ name, files, folders }: Folder) => {
      tree.u8(Buffer.byteLength(name)).text(name).u16(files.length).u16(folders.length);
      for (const { path, bytes } of files) {
        tree
          .u8(Buffer.byteLength(nameOf(path)))
          .text(nameOf(path))
          .u32(places.get(path)!)
          .u32(bytes.length);
      }
      folders.forEach(write);
    };
    write(root);
    const start = Math.ceil((8 + tree.length) / 16) * 16;
    const out = new ByteBuilder().text('TREE').u32(start).raw(tree.bytes()).align(16).raw(data.bytes());
    return [{ name: 'sample.tree', bytes: out.bytes() }];
  },
};

export const folderTable: SampleFormat = {
  name: 'a table of folders with parents, names by number',
  grows: true,
  removes: true,
  recipe: `
recipe: folder-table
title: Folder table
revision: 1
numbers: little
match: { at: 0, bytes: FTAB }
shapes:
  header:
    - { field: magic, as: ascii(4), must: FTAB }
    - { field: folderCount, as: u32, is: count(folders) }
    - { field: fileCount, as: u32, is: count(entries) }
    - { field: namesAt, as: u32, is: start(names) }
    - { field: namesLength, as: u32, is: length(names) }
  dir:
    - { field: parent, as: i32, is: folder.parent }
    - { field: name, as: u32, is: index-of(names, folder.name) }
  file:
    - { field: folder, as: u32, is: entry.folder-index }
    - { field: name, as: u32, is: index-of(names, entry.name) }
    - { field: at, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
  - { region: dirs, at: 20, holds: dir[head.folderCount] }
  - { region: files, at: 20 + head.folderCount * 8, holds: file[head.fileCount] }
  - { region: data, holds: entries, align: 4 }
  - { region: names, at: head.namesAt, length: head.namesLength, holds: pool(u8, utf-8) }
presents: archive
entries:
  each: file in files
  path: join(folder.path, names[file.name])
  at: file.at
  stored: file.size
  size: file.size
  folder: file.folder
  folders: { each: dir in dirs, name: "names[dir.name]", parent: dir.parent }
`,
  make: (entries) => {
    const names: string[] = [];
    const numberOf = (name: string) => {
      if (!names.includes(name)) names.push(name);
      return names.indexOf(name);
    };
    const dirs: { parent: number; name: number; path: string }[] = [];
    const visit = (folder: Folder, parent: number, path: string) => {
      dirs.push({ parent, name: numberOf(folder.name), path });
      const self = dirs.length - 1;
      for (const inner of folder.folders) visit(inner, self, path === '' ? inner.name : `${path}/${inner.name}`);
    };
    visit(treeOf(entries), -1, '');
    const start = 20 + dirs.length * 8 + entries.length * 16;
    const data = new ByteBuilder();
    const files = entries.map(({ path, bytes }) => {
      const folder = dirs.findIndex((dir) => dir.path === path.slice(0, Math.max(0, path.lastIndexOf('/'))));
      data.align(4);
      const at = start + data.length;
      data.raw(bytes);
      return { folder, name: numberOf(nameOf(path)), at, size: bytes.length };
    });
    const pool = new ByteBuilder();
    for (const name of names) pool.u8(Buffer.byteLength(name)).text(name);
    const out = new ByteBuilder()
      .text('FTAB')
      .u32(dirs.length)
      .u32(files.length)
      .u32(start + data.length)
      .u32(pool.length);
    for (const { parent, name } of dirs) out.u32(parent).u32(name);
    for (const { folder, name, at, size } of files) out.u32(folder).u32(name).u32(at).u32(size);
    out.raw(data.bytes()).raw(pool.bytes());
    return [{ name: 'sample.ftab', bytes: out.bytes() }];
  },
};

export const chunkStream: SampleFormat = {
  name: 'a stream of chunks without a table, names in the chunk before, unknown chunks between',
  removes: true,
  recipe: `
recipe: chunk-stream
title: Chunk stream
revision: 1
numbers: big
match: { at: 0, bytes: CHNK }
shapes:
  stream:
    - { field: magic, as: ascii(4), must: CHNK }
    - { field: size, as: u32, is: length(chunks) }
    - { field: chunks, as: chunk[in size] }
  chunk:
    - { field: tag, as: ascii(4) }
    - { field: size, as: u32, is: length(body) }
    - { field: body, by: tag, as: { NAME: "text(size, utf-8)", FILE: filed, else: bytes(size) } }
    - { field: pad, as: pad(2) }
    - { field: crc, as: u32, is: crc32(bytes(tag..body)) }
  filed:
    - { field: size, as: u32, is: entry.size }
    - { field: bytes, as: data(outer.size - 4) }
regions:
  - { region: all, at: 0, holds: stream }
presents: archive
entries:
  each: chunk in all.chunks
  only: chunk.tag == "FILE"
  path: before(chunk, chunk.tag == "NAME").body
  data: chunk.body.bytes
  size: chunk.body.size
  through: [{ when: chunk.body.size != chunk.size - 4, use: zlib }]
`,
  make: (entries) => {
    const chunks = new ByteBuilder(false);
    const chunk = (tag: string, body: Uint8Array) => {
      const start = new ByteBuilder(false).text(tag).u32(body.length).raw(body).bytes();
      chunks.raw(start);
      // Chunks are padded in the file, whose first 8 bytes come before.
      chunks.align(2);
      let value = 0xffffffff;
      for (const byte of start) {
        value ^= byte;
        for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
      }
      chunks.u32(~value);
    };
    chunk('VERS', Uint8Array.of(1, 2, 3));
    for (const { path, bytes } of entries) {
      chunk('NAME', Buffer.from(path));
      chunk('FILE', new ByteBuilder(false).u32(bytes.length).raw(bytes).bytes());
      chunk('what', Uint8Array.of(0xca, 0xfe));
    }
    const out = new ByteBuilder(false).text('CHNK').u32(chunks.length).raw(chunks.bytes());
    return [{ name: 'sample.chnk', bytes: out.bytes() }];
  },
};

export const pointerTree: SampleFormat = {
  name: 'a tree of pointers, tables lying apart between the data',
  removes: false,
  recipe: `
recipe: pointer-tree
title: Pointer tree
revision: 1
numbers: little
match: { at: 0, bytes: PTRS }
shapes:
  header:
    - { field: magic, as: ascii(4), must: PTRS }
    - { field: rootAt, as: u32, is: start(root) }
    - { field: root, as: table, at: rootAt }
  table:
    - { field: count, as: u32, is: count(files) }
    - { field: nextAt, as: u32, is: start(next) }
    - { field: files, as: file[count] }
    - { field: next, as: table, at: nextAt, when: nextAt != 0 }
  file:
    - { field: nameAt, as: u32, is: start(name) }
    - { field: at, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
    - { field: name, as: text(zero, utf-8), at: nameAt, is: entry.path }
regions:
  - { region: head, at: 0, holds: header }
  - { region: data, holds: entries }
presents: archive
entries:
  each: file in head
  path: file.name
  at: file.at
  stored: file.size
  size: file.size
`,
  make: (entries) => {
    const out = new ByteBuilder().text('PTRS');
    const groups = [entries.slice(0, 2), entries.slice(2)].filter((group, i) => i === 0 || group.length > 0);
    const sizes = groups.map((group) => 8 + group.length * 12);
    // Table, its names, its data; then the next.
    let at = 8;
    const places: { table: number; names: number[]; data: number[] }[] = [];
    for (const [i, group] of groups.entries()) {
      const place = { table: at, names: [] as number[], data: [] as number[] };
      at += sizes[i]!;
      for (const { path } of group) {
        place.names.push(at);
        at += Buffer.byteLength(path) + 1;
      }
      for (const { bytes } of group) {
        place.data.push(at);
        at += bytes.length;
      }
      places.push(place);
    }
    out.u32(8);
    for (const [i, group] of groups.entries()) {
      out.u32(group.length).u32(places[i + 1]?.table ?? 0);
      for (const [k, { bytes }] of group.entries())
        out.u32(places[i]!.names[k]!).u32(places[i]!.data[k]!).u32(bytes.length);
      for (const { path } of group) out.textZ(path);
      for (const { bytes } of group) out.raw(bytes);
    }
    return [{ name: 'sample.ptrs', bytes: out.bytes() }];
  },
};
