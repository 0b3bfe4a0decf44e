/** Changes, and files on their way to becoming some. */
import { noteSchema } from '../../core/notes';
import { z } from 'zod';
import { COUNTINGS } from '../../core/game';
import { path, KIND_NAMES, faultAnswer } from './common';

export const CHANGE_ACTIONS = ['replace', 'add', 'remove'] as const;
export type ChangeAction = (typeof CHANGE_ACTIONS)[number];

/**
 * How a change is to the game as it is now: `fits`; the game `changed` the same entry since; the entry it replaces is
 * `gone`; what it adds is `there` already.
 */
export const changeStatus = z.enum(['fits', 'changed', 'gone', 'there']);
export type ChangeStatus = Readonly<z.output<typeof changeStatus>>;

/** How a film is converted: what is chosen here goes to ffmpeg as it is checked, and nothing else does. */
export const filmOptions = z.strictObject({
  quality: z.enum(['fine', 'even', 'small']).optional(),
  /** Aimed at, in place of a quality. */
  megabytes: z.number().min(0.05).max(100_000).optional(),
  /** Pictures from one that is by itself to the next. */
  keyframes: z.number().int().min(1).max(1000).optional(),
  preset: z.enum(['veryfast', 'medium', 'slow']).optional(),
  /** Decibels that sound is made louder. */
  gain: z.number().min(-40).max(40).optional(),
  /** Of a film that brings both, one alone. */
  only: z.enum(['pictures', 'sound']).optional(),
  /** The language that sound or subtitles are of. */
  locale: z.string().max(16).optional(),
});

/** What a person may ask of how a file is made to fit. */
export const fitOptionsShape = z.strictObject({
  /** How long fitting blocks may take. */
  quality: z.enum(['fast', 'best']).optional(),
  /** How a picture is packed is chosen by its pixels, and not by the original. */
  chosen: z.boolean().optional(),
  /** A picture keeps its own size. */
  ownSize: z.boolean().optional(),
  /** A sound is made as loud as the original. */
  loudness: z.boolean().optional(),
  /** Levels of detail that a mesh does not bring: made from it, or kept from the original. */
  levels: z.enum(['made', 'kept']).optional(),
  film: filmOptions.optional(),
  /** The file is one part of a packed picture, by a rule that splits it. */
  part: z.strictObject({ rule: z.string().max(400), suffix: z.string().max(40) }).optional(),
});

export const changeAnswer = z.object({
  id: z.number(),
  action: z.enum(CHANGE_ACTIONS),
  status: changeStatus,
  /** What the game had when the change was made is kept, and can be seen. */
  hasBase: z.boolean(),
  path: z.string(),
  /** Further entries that change with it, such as the other half of a picture. */
  companions: z.array(z.string()).readonly(),
  kind: z.enum(KIND_NAMES),
  fileName: z.string(),
  size: z.number(),
  before: z.number().nullable(),
  /** The archive whose entry it replaces; null when that has gone. */
  archive: z.number().nullable(),
  undone: z.boolean(),
  /** The drop it came with, and how many active changes came with it. */
  drop: z.number().nullable(),
  dropCount: z.number(),
  /** How the file found its entry. */
  matchedBy: noteSchema.nullable(),
  /** What was done to make it fit, in sentences. */
  fitNotes: z.array(noteSchema).readonly(),
  note: z.string(),
  label: z.string().nullable(),
  /** How it was asked to be made to fit; null when the file that was brought is no longer kept. */
  fitOptions: fitOptionsShape.nullable(),
  createdAt: z.string(),
});
export type ChangeAnswer = Readonly<z.output<typeof changeAnswer>>;

/** An archive that takes new entries. */
export const archiveChoice = z.object({
  path: z.string(),
  entries: z.number(),
});
export type ArchiveChoice = Readonly<z.output<typeof archiveChoice>>;

/** A new entry: its path, the archive it goes into by its path in the game's folder, and what the file is called. */
export const addOrder = z.strictObject({
  path: path.refine((text) => !/(^|\/)\.{0,2}(\/|$)|\\/.test(text), 'is no path of folders and a name'),
  into: path,
  name: z.string().min(1).max(1000),
});
export type AddOrder = z.output<typeof addOrder>;

export const removeOrder = z.strictObject({ remove: path });

/**
 * `ambiguous`: a person has to choose one of several entries; `numbered`: a person has to say how its number is counted;
 * `unmatched`: no entry is like it; `needsOptions`: a person has to say how a film is converted; `same`: it is what the game
 * has.
 */
export const incomingFileState = z.enum([
  'waiting',
  'ambiguous',
  'numbered',
  'unmatched',
  'needsOptions',
  'same',
  'refused',
]);
export type IncomingFileState = Readonly<z.output<typeof incomingFileState>>;

/** Changes that are sent to a page at most, the newest of them. */
export const MOST_LISTED_CHANGES = 3_000;

/** An entry that a file may be for. */
const matchChoice = z.object({ path: z.string(), matchedBy: noteSchema });

