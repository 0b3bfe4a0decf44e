/** What pages show of an entry by its form. A new form is added to this union. */
import type { z } from 'zod';
import { fontFacts } from './font';

export const formFacts = fontFacts;

export type FormFacts = Readonly<z.output<typeof formFacts>>;
