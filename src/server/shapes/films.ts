/** Films: what they are, and the files that are made of them. */
import { z } from 'zod';
import { FILM_OUT } from '../../core/forms/film/out-formats';
import { pictureFacts } from './picture';

/** The film that an entry is, or is a packet of. */
export const filmFacts = z.object({
  form: z.literal('film'),
  name: z.string(),
  seconds: z.number(),
  /** Pictures a second. */
  rate: z.number(),
  streams: z
    .array(
      z.object({
        number: z.number(),
        is: z.enum(['pictures', 'sound', 'subtitles']),
        locale: z.string(),
        summary: z.string(),
      }),
    )
    .readonly(),
  /** Which packet the entry is, and the picture it holds; null where it is the film itself. */
  packet: z
    .object({
      stream: z.number(),
      at: z.number(),
      picture: pictureFacts.nullable(),
    })
    .nullable(),
  /** Bits a second that it takes; null where its pictures are kept without loss. */
  bits: z.number().nullable(),
  /** Of its pictures. */
  codec: z.string().nullable(),
  /** True when a browser plays its bytes as they are. */
  direct: z.boolean(),
  /** Why it cannot be played. */
  trouble: z.string().nullable(),
});
export type FilmFacts = Readonly<z.output<typeof filmFacts>>;

/** A film as a file: what holds it, and the one stream of sound or subtitles that is wanted. */
export const filmOrder = z.strictObject({
  as: z.enum(FILM_OUT),
  stream: z.coerce.number().int().min(0).max(1000).optional(),
  /** With the changes there are, as the game will have it. */
  changed: z.stringbool().or(z.boolean()).default(false),
});

export type FilmOrder = z.output<typeof filmOrder>;