/** A dropped file that is no change yet. */
export const incomingFile = z.object({
  id: z.number(),
  drop: z.number(),
  name: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
  state: incomingFileState,
  path: z.string().nullable(),
  matchedBy: noteSchema.nullable(),
  choices: z.array(matchChoice).readonly(),
  fault: faultAnswer.nullable(),
});
export type IncomingFile = Readonly<z.output<typeof incomingFile>>;

/** A file that is going to be sent. */
const importFile = z.strictObject({
  /** With the folders it was dropped in. */
  name: z.string().min(1).max(4096),
  size: z.number().int().min(0),
  /** The entry it is for; without it, it finds its place by itself. */
  path: z.string().min(1).max(4096).nullish(),
});
export type ImportFile = z.output<typeof importFile>;
/** What an import is made of, said before the first file is sent. */
export const importOrder = z.strictObject({ files: z.array(importFile).max(200_000).default([]) });

/** An import that was cut off while its files were sent. */
export const unfinishedImport = z.object({
  id: z.number(),
  createdAt: z.string(),
  total: z.number(),
  received: z.number(),
  /** Milliseconds since the last file came: it may still be sent by another tab. */
  quietFor: z.number(),
  /** The first of those that are missing. */
  missing: z.array(importFile).readonly(),
});
export type UnfinishedImport = Readonly<z.output<typeof unfinishedImport>>;

/** Dropped files that wait for something; of very many, the first. */
export const incomingFiles = z.object({
  total: z.number(),
  rows: z.array(incomingFile).readonly(),
});
export type IncomingFiles = Readonly<z.output<typeof incomingFiles>>;

/** What would go along when one entry takes the place of another. */
export const insteadAnswer = z.object({
  /** False until references have been scanned. */
  known: z.boolean(),
  pairs: z
    .array(
      z.object({
        path: z.string(),
        from: z.string(),
      }),
    )
    .readonly(),
  /** What belongs to the replaced entry, and has nothing like it on the other side. */
  stays: z.array(z.string()).readonly(),
});
export type InsteadAnswer = Readonly<z.output<typeof insteadAnswer>>;

/** Entries that are the same in other languages, and whether each is changed as well. */
export const otherLanguage = z.object({
  path: z.string(),
  changed: z.boolean(),
});
export type OtherLanguage = Readonly<z.output<typeof otherLanguage>>;

/** Where the numbered files of a drop may go. */
export const numbersAnswer = z.object({
  /** Folders with numbered entries of their kind. */
  folders: z
    .array(
      z.object({
        folder: z.string(),
        count: z.number(),
      }),
    )
    .readonly(),
  /** What each way of counting would replace, once a folder is chosen. */
  ways: z
    .array(
      z.object({
        counting: z.enum(COUNTINGS),
        fits: z.number(),
        shown: z
          .array(
            z.object({
              name: z.string(),
              path: z.string().nullable(),
              label: z.string().nullable(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
});
export type NumbersAnswer = Readonly<z.output<typeof numbersAnswer>>;

/** Characters of a note on a change. */
const MAX_NOTE = 4000;

export const changeEdit = z.strictObject({
  undone: z.boolean().optional(),
  note: z.string().max(MAX_NOTE).optional(),
  /** The game changed the same entry, and this change holds all the same. */
  keep: z.literal(true).optional(),
});

export type ChangeEdit = z.output<typeof changeEdit>;

export type FilmOptions = z.output<typeof filmOptions>;

export type FitOptions = z.output<typeof fitOptionsShape>;

/** Entries that a change is to be brought to as well. */
export const alsoOrder = z.strictObject({ paths: z.array(path).min(1).max(100) });

/** Undoes all that came with a drop. */
export const dropEdit = z.strictObject({ undone: z.literal(true) });

export const incomingFileQuery = z.object({ name: path, path: path.optional() });

/** The entry it is for, or how a film is converted. */
export const incomingFileEdit = z.union([z.strictObject({ path }), z.strictObject({ film: filmOptions })]);

/** What there is to choose before a film is converted. */
export const filmChoices = z.object({
  /** Of its pictures, as the game keeps them, and how many there are a second. */
  codec: z.string(),
  rate: z.number(),
  /** Seconds that the game's film lasts, and the one that came. */
  before: z.number(),
  seconds: z.number(),
  /** It brings sound. */
  sound: z.boolean(),
  /** Bytes to be expected, by quality. */
  sizes: z.record(z.enum(['fine', 'even', 'small']), z.number()),
});
export type FilmChoices = Readonly<z.output<typeof filmChoices>>;

/** Entries that take the places of others. */
export const insteadQuery = z.object({ path, from: path });

export const insteadOrder = z.strictObject({
  pairs: z
    .array(z.strictObject({ path, from: path }))
    .min(1)
    .max(1000),
});

export const numbersOrder = z.strictObject({ folder: z.string().max(4096), counting: z.enum(COUNTINGS) });

export type NumbersOrder = z.output<typeof numbersOrder>;
