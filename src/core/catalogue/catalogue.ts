/** The catalogue of a game: every entry of every archive, searched, sorted and counted in a fraction of a second. */
import { KINDS, type Kind } from '../game';
import { DELETED, pathOf, rowsBelow, WINS, type Columns } from './columns';
import { foldersUnder, type FolderCount } from './folders';
import { matchRows, termsBeyond, type Places, type Room } from './matching';
import { resolveTexts } from './resolve';
import { overviewOf, type Overview } from './overview';
import { parseSearch, type Term } from './search-line';
import { rowsByValue } from './sorting';

export const CATALOGUE_SORTS = ['path', 'size', 'kind', 'archive'] as const;
export type CatalogueSort = (typeof CATALOGUE_SORTS)[number];

export interface CatalogueQuery {
  readonly search: string;
  /** Only what lies below it; empty for the whole game. */
  readonly folder: string;
  /** One archive alone, whoever wins; otherwise only what wins. */
  readonly archive?: number | undefined;
  readonly sort: CatalogueSort;
  readonly order: 'up' | 'down';
  /** The paths of each set that the search asks for, such as `label:door`. */
  readonly sets: Readonly<Record<string, readonly string[]>>;
}

export interface CatalogueEntry {
  readonly archive: number;
  readonly n: number;
  readonly path: string;
  readonly name: string;
  readonly kind: Kind;
  readonly size: number;
  readonly role: 'wins' | 'covered' | 'removes';
}

export interface CataloguePage {
  readonly total: number;
  readonly bytes: number;
  readonly kinds: Readonly<Partial<Record<Kind, number>>>;
  /** How many lie in each archive that has any, in load order. */
  readonly archives: readonly { readonly id: number; readonly path: string; readonly count: number }[];
  readonly rows: readonly CatalogueEntry[];
}

/** What fits a query, counted. */
interface Answer extends Omit<CataloguePage, 'rows'> {
  readonly ids: Uint32Array;
  readonly query: CatalogueQuery;
  readonly terms: readonly Term[];
  readonly places: Places | undefined;
}

/** Rows and places of answers that are kept, so that the next page or the next letter is at hand. */
const MOST_KEPT_ROWS = 8 << 20;
/** Answers that are kept, however few rows each has. */
const MOST_KEPT = 500;

export class Catalogue {
  private readonly answers = new Map<string, Answer>();
  private kept = 0;
  private readonly archives: readonly (readonly [id: number, path: string])[];
  /** The place of each row's archive in load order. */
  private readonly archiveOf: Uint32Array;
  /** To match in; what is found is copied out of it. */
  private readonly room: Room;
  private readonly sorted = new Map<CatalogueSort, Uint32Array>();

  /** @param archivePaths of the archives by their ids, in load order */
  constructor(
    readonly columns: Columns,
    readonly archivePaths: ReadonlyMap<number, string>,
  ) {
    this.room = { rows: new Uint32Array(columns.count), at: new Uint32Array(columns.count) };
    this.archives = [...archivePaths];
    const places = new Map(this.archives.map(([id], place) => [id, place]));
    this.archiveOf = Uint32Array.from(columns.archive, (id) => places.get(id) ?? places.size);
  }

  /**
   * One page of what fits, with the counts of all that does.
   *
   * @throws FaultError `invalid-request` for a search that means nothing
   */
  page(query: CatalogueQuery, offset: number, limit: number): CataloguePage {
    const { ids, total, bytes, kinds, archives } = this.answer(query);
    return {
      total,
      bytes,
      kinds,
      archives,
      rows: Array.from(ids.subarray(offset, offset + limit), (row) => this.entry(row)),
    };
  }

  /** The paths at places of an answer: `ranges` are pairs of the first place and the one behind the last. */
  paths(query: CatalogueQuery, ranges: readonly (readonly [from: number, to: number])[]): string[] {
    const { ids } = this.answer(query);
    return ranges.flatMap(([from, to]) => Array.from(ids.subarray(from, to), (row) => pathOf(this.columns, row)));
  }

  /** The same as archives and numbers of entries, two columns of one length; by archive, and in each by number. */
  numbers(
    query: CatalogueQuery,
    ranges: readonly (readonly [from: number, to: number])[],
  ): { archive: Uint32Array; n: Uint32Array } {
    const { ids } = this.answer(query);
    const { archive, n } = this.columns;
    const chosen = Uint32Array.from(ranges.flatMap(([from, to]) => Array.from(ids.subarray(from, to))));
    chosen.sort((a, b) => archive[a]! - archive[b]! || n[a]! - n[b]!);
    return { archive: chosen.map((row) => archive[row]!), n: chosen.map((row) => n[row]!) };
  }

  /** The entries that texts found in a file of `folder` represent. */
  resolve(texts: readonly string[], folder: string): string[] {
    return resolveTexts(this.columns, texts, folder);
  }

  /** The place of an entry in an answer; -1 when it is not in it. */
  placeOf(query: CatalogueQuery, archive: number, n: number): number {
    const { columns } = this;
    return this.answer(query).ids.findIndex((row) => columns.archive[row] === archive && columns.n[row] === n);
  }

  folders(parent: string, archive?: number): FolderCount[] {
    return foldersUnder(this.columns, parent, archive);
  }

  /** What all that fits is made of. */
  overview(query: CatalogueQuery): Overview {
    return overviewOf(this.columns, this.answer({ ...query, sort: 'path', order: 'up' }).ids, query.folder);
  }

