/** Films: what they are, and the files that are made of them. */
import { z } from 'zod';
import { FILM_OUT } from '../../core/forms/film/out-formats';
import type { RunAnswer } from './runs';

/** The film that an entry is, or is a packet of. */
export interface FilmFacts {
  readonly name: string;
  readonly seconds: number;
  /** Pictures a second. */
  readonly rate: number;
  readonly streams: readonly {
    readonly number: number;
    readonly is: 'pictures' | 'sound' | 'subtitles';
    readonly locale: string;
    readonly says: string;
  }[];
  /** Which packet the entry is; null where it is the film itself. */
  readonly packet: { readonly stream: number; readonly at: number } | null;
  /** Bits a second that it takes; null where its pictures are kept without loss. */
  readonly bits: number | null;
  /** Of its pictures. */
  readonly codec: string | null;
  /** True when a browser plays its bytes as they are. */
  readonly direct: boolean;
  /** Why it cannot be played. */
  readonly says: string | null;
}

export type FilmFileAnswer =
  { readonly ready: true; readonly bytes: number } | { readonly ready: false; readonly run: RunAnswer };

/** A film as a file: what holds it, and the one stream of sound or subtitles that is wanted. */
export const filmOrder = z.strictObject({
  as: z.enum(FILM_OUT),
  stream: z.coerce.number().int().min(0).max(1000).optional(),
  /** With the changes there are, as the game will have it. */
  changed: z.stringbool().or(z.boolean()).default(false),
});

export type FilmOrder = z.output<typeof filmOrder>;
