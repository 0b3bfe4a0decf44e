import type { ComponentType } from 'react';
import type { FormFacts } from '../../server/shapes';

/** Where renditions of a subject are: below this address. */
export type SubjectAddress = string;

export interface FormSide {
  readonly subject: SubjectAddress;
  /** Such as "Before". */
  readonly label: string;
}

/** How pages show entries of a form. */
export interface FormView {
  readonly View: ComponentType<{
    readonly facts: FormFacts;
    readonly subject: SubjectAddress;
    readonly large: boolean;
  }>;
  /** Two of them, one above the other or side by side. */
  readonly Compare: ComponentType<{ readonly sides: readonly FormSide[] }>;
}
