/** How the entries of a form go out as files of open formats. */
import type { Note } from '../../core/notes';
import type { OutgoingEntry, TakeOutOrder } from '../shapes';

/** All that goes out in one order. */
export interface Outgoing {
  readonly gameId: number;
  readonly order: TakeOutChoices;
  /** Entries of the form. */
  readonly entries: readonly OutgoingEntry[];
  /** Paths of all entries, of other forms too. */
  readonly paths: ReadonlySet<string>;
}

/** The part of an order that says what entries become. */
export type TakeOutChoices = Pick<
  TakeOutOrder,
  | 'layout'
  | 'pictures'
  | 'sounds'
  | 'meshes'
  | 'films'
  | 'fonts'
  | 'clips'
  | 'levels'
  | 'scale'
  | 'solid'
  | 'mip'
  | 'split'
  | 'trim'
>;

/** A file that an entry becomes. */
export interface ConvertedFile {
  /** What is added to the name, before the ending. */
  readonly suffix: string;
  /** Set where it ends otherwise than the others, with its dot. */
  readonly ending?: string;
  /** To be read before the next file is asked for. */
  readonly chunks: AsyncIterable<Uint8Array>;
  /** What is to be said of it, in sentences. */
  readonly notes: readonly Note[];
}

/** What becomes of the entries of a form in one order. */
export interface OutPlan {
  /** The format of their files, by its ending. */
  readonly as: string;
  /** False for an entry that goes out as it is, such as one in that format already. */
  converts(entry: OutgoingEntry): boolean;
  /** Whether an entry goes out in the file of another. */
  isWithin?(entry: OutgoingEntry): boolean;
  /** The path it goes out under where that is not its own. */
  pathOf?(entry: OutgoingEntry): string | undefined;
  /** What is added to the names of the files an entry becomes, where it becomes several. */
  readonly suffixes: readonly string[];
  /** What else of the order its files depend on: with other choices they are written again. */
  readonly choices?: readonly (string | number | boolean)[];
  /** The files, one after the other. */
  files(entry: OutgoingEntry, signal: AbortSignal): AsyncGenerator<ConvertedFile>;
}

/** Whether the name of an entry says that it is in a format already. */
export const isNamedAs = ({ path }: OutgoingEntry, as: string): boolean => path.toLowerCase().endsWith(`.${as}`);

/** One file that is in memory. */
export const fileOf = (bytes: Uint8Array, notes: readonly Note[] = [], ending?: string): ConvertedFile => ({
  suffix: '',
  chunks: inOne(bytes),
  notes,
  ...(ending === undefined ? {} : { ending }),
});

async function* inOne(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}
