/** Tables of texts, and work on them. */
import { z } from 'zod';
import { WORD_FILES } from '../../core/forms/words/words';

export type WordTablesAnswer = readonly {
  readonly archive: number;
  readonly path: string;
  readonly locale: string;
  readonly texts: number;
  /** Its encoding lacks characters, which can be spelled out. */
  readonly spells: boolean;
}[];

/** A language the game's menu shows. */
export interface LanguageAnswer {
  readonly code: string;
  readonly path: string;
  /** What the menu says of it, as its lines. */
  readonly about: string;
  readonly state: 'there' | 'changed' | 'new';
}

const table = z.coerce.number().int().positive();

/** The table that is translated from, and the one that is translated to; `spell`: what the game cannot show is spelled out. */
export const wordsPair = z.object({ from: table, to: table, spell: z.stringbool().or(z.boolean()).optional() });
export type WordsPair = z.output<typeof wordsPair>;

/** `anyway`: also where the file says that its texts are in another language. */
export const wordsIn = wordsPair.extend({ anyway: z.stringbool().or(z.boolean()).default(false) });

export const wordsQuery = wordsPair.extend({
  search: z.string().max(500).default(''),
  /** `left`: no text yet, or the source itself; `wrong`: what does not hold what it should. */
  show: z.enum(['all', 'left', 'done', 'changed', 'wrong']).default('all'),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});
export type WordsQuery = z.output<typeof wordsQuery>;

export const wordsFileQuery = wordsPair.extend({ as: z.enum(WORD_FILES) });
export type WordsFile = z.output<typeof wordsFileQuery>;

export const wordEdit = wordsPair.extend({ key: z.string().min(1).max(4096), text: z.string().max(1 << 20) });

export const wordsReplace = wordsQuery.extend({ find: z.string().min(1).max(500), by: z.string().max(500) });

export interface WordLine {
  readonly key: string;
  readonly source: string | null;
  readonly text: string | null;
  /** What the game has. */
  readonly game: string | null;
  readonly state: 'left' | 'done' | 'changed';
  /** What is wrong with it, in sentences. */
  readonly says: readonly string[];
}

export interface WordsAnswer {
  readonly counts: Readonly<Record<'all' | 'left' | 'done' | 'changed' | 'wrong', number>>;
  /** By what keys begin with; null for all the rest. */
  readonly groups: readonly { readonly name: string | null; readonly done: number; readonly left: number }[];
  readonly total: number;
  readonly rows: readonly WordLine[];
}

/** A language made of a table there is. */
export const languageOrder = z.strictObject({
  from: table,
  code: z
    .string()
    .regex(/^[A-Za-z]{2,8}([-_][A-Za-z0-9]{1,8})*$/, 'is no code of a language, such as es or pt-BR')
    .max(35),
  about: z
    .string()
    .max(64 << 10)
    .default(''),
});
export type LanguageOrder = z.output<typeof languageOrder>;