  private entry(row: number): CatalogueEntry {
    const { archive, n, size, kind, flags } = this.columns;
    const path = pathOf(this.columns, row);
    return {
      archive: archive[row]!,
      n: n[row]!,
      path,
      name: path.slice(path.lastIndexOf('/') + 1),
      kind: KINDS[kind[row]!]!,
      size: size[row]!,
      role: (flags[row]! & DELETED) !== 0 ? 'removes' : (flags[row]! & WINS) !== 0 ? 'wins' : 'covered',
    };
  }

  private answer(query: CatalogueQuery): Answer {
    const key = JSON.stringify(query);
    const known = this.answers.get(key);
    if (known !== undefined) {
      // What was asked last goes last.
      this.answers.delete(key);
      this.answers.set(key, known);
      return known;
    }
    const made = this.make(query);
    this.answers.set(key, made);
    const lengthOf = ({ ids, places }: Answer) => ids.length + (places?.at.length ?? 0);
    this.kept += lengthOf(made);
    for (const [old, answer] of this.answers) {
      if ((this.kept <= MOST_KEPT_ROWS && this.answers.size <= MOST_KEPT) || old === key) break;
      this.answers.delete(old);
      this.kept -= lengthOf(answer);
    }
    return made;
  }

  private make(query: CatalogueQuery): Answer {
    const terms = parseSearch(query.search);
    const range = rowsBelow(this.columns, query.folder);
    const order = { terms, range, archive: query.archive, archivePaths: this.archivePaths, sets: query.sets };
    const wider = this.wider(query, terms);
    const byPath = query.sort === 'path' && query.order === 'up';
    if (wider === undefined) {
      const { rows, places } = matchRows(this.columns, order, this.room);
      // Places go with rows in the order of their paths.
      const kept = byPath ? keptPlaces(places) : undefined;
      return { ...this.count(this.inOrder(rows, query).slice()), query, terms, places: kept };
    }
    const known = { rows: wider.answer.ids, byPath, places: wider.answer.places };
    const { rows, places } = matchRows(this.columns, { ...order, terms: wider.beyond }, this.room, known);
    // A letter more that leaves nothing out: the same rows serve both.
    const counted = rows.length === known.rows.length ? wider.answer : this.count(rows.slice());
    return { ...counted, query, terms, places: places === known.places ? places : keptPlaces(places) };
  }

  /** The smallest answer kept that holds all which fits: mostly that to the line with a letter less. */
  private wider(
    query: CatalogueQuery,
    terms: readonly Term[],
  ): { readonly answer: Answer; readonly beyond: readonly Term[] } | undefined {
    const place = ({ folder, archive, sort, order, sets }: CatalogueQuery) =>
      JSON.stringify([folder, archive, sort, order, sets]);
    const here = place(query);
    let best: { readonly answer: Answer; readonly beyond: readonly Term[] } | undefined;
    for (const answer of this.answers.values()) {
      const most = best?.answer.ids.length ?? Infinity;
      if (answer.ids.length > most || place(answer.query) !== here) continue;
      const beyond = termsBeyond(terms, answer.terms);
      if (beyond === undefined) continue;
      // Of two with the same rows, the one that leaves less to ask; the newer one knows more of what is typed.
      if (answer.ids.length < most || beyond.length <= best!.beyond.length) best = { answer, beyond };
    }
    return best;
  }

  /** Rows come by path; by another column they are taken from the order of all rows, which is made once. */
  private inOrder(ids: Uint32Array, { sort, order }: CatalogueQuery): Uint32Array {
    if (sort !== 'path') {
      const all = this.orderBy(sort);
      const fits = new Uint8Array(this.columns.count);
      for (const row of ids) fits[row] = 1;
      let count = 0;
      for (const row of all) if (fits[row] === 1) ids[count++] = row;
    }
    return order === 'up' ? ids : ids.reverse();
  }

  private orderBy(sort: Exclude<CatalogueSort, 'path'>): Uint32Array {
    let rows = this.sorted.get(sort);
    if (rows === undefined) {
      const { columns } = this;
      const values = sort === 'size' ? columns.size : sort === 'kind' ? columns.kind : this.archiveOf;
      this.sorted.set(sort, (rows = rowsByValue(values)));
    }
    return rows;
  }

  private count(ids: Uint32Array): Omit<Answer, 'query' | 'terms' | 'places'> {
    const { kind, size } = this.columns;
    const { archiveOf } = this;
    const kinds = new Uint32Array(KINDS.length);
    const inArchive = new Uint32Array(this.archives.length);
    let bytes = 0;
    for (let i = 0; i < ids.length; i++) {
      const row = ids[i]!;
      kinds[kind[row]!]!++;
      bytes += size[row]!;
      inArchive[archiveOf[row]!]!++;
    }
    return {
      ids,
      total: ids.length,
      bytes,
      kinds: Object.fromEntries(KINDS.flatMap((name, i) => (kinds[i]! > 0 ? [[name, kinds[i]!]] : []))),
      archives: this.archives.flatMap(([id, path], i) =>
        inArchive[i]! > 0 ? [{ id, path, count: inArchive[i]! }] : [],
      ),
    };
  }
}

/** Copied out of the room. */
const keptPlaces = (places: Places | undefined): Places | undefined =>
  places === undefined ? undefined : { ...places, at: places.at.slice() };
