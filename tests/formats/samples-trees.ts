/** Formats whose entries lie in trees and streams: nested shapes, folder tables, pointers, chunks, headers between data. */
import { ByteBuilder } from '../../demo/archives/byte-builder';
import { example } from './example';
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
  recipe: example('nested-tree'),
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
  recipe: example('folder-table'),
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
  recipe: example('chunk-stream'),
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
  recipe: example('pointer-tree'),
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
