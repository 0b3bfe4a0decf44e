/** What an instance of a shape in the new file represents. */
import type { Fields } from '../../formula/value';
import type { Table } from '../../read/table';
import type { InstanceKey } from './places';

/** One row of a table that was read. */
export interface FoundRow {
  readonly table: Table;
  readonly row: number;
}

export interface Identity {
  /** The row it was read from. */
  readonly base: FoundRow | undefined;
  /** The entry, folder and block it belongs to. */
  readonly out: number | undefined;
  readonly folder: number | undefined;
  readonly block: number | undefined;
  readonly key: InstanceKey;
  /** The region whose bytes it lies in; -1 for the shape around an entry. */
  readonly region: number;
  /** Its position in the list it is an item of, or lies in. */
  readonly index: number;
  /** The instance it lies in; undefined at the top of a region, and where that is not known. */
  readonly parent?: DraftParent | undefined;
  /** It lies in no other instance. */
  readonly isTop?: boolean;
  /** For a new one: the row whose values it takes where no formula gives them. */
  readonly template?: FoundRow | undefined;
  /** For a new item that is made for what lies in it: the entry or folder it brings. */
  readonly brings?: Brought | undefined;
}

/** The instance around another, as far as formulas need it. */
export interface DraftParent extends Fields {
  readonly identity: Identity;
}

/** What a new item of a list is made for, when the row itself lies inside it. */
export interface Brought {
  readonly entry?: number;
  readonly folder?: number;
}

/** An instance in a region that represents nothing by itself. */
export function plainIdentity(region: number, key: InstanceKey): Identity {
  return { base: undefined, out: undefined, folder: undefined, block: undefined, key, region, index: 0, isTop: true };
}
