/** What pages show of a form, and ask about it. */
import type { ComponentType } from 'react';
import type { TrayView } from './tray-view';
import type { ChangeAnswer, EntryDetails, FitOptions, FormFacts } from '../../server/shapes';

/** Where renditions of a subject are: below this address. */
export type SubjectAddress = string;

export interface ViewProps {
  readonly facts: FormFacts | null;
  readonly subject: SubjectAddress;
  /** Its path, of which the ending counts. */
  readonly name: string;
  readonly mime: string;
  /** Bytes. */
  readonly size: number;
  /** There is room for it. */
  readonly large: boolean;
}

/** One side of a comparison. */
export interface FormSide {
  readonly subject: SubjectAddress;
  /** What is over it, such as "Before". */
  readonly label: string;
  readonly size: number;
  readonly facts: FormFacts | null;
  /** It is seen as the game will have it, with the changes there are. */
  readonly isChanged?: boolean;
}

export interface FitChoicesProps {
  readonly change: ChangeAnswer;
  readonly facts: FormFacts | null;
  /** How the file was asked to be made to fit. */
  readonly fitOptions: FitOptions;
  readonly isBusy: boolean;
  /** Makes it fit again. */
  readonly onFit: (fitOptions: FitOptions) => void;
}

/** How pages show entries of a form. */
export interface FormView {
  readonly View: ComponentType<ViewProps>;
  /** Two of them, one above the other or side by side. Forms that can be compared as bytes alone have none. */
  readonly Compare?: ComponentType<{ readonly before: FormSide; readonly after: FormSide; readonly name: string }>;
  /** Rows of what there is to know, as terms and descriptions of a list. */
  readonly Facts?: ComponentType<{ readonly facts: FormFacts; readonly onGo: (path: string) => void }>;
  /** How the tray offers its entries; forms that go out as they are have none. */
  readonly tray?: TrayView;
  /** Buttons that take an entry out in open formats. */
  readonly TakeOut?: ComponentType<{ readonly gameId: number; readonly entry: EntryDetails }>;
  /** What may be chosen when a file is made to fit. */
  readonly FitChoices?: ComponentType<FitChoicesProps>;
}
