/** What a game, or a part of it, is made of. */
import { KINDS, type Kind } from '../game';
import { pathOf, type Columns } from './columns';

export interface Share {
  readonly name: string;
  readonly count: number;
  /** Bytes of the entries as the game sees them. */
  readonly bytes: number;
  /** Bytes they take in their archives. */
  readonly stored: number;
}

export interface FolderShare extends Share {
  readonly path: string;
  readonly under: readonly FolderShare[];
}

export interface Overview {
  readonly total: Share;
  /** The largest folders, two deep, below the folder that is looked at. */
  readonly folders: readonly FolderShare[];
  readonly kinds: readonly (Share & { readonly kind: Kind })[];
  readonly archives: readonly (Share & { readonly archive: number })[];
  /** By archive and the number its recipe knows a method by. */
  readonly methods: readonly (Share & { readonly archive: number })[];
  readonly biggest: readonly Place[];
  /** Groups of entries with one content, the most wasteful first, as far as archives keep checksums. */
  readonly duplicates: readonly { readonly size: number; readonly count: number; readonly entries: readonly Place[] }[];
  /** Bytes of all duplicates but the first of each. */
  readonly duplicateBytes: number;
}

export interface Place {
  readonly archive: number;
  readonly n: number;
  readonly path: string;
  readonly kind: Kind;
  readonly size: number;
}

const MOST_FOLDERS = 40;
const MOST_BIGGEST = 50;
const MOST_GROUPS = 50;
const MOST_OF_GROUP = 20;

interface Sum {
  count: number;
  bytes: number;
  stored: number;
}
const SLASH = 0x2f;

/** @param rows of the part that is looked at, by path. @param folder all of them lie below it */
export function overviewOf(columns: Columns, rows: Uint32Array, folder: string): Overview {
  const total = sum();
  const kinds = KINDS.map(sum);
  const archives = new Map<number, Sum>();
  const methods = new Map<number, Sum>();
  for (const row of rows) {
    add(total, columns, row);
    add(kinds[columns.kind[row]!]!, columns, row);
    add(known(archives, columns.archive[row]!), columns, row);
    add(known(methods, columns.archive[row]! * 0x10000 + columns.method[row]!), columns, row);
  }
  const duplicates = duplicatesOf(columns, rows);
  return {
    total: { name: folder, ...total },
    folders: foldersOf(columns, rows, folder),
    kinds: KINDS.map((kind, i) => ({ name: kind, kind, ...kinds[i]! })).filter(({ count }) => count > 0),
    archives: [...archives].map(([archive, of]) => ({ name: '', archive, ...of })).sort(largestFirst),
    methods: [...methods]
      .map(([key, of]) => ({
        name: columns.methods[key % 0x10000]!,
        archive: Math.floor(key / 0x10000),
        ...of,
      }))
      .sort(largestFirst),
    biggest: biggestOf(columns, rows).map((row) => placeOf(columns, row)),
    ...duplicates,
  };
}

const sum = (): Sum => ({ count: 0, bytes: 0, stored: 0 });
const largestFirst = (a: Sum, b: Sum) => b.bytes - a.bytes;

function known<K>(sums: Map<K, Sum>, key: K): Sum {
  let found = sums.get(key);
  if (found === undefined) sums.set(key, (found = sum()));
  return found;
}

function add(to: Sum, { size, stored }: Columns, row: number): void {
  to.count++;
  to.bytes += size[row]!;
  to.stored += stored[row]!;
}

function placeOf(columns: Columns, row: number): Place {
  return {
    archive: columns.archive[row]!,
    n: columns.n[row]!,
    path: pathOf(columns, row),
    kind: KINDS[columns.kind[row]!]!,
    size: columns.size[row]!,
  };
}

/** Rows come by path, so those of a folder are together: a name is made once for each folder and not for each row. */
function foldersOf(columns: Columns, rows: Uint32Array, folder: string): FolderShare[] {
  const { paths, pathAt } = columns;
  const skip = folder === '' ? 0 : Buffer.byteLength(folder) + 1;
  const top = new Map<string, { of: Sum; under: Map<string, Sum> }>();
  let last = '';
  let lastUnder = '';
  let lastFrom: Buffer = Buffer.alloc(0);
  for (const row of rows) {
    const start = pathAt[row]! + skip;
    const end = pathAt[row + 1]!;
    const first = slashIn(paths, start, end);
    const second = first < 0 ? -1 : slashIn(paths, first + 1, end);
    const part = paths.subarray(start, second < 0 ? Math.max(first, start) : second);
    if (!part.equals(lastFrom)) {
      last = first < 0 ? '' : paths.toString('utf8', start, first);
      lastUnder = second < 0 ? '' : paths.toString('utf8', first + 1, second);
      lastFrom = part;
    }
    let group = top.get(last);
    if (group === undefined) top.set(last, (group = { of: sum(), under: new Map() }));
    add(group.of, columns, row);
    add(known(group.under, lastUnder), columns, row);
  }
  const below = folder === '' ? '' : `${folder}/`;
  const largest = [...top].sort(([, a], [, b]) => largestFirst(a.of, b.of)).slice(0, MOST_FOLDERS);
  return largest.map(([name, { of, under }]) => {
    const path = name === '' ? folder : below + name;
    return {
      name,
      path,
      ...of,
      under: [...under]
        .sort(([, a], [, b]) => largestFirst(a, b))
        .slice(0, MOST_FOLDERS)
        .map(([inner, sums]) => ({ name: inner, path: inner === '' ? path : `${path}/${inner}`, ...sums, under: [] })),
    };
  });
}

function slashIn(bytes: Uint8Array, from: number, to: number): number {
  for (let at = from; at < to; at++) if (bytes[at] === SLASH) return at;
  return -1;
}

function biggestOf({ size }: Columns, rows: Uint32Array): number[] {
  let smallest = 0;
  let biggest: number[] = [];
  for (const row of rows) {
    if (size[row]! < smallest) continue;
    biggest.push(row);
    if (biggest.length < MOST_BIGGEST * 20) continue;
    biggest = biggest.sort((a, b) => size[b]! - size[a]!).slice(0, MOST_BIGGEST);
    smallest = size[biggest.at(-1)!]!;
  }
  return biggest.sort((a, b) => size[b]! - size[a]!).slice(0, MOST_BIGGEST);
}

function duplicatesOf(columns: Columns, rows: Uint32Array): Pick<Overview, 'duplicates' | 'duplicateBytes'> {
  const { tag, size } = columns;
  const tagged = rows.filter((row) => tag[row] !== 0 && size[row]! > 0);
  tagged.sort((a, b) => tag[a]! - tag[b]! || size[a]! - size[b]!);
  const groups: { size: number; count: number; from: number }[] = [];
  let duplicateBytes = 0;
  for (let from = 0; from < tagged.length;) {
    const first = tagged[from]!;
    let to = from + 1;
    while (to < tagged.length && tag[tagged[to]!] === tag[first] && size[tagged[to]!] === size[first]) to++;
    if (to - from > 1) {
      groups.push({ size: size[first]!, count: to - from, from });
      duplicateBytes += size[first]! * (to - from - 1);
    }
    from = to;
  }
  groups.sort((a, b) => b.size * (b.count - 1) - a.size * (a.count - 1));
  const duplicates = groups.slice(0, MOST_GROUPS).map(({ from, ...group }) => ({
    ...group,
    entries: Array.from(tagged.subarray(from, from + Math.min(group.count, MOST_OF_GROUP)), (row) =>
      placeOf(columns, row),
    ),
  }));
  return { duplicates, duplicateBytes };
}
