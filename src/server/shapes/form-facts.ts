/** What pages show of an entry by its form. A new form is added to this union. */
import { z } from 'zod';
import { filmFacts } from './films';
import { fontFacts } from './font';
import { meshFacts } from './mesh';
import { pictureFacts } from './picture';
import { soundFacts } from './sound';

export const formFacts = z.discriminatedUnion('form', [pictureFacts, soundFacts, filmFacts, meshFacts, fontFacts]);

export type FormFacts = Readonly<z.output<typeof formFacts>>;
