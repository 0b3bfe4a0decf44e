import { z } from 'zod';
import { FILM_NOTES } from './film-notes';
import { FONT_NOTES } from './font-notes';
import { MATCH_NOTES } from './match-notes';
import { MESH_NOTES } from './mesh-notes';
import { NAME_NOTES } from './name-notes';
import { note, type NoteDefinition } from './note';
import { PICTURE_NOTES } from './picture-notes';
import { SHARE_NOTES } from './share-notes';
import { SOUND_NOTES } from './sound-notes';
import { TEXT_NOTES } from './text-notes';

/** Every note there is, by its code. Codes are kept in databases: one that is no longer written stays readable. */
const NOTES = {
  ...PICTURE_NOTES,
  ...SOUND_NOTES,
  ...FILM_NOTES,
  ...MESH_NOTES,
  ...FONT_NOTES,
  ...TEXT_NOTES,
  ...MATCH_NOTES,
  ...NAME_NOTES,
  ...SHARE_NOTES,
  /** A sentence kept by a version that had no codes. */
  text: note({ text: z.string() }, ({ text }) => text),
} as const;

type Notes = typeof NOTES;
export type NoteCode = keyof Notes;
type FactsOf<Code extends NoteCode> =
  Notes[Code] extends NoteDefinition<infer Facts>
    ? keyof Facts extends never
      ? unknown
      : z.infer<z.ZodObject<Facts>>
    : never;

/** What was done to a file, or is to be known of it: a code and its facts, with numbers as numbers. */
export type Note = { readonly [Code in NoteCode]: { readonly code: Code } & Readonly<FactsOf<Code>> }[NoteCode];

const shapes = Object.entries(NOTES).map(([code, { facts }]) => z.object({ code: z.literal(code), ...facts }));

/** A note as it comes from a database or over the wire. */
export const noteSchema = z.discriminatedUnion('code', shapes as never) as unknown as z.ZodType<Note>;

/** A note in words, without a full stop. */
export function sayNote(one: Note): string {
  const { say } = NOTES[one.code] as NoteDefinition;
  return say(one);
}
