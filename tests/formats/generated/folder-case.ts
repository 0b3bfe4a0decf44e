/** A table of folders next to the table of files: whole paths, or names and the folder above. */
import type { Dice } from '../../soak/dice';
import { Numbers, up, type MadeEntry } from './common';
import { demand, isZero, nameFromBytes, nameKinds, nameToBytes, type MadeCase, type NameKind } from './made-case';

interface FolderFormat {
  readonly big: boolean;
  readonly name: NameKind;
  /** Folders have whole paths, or names and the number of the folder above. */
  readonly folders: 'paths' | 'parents';
  /** A folder says how many files lie in it, and which is the first: files are then in the order of folders. */
  readonly spans: boolean;
  readonly align: number;
  /** The files' own table comes first. */
  readonly filesFirst: boolean;
}

const NONE = 0xffffffff;
const HEAD = 24;

export function folderCase(dice: Dice): MadeCase {
  const format: FolderFormat = {
    big: dice.chance(0.4),
    name: dice.pick(['fixed', 'prefixed', 'ended']),
    folders: dice.pick(['paths', 'parents']),
    spans: dice.chance(0.4),
    align: dice.pick([1, 4, 32]),
    filesFirst: dice.chance(0.4),
  };
  return {
    format,
    recipe: recipeOf(format),
    write: (entries) => ({ 'made.bin': write(format, entries) }),
    read: (files) => read(format, files['made.bin']!),
  };
}

function recipeOf({ big, name, folders, spans, align, filesFirst }: FolderFormat): string {
  const isTop = `${NONE}`;
  const tables = [
    `  - { region: files, at: head.filesAt, length: head.filesSize, holds: 'file[head.files]'${spans ? ", sort: 'if(folder == 4294967295, -1, folder)'" : ''} }`,
    `  - { region: dirs, at: head.dirsAt, holds: 'dir[head.dirs]' }`,
  ];
  if (!filesFirst) tables.reverse();
  return `recipe: made
title: Made by chance
revision: 1
numbers: ${big ? 'big' : 'little'}
match: { at: 0, bytes: FDIR }
shapes:
  header:
    - { field: magic, as: ascii(4), must: FDIR }
    - { field: dirs, as: u32, is: count(folders) }
    - { field: files, as: u32, is: count(entries) }
    - { field: dirsAt, as: u32, is: start(dirs) }
    - { field: filesAt, as: u32, is: start(files) }
    - { field: filesSize, as: u32, is: length(files) }
  dir:
    - { field: name, as: '${nameKinds[name]}', is: folder.${folders === 'paths' ? 'path' : 'name'} }
${folders === 'parents' ? `    - { field: parent, as: u32, is: 'if(folder.parent < 0, ${isTop}, folder.parent)' }\n` : ''}${spans ? '    - { field: first, as: u32, is: folder.first }\n    - { field: count, as: u32, is: folder.count }\n' : ''}  file:
    - { field: folder, as: u32, is: 'if(entry.folder-index < 0, ${isTop}, entry.folder-index)' }
    - { field: name, as: '${nameKinds[name]}', is: entry.name }
    - { field: at, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
${tables.join('\n')}
  - { region: data, holds: entries${align > 1 ? `, align: ${align}` : ''} }
presents: archive
entries:
  each: file in files
  path: join(folder.path, file.name)
  at: file.at
  stored: file.size
  size: file.size
  folder: 'if(file.folder == ${isTop}, -1, file.folder)'
  folders: { each: dir in dirs, ${folders === 'paths' ? 'path: dir.name' : `name: dir.name, parent: 'if(dir.parent == ${isTop}, -1, dir.parent)'`} }
`;
}

const folderOf = (path: string) => path.slice(0, Math.max(0, path.lastIndexOf('/')));
const nameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1);

/** Every folder that has files, and with names alone those above it, each before what lies in it. */
function foldersOf({ folders }: FolderFormat, entries: readonly MadeEntry[]): string[] {
  const known = new Set<string>();
  for (const { path } of entries) {
    const parts = folderOf(path).split('/');
    for (let depth = folders === 'paths' ? parts.length : 1; depth <= parts.length; depth++) {
      const folder = parts.slice(0, depth).join('/');
      if (folder !== '') known.add(folder);
    }
  }
  return [...known];
}

