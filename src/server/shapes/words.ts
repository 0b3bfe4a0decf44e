/** Tables of texts, and work on them. */
import { z } from 'zod';
import { WORD_FILES } from '../../core/forms/words/out-formats';

export const wordTablesAnswer = z
  .array(
    z.object({
      archive: z.number(),
      path: z.string(),
      locale: z.string(),
      texts: z.number(),
      /** Its encoding lacks characters, which can be spelled out. */
      spells: z.boolean(),
    }),
  )
  .readonly();
export type WordTablesAnswer = Readonly<z.output<typeof wordTablesAnswer>>;

/** A language the game's menu shows. */
export const languageAnswer = z.object({
  code: z.string(),
  path: z.string(),
  /** Its lines in the menu. */
  about: z.string(),
  state: z.enum(['there', 'changed', 'new']),
});
export type LanguageAnswer = Readonly<z.output<typeof languageAnswer>>;

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

export const wordLine = z.object({
  key: z.string(),
  source: z.string().nullable(),
  text: z.string().nullable(),
  /** What the game has. */
  game: z.string().nullable(),
  state: z.enum(['left', 'done', 'changed']),
  /** What is wrong with it, in sentences. */
  problems: z.array(z.string()).readonly(),
});
export type WordLine = Readonly<z.output<typeof wordLine>>;

export const wordsAnswer = z.object({
  counts: z.record(z.enum(['all', 'left', 'done', 'changed', 'wrong']), z.number()),
  /** By what keys begin with; null for all the rest. */
  groups: z
    .array(
      z.object({
        name: z.string().nullable(),
        done: z.number(),
        left: z.number(),
      }),
    )
    .readonly(),
  total: z.number(),
  rows: z.array(wordLine).readonly(),
});
export type WordsAnswer = Readonly<z.output<typeof wordsAnswer>>;

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
