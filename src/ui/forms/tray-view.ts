/** How the tray offers the entries of a form, and what becomes of them. */
import type { ComponentType } from 'react';
import type { EntryRow, TakeOutOrder } from '../../server/shapes';
import type { BodyOf } from '../shared/api';

/** What of an order a person chooses and the browser keeps. Null for "as they are": what is kept knows no `undefined`. */
export type TrayChoices = Pick<
  TakeOutOrder,
  'form' | 'layout' | 'mip' | 'trim' | 'join' | 'onlyChanged' | 'clips' | 'levels' | 'scale' | 'solid'
> & {
  readonly [Key in 'pictures' | 'sounds' | 'meshes' | 'films' | 'fonts' | 'split']: NonNullable<
    TakeOutOrder[Key]
  > | null;
};

export interface TrayRowProps {
  readonly gameId: number;
  readonly chosen: TrayChoices;
  readonly choose: (part: Partial<TrayChoices>) => void;
}

/** What is in the tray that does not go out in a file of its own. */
export interface TrayContents {
  /** Entries that hold a part of a picture. */
  readonly parts: ReadonlySet<string>;
  /** Entries that move a mesh. */
  readonly clips: ReadonlySet<string>;
}

export interface TrayView {
  /** A title and what may be chosen. */
  readonly Row: ComponentType<TrayRowProps>;
  /** What is chosen at first. */
  readonly atFirst: Partial<TrayChoices>;
  /** The part of an order that is about the form; what does not go with the format is left out. */
  order(chosen: TrayChoices): Partial<BodyOf<'POST games/{game}/take-out'>>;
  /** What an entry becomes, such as `PNG`; undefined where it stays as it is. */
  goesOutAs(entry: EntryRow, chosen: TrayChoices, tray: TrayContents): string | undefined;
  /** Said of an entry of any kind that goes out in the file of another. */
  within?(entry: EntryRow, chosen: TrayChoices, tray: TrayContents): string | undefined;
}

/** Whether the name of an entry says that it is in a format already. */
export const isNamedAs = ({ path }: EntryRow, as: string): boolean => path.toLowerCase().endsWith(`.${as}`);