function write(format: FolderFormat, entries: readonly MadeEntry[]): Buffer {
  const { big, name, folders, spans, align, filesFirst } = format;
  const numbers = new Numbers(big);
  const dirs = foldersOf(format, entries);
  const numberOf = (folder: string) => (folder === '' ? NONE : dirs.indexOf(folder));
  const rows = [...entries];
  const place = (entry: MadeEntry) => dirs.indexOf(folderOf(entry.path));
  if (spans) rows.sort((a, b) => place(a) - place(b));
  const dirTable = Buffer.concat(
    dirs.flatMap((folder) => {
      const inside = rows.flatMap(({ path }, i) => (folderOf(path) === folder ? [i] : []));
      return [
        nameToBytes(name, folders === 'paths' ? folder : nameOf(folder)),
        ...(folders === 'parents' ? [numbers.u32(numberOf(folderOf(folder)))] : []),
        ...(spans ? [numbers.u32(inside[0] ?? 0), numbers.u32(inside.length)] : []),
      ];
    }),
  );
  const fileTable = (ats: readonly number[]) =>
    Buffer.concat(
      rows.flatMap(({ path, bytes }, i) => [
        numbers.u32(numberOf(folderOf(path))),
        nameToBytes(name, nameOf(path)),
        numbers.u32(ats[i] ?? 0),
        numbers.u32(bytes.length),
      ]),
    );
  const filesSize = fileTable([]).length;
  const dirsAt = HEAD + (filesFirst ? filesSize : 0);
  const filesAt = HEAD + (filesFirst ? 0 : dirTable.length);
  let end = HEAD + dirTable.length + filesSize;
  const ats: number[] = [];
  const data = rows.flatMap(({ bytes }) => {
    const at = up(end, align);
    const fill = Buffer.alloc(at - end);
    ats.push(at);
    end = at + bytes.length;
    return [fill, bytes];
  });
  const facts = [dirs.length, rows.length, dirsAt, filesAt, filesSize].map((value) => numbers.u32(value));
  const tables = filesFirst ? [fileTable(ats), dirTable] : [dirTable, fileTable(ats)];
  return Buffer.concat([Buffer.from('FDIR'), ...facts, ...tables, ...data]);
}

function read(format: FolderFormat, file: Buffer): ReadonlyMap<string, Buffer> {
  const numbers = new Numbers(format.big);
  demand(file.subarray(0, 4).toString() === 'FDIR', 'no magic');
  const [dirCount, fileCount, dirsAt, filesAt, filesSize] = [4, 8, 12, 16, 20].map((at) => numbers.read(file, at)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const dirs: { path: string; first: number; count: number }[] = [];
  let at = dirsAt;
  const u32 = () => {
    at += 4;
    return numbers.read(file, at - 4);
  };
  for (let i = 0; i < dirCount; i++) {
    const { name, next } = nameFromBytes(format.name, file, at);
    at = next;
    const parent = format.folders === 'parents' ? u32() : NONE;
    demand(parent === NONE || parent < i, `${name} lies in a folder that comes later`);
    const path = parent === NONE ? name : `${dirs[parent]!.path}/${name}`;
    demand(name !== '' && dirs.every((one) => one.path !== path), `a folder called ${path} again`);
    const [first, count] = format.spans ? [u32(), u32()] : [0, 0];
    dirs.push({ path, first, count });
  }
  const dirsEnd = at;
  const found = new Map<string, Buffer>();
  const taken: [number, number][] = [
    [0, HEAD],
    [dirsAt, dirsEnd],
    [filesAt, filesAt + filesSize],
  ];
  const inside = dirs.map(() => [] as number[]);
  at = filesAt;
  for (let i = 0; i < fileCount; i++) {
    const folder = u32();
    demand(folder === NONE || folder < dirs.length, `file ${i} lies in no folder`);
    const { name, next } = nameFromBytes(format.name, file, at);
    at = next;
    const path = folder === NONE ? name : `${dirs[folder]!.path}/${name}`;
    const [from, size] = [u32(), u32()];
    demand(name !== '' && !name.includes('/') && !found.has(path), `a file called ${path}`);
    demand(from + size <= file.length && (size === 0 || from % format.align === 0), `${path}: lies wrong`);
    if (folder !== NONE) inside[folder]!.push(i);
    if (size > 0) taken.push([from, from + size]);
    found.set(path, file.subarray(from, from + size));
  }
  demand(at === filesAt + filesSize, 'bytes behind the files');
  if (format.spans)
    for (const [i, { path, first, count }] of dirs.entries()) {
      const files = inside[i]!;
      demand(count === files.length, `${path} does not hold ${count} files`);
      demand(
        count === 0 || (first === files[0] && files.at(-1) === first + count - 1),
        `${path} is not in one stretch`,
      );
    }
  let end = 0;
  for (const [from, to] of taken.sort((a, b) => a[0] - b[0] || a[1] - b[1])) {
    demand(from >= end, `two parts overlap at ${from}`);
    demand(isZero(file.subarray(end, from)), `something unknown before ${from}`);
    end = to;
  }
  demand(isZero(file.subarray(end)) && file.length < end + format.align, 'bytes behind the end');
  return found;
}
