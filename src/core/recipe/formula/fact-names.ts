/** What formulas may ask of an entry, a block, a volume and a folder. */
import type { FieldType, Uses } from '../model';
import { invalid } from './call-targets';
import { ANY, NUMBER, TEXT, type Names, type Piece } from './names';
import type { BlockFacts, EntryFacts, FolderFacts, Scope, Value } from './value';

const ENTRY_FACTS: Readonly<Record<string, { type: FieldType; layout?: boolean; get(entry: EntryFacts): Value }>> = {
  index: { type: NUMBER, layout: true, get: (entry) => entry.index },
  path: { type: TEXT, get: (entry) => entry.path },
  name: { type: TEXT, get: (entry) => entry.path.slice(entry.path.lastIndexOf('/') + 1) },
  folder: { type: TEXT, get: (entry) => entry.path.slice(0, Math.max(0, entry.path.lastIndexOf('/'))) },
  'folder-index': { type: NUMBER, layout: true, get: (entry) => entry.folderIndex },
  at: { type: NUMBER, layout: true, get: (entry) => entry.at },
  end: { type: NUMBER, layout: true, get: (entry) => entry.at + entry.stored },
  stored: { type: NUMBER, get: (entry) => entry.stored },
  size: { type: NUMBER, get: (entry) => entry.size },
  method: { type: ANY, get: (entry) => entry.method },
  volume: { type: NUMBER, layout: true, get: (entry) => entry.volume },
  'volume-set': { type: TEXT, layout: true, get: (entry) => entry.volumeSet },
  time: { type: NUMBER, get: (entry) => entry.time },
  deleted: { type: NUMBER, get: (entry) => entry.deleted },
  hash: { type: ANY, get: (entry) => entry.hash },
  id: { type: ANY, get: (entry) => entry.id },
  'first-block': { type: NUMBER, layout: true, get: (entry) => entry.firstBlock },
  'block-count': { type: NUMBER, get: (entry) => entry.blockCount },
};

/** The facts of entries that formulas can name. */
export const ENTRY_FACT_NAMES: readonly string[] = [...Object.keys(ENTRY_FACTS), 'room'];

export function compileEntry(which: 'entry' | 'previous', property: string, names: Names, uses: Uses): Piece {
  if (!names.entry)
    throw invalid(`there is no ${which} here`, 'in the rows of the entries, in `wrap`, and in `entries`');
  uses.entry.add(which === 'previous' ? 'previous' : property);
  if (which === 'previous') {
    uses.layout = uses.place = true;
    const fact = ENTRY_FACTS[property];
    if (fact === undefined) throw invalid(`an entry has no ${property}`, `one of ${ENTRY_FACT_NAMES.join(', ')}`);
    // Before the first entry everything is 0.
    return { type: fact.type, evaluate: (scope) => (scope.previous === undefined ? 0 : fact.get(scope.previous)) };
  }
  if (property === 'room') {
    uses.layout = uses.place = true;
    return { type: NUMBER, evaluate: (scope) => scope.room };
  }
  const fact = ENTRY_FACTS[property];
  if (fact === undefined) {
    const hint =
      property === 'data' || property === 'packed' ? `Bytes can only be hashed: crc32(entry.${property}).` : undefined;
    throw invalid(`an entry has no ${property}`, `one of ${ENTRY_FACT_NAMES.join(', ')}, data, packed`, hint);
  }
  if (fact.layout) uses.layout = uses.place = true;
  return {
    type: fact.type,
    // Rows that hold no entry see nothing.
    evaluate: (scope) => (scope.entry === undefined ? undefined : fact.get(scope.entry)),
  };
}

const BLOCK_FACTS: Readonly<Record<string, (block: BlockFacts, scope: Scope) => Value>> = {
  index: (block) => block.index,
  number: (block) => block.number,
  at: (block) => block.at,
  place: (block, { entry }) => block.place ?? (entry === undefined ? undefined : entry.at + block.at),
  stored: (block) => block.stored,
  size: (block) => block.size,
  raw: (block) => block.raw,
  uses: (block, { file }) => file.blockUses(block.number),
};

export function compileBlock(property: string, names: Names, uses: Uses): Piece {
  const fact = BLOCK_FACTS[property];
  if (!names.block) throw invalid('there is no block here', 'where entries have `blocks`');
  if (fact === undefined) throw invalid(`a block has no ${property}`, `one of ${Object.keys(BLOCK_FACTS).join(', ')}`);
  uses.entry.add('block');
  if (property === 'place') uses.layout = uses.place = true;
  if (property === 'number' || property === 'uses') uses.layout = true;
  return {
    type: NUMBER,
    evaluate: (scope) => (scope.block === undefined ? undefined : fact(scope.block, scope)),
  };
}

const FOLDER_FACTS: Readonly<Record<string, { type: FieldType; get(folder: FolderFacts): Value }>> = {
  index: { type: NUMBER, get: (folder) => folder.index },
  path: { type: TEXT, get: (folder) => folder.path },
  name: { type: TEXT, get: (folder) => folder.name },
  parent: { type: NUMBER, get: (folder) => folder.parent },
  count: { type: NUMBER, get: (folder) => folder.count },
  first: { type: NUMBER, get: (folder) => folder.first },
  all: { type: NUMBER, get: (folder) => folder.all },
  folders: { type: NUMBER, get: (folder) => folder.folders },
};

export function compileVolume(property: string, uses: Uses): Piece {
  uses.layout = uses.place = true;
  if (property === 'number') return { type: NUMBER, evaluate: (scope) => scope.file.volumeFacts(scope.volume).number };
  if (property === 'count') return { type: NUMBER, evaluate: (scope) => scope.file.volumeFacts(scope.volume).count };
  if (property === 'size') return { type: NUMBER, evaluate: (scope) => scope.file.volumeSize(scope.volume) };
  throw invalid(`a volume has no ${property}`, 'one of number, count, size');
}

export function compileFolder(property: string, names: Names, uses: Uses): Piece {
  const fact = FOLDER_FACTS[property];
  if (!names.folder) throw invalid('there is no folder here', 'where entries have `folders`');
  if (fact === undefined)
    throw invalid(`a folder has no ${property}`, `one of ${Object.keys(FOLDER_FACTS).join(', ')}`);
  if (property !== 'path' && property !== 'name') uses.layout = uses.place = true;
  uses.entry.add('folder');
  return { type: fact.type, evaluate: (scope) => (scope.folder === undefined ? undefined : fact.get(scope.folder)) };
}
