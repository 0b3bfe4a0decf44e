/** Where the path, bytes and packing of each entry are stored. */
import type { Scope, Value } from '../formula/value';
import type { Formula } from './formula';
import type { Check, Shape } from './shape';
import type { Step } from './region';
import type { SoundRule, FilmRule, WordsRule, LanguagesRule } from './entry-forms';

/** How an entry was packed: the value of the method field, or the set of steps whose `when` held, as a bit mask. */
export type Method = Value;

/** A name that represents the row of each entry, or of each block or folder. */
export interface Binding {
  readonly name: string;
  readonly region: number;
  readonly fieldPath: readonly number[];
  readonly shape: Shape;
  /** True when all instances of the shape anywhere below count, not the items of one list. */
  readonly anywhere: boolean;
  /** For a table beside whose rows say by a number which row of the entries each belongs to. */
  readonly by?: Formula | undefined;
}

export interface BlocksRule {
  readonly line: number;
  /** Plain bytes of every block but the last. */
  readonly size: Formula;
  readonly stored: Formula;
  readonly through: readonly Step[];
  readonly align: number;
  /** The table of blocks, where it is one for all entries. */
  readonly each: Binding | undefined;
  readonly first: Formula | undefined;
  /** The number of a block in the table, where entries name theirs one by one and may share them. */
  readonly number: Formula | undefined;
  /** How many there are, where each has a size of its own. */
  readonly count: Formula | undefined;
  /** Offset of a block in its volume, where they do not lie one after the other. */
  readonly at: Formula | undefined;
  /** The number of the block that follows one, where they are chained. */
  readonly next: Formula | undefined;
}

export interface FoldersRule {
  readonly line: number;
  readonly each: Binding;
  readonly path: Formula | undefined;
  readonly name: Formula | undefined;
  /** Index of the folder above, in tables; trees tell it by nesting. */
  readonly parent: Formula | undefined;
  /** Whether what lies at the top has a row of its own, where the recipe says so. */
  readonly top: 'row' | 'none' | undefined;
}

/** An entry whose content follows from the others: for each of them a text or bytes, one after the other. */
export interface MadeRule {
  readonly path: string;
  readonly line: number;
  readonly each: Formula;
  readonly only: Formula | undefined;
  readonly sort: Formula | undefined;
  readonly first: Formula | undefined;
  /** It asks for sizes of the others, or hashes over their bytes. */
  readonly looksInside: boolean;
}

/** The shape of the plain bytes of some entries. */
export interface ContentRule {
  readonly line: number;
  readonly when: Formula | undefined;
  readonly shape: Shape;
}

export interface EntriesRule {
  readonly line: number;
  readonly each: Binding;
  readonly beside: readonly Binding[];
  /** Rows that are entries; others are kept as they are. */
  readonly only: Formula | undefined;
  readonly path: Formula | undefined;
  readonly hash: Formula | undefined;
  /** The hash of a path, with `entry.path` for the path. */
  readonly hashing: Formula | undefined;
  readonly id: Formula | undefined;
  readonly volume: Formula | undefined;
  readonly at: Formula | undefined;
  readonly stored: Formula | undefined;
  readonly size: Formula | undefined;
  readonly time: Formula | undefined;
  /** Entries that go into a patch with others of their group. */
  readonly together: { readonly group: Formula; readonly along: Formula } | undefined;
  readonly deleted: Formula | undefined;
  /** Holds for rows that are folders, and have no bytes. */
  readonly directory: Formula | undefined;
  /** Each holds where the row it finds next to an entry is a header of the entry, and goes with it. */
  readonly prefixed: readonly Formula[];
  /** The path of the entry whose bytes an entry shares, and whether it begins at the entry's own folder. */
  readonly link: { readonly to: Formula; readonly relative: Formula | undefined } | undefined;
  /** What no two entries share. */
  readonly unique: readonly Formula[];
  /** Entries whose content follows from the others. */
  readonly made: readonly MadeRule[];
  /** The entry that lists the paths of hashed entries, and what ends each of these. */
  readonly names: { readonly path: string; readonly ends: string } | undefined;
  readonly checks: readonly Check[];
  /** The field of the row (or of a shape in it) that holds the entry's bytes. */
  /** What the plain bytes of entries must look like; of several the first whose condition holds. */
  readonly content: readonly ContentRule[];
  readonly data: Formula | undefined;
  readonly wrap: Shape | undefined;
  /** The index of the data field in the wrap. */
  readonly wrapData: number;
  readonly folder: Formula | undefined;
  readonly folders: FoldersRule | undefined;
  readonly blocks: BlocksRule | undefined;
  /** Set when entries are sounds whose format their rows tell. */
  readonly sound: SoundRule | undefined;
  /** Set when entries are texts by key. */
  readonly words: WordsRule | undefined;
  /** Set when entries are the languages a game offers. */
  readonly languages: LanguagesRule | undefined;
  /** Set when entries are packets of a film. */
  readonly film: FilmRule | undefined;
  methodOf(scope: Scope): Method;
  /** Set when the method is nothing but one field of the row. */
  readonly methodField: number | undefined;
  /** The chain of a method, or undefined when the recipe does not know it. Reading goes through it from the first. */
  stepsOf(method: Method): readonly Step[] | undefined;
  /** Methods that leave out the compressions of another and keep its ciphers. */
  rawOf(method: Method): readonly Method[];
  /** All methods that are written out in the recipe. */
  readonly methods: readonly Method[];
  /** True when every entry goes through the same steps, so that no row has to name them. */
  readonly hasOneMethod: boolean;
}
