/** The tree: folders right under a folder, with how much lies below each. */
import { lowerBound, rowsBelow, WINS, type Columns } from './columns';

export interface FolderCount {
  readonly name: string;
  readonly path: string;
  /** Entries anywhere below. */
  readonly count: number;
  /** True when it has folders of its own. */
  readonly folders: boolean;
}

const SLASH = 0x2f;

/** @param archive only what this archive holds, whoever wins; otherwise only what wins */
export function foldersUnder(columns: Columns, parent: string, archive?: number): FolderCount[] {
  const { paths, pathAt, winsBefore } = columns;
  const [from, to] = rowsBelow(columns, parent);
  const skip = parent === '' ? 0 : Buffer.byteLength(parent) + 1;
  const folders: FolderCount[] = [];
  for (let row = from; row < to;) {
    const start = pathAt[row]! + skip;
    const slash = paths.indexOf(SLASH, start);
    if (slash < 0 || slash >= pathAt[row + 1]!) {
      // A file right here.
      row++;
      continue;
    }
    const beyond = Buffer.concat([paths.subarray(pathAt[row], slash), Buffer.from('0')]);
    const end = lowerBound(columns, beyond, row, to);
    const count = archive === undefined ? winsBefore[end]! - winsBefore[row]! : countOf(columns, row, end, archive);
    if (count > 0) {
      const name = paths.toString('utf8', start, slash);
      folders.push({
        name,
        path: parent === '' ? name : `${parent}/${name}`,
        count,
        folders: hasFolders(columns, row, end, slash - pathAt[row]! + 1, archive),
      });
    }
    row = end;
  }
  return folders;
}

function countOf({ archive: archives }: Columns, from: number, to: number, archive: number): number {
  let count = 0;
  for (let row = from; row < to; row++) if (archives[row] === archive) count++;
  return count;
}

function hasFolders(columns: Columns, from: number, to: number, skip: number, archive: number | undefined): boolean {
  const { paths, pathAt, flags, archive: archives } = columns;
  for (let row = from; row < to; row++) {
    if (archive === undefined ? (flags[row]! & WINS) === 0 : archives[row] !== archive) continue;
    for (let at = pathAt[row]! + skip; at < pathAt[row + 1]!; at++) if (paths[at] === SLASH) return true;
  }
  return false;
}
