/** Changes, and files on their way to becoming some. */
import { z } from 'zod';
import { type Counting, COUNTINGS, type MatchChoice } from '../../core/game';
import { type FaultAnswer, type KindName, path } from './common';

export const CHANGE_ACTIONS = ['replace', 'add', 'remove'] as const;
export type ChangeAction = (typeof CHANGE_ACTIONS)[number];

/**
 * How a change stands to the game as it is now: `fits`; the game `changed` the same entry since; the entry it replaces is
 * `gone`; what it adds is `there` already.
 */
export type ChangeStatus = 'fits' | 'changed' | 'gone' | 'there';

export interface ChangeAnswer {
  readonly id: number;
  readonly action: ChangeAction;
  readonly status: ChangeStatus;
  /** What the game had when the change was made is kept, and can be seen. */
  readonly hasBase: boolean;
  readonly path: string;
  /** Further entries that change with it, such as the other half of a picture. */
  readonly beside: readonly string[];
  /** Set when it is a picture that has to be unpacked to be seen. */
  readonly packed: boolean;
  /** Set when it is a sound whose archive tells what it is. */
  readonly told: boolean;
  readonly kind: KindName;
  readonly fileName: string;
  readonly size: number;
  readonly before: number | null;
  /** The archive whose entry it replaces; null when that has gone. */
  readonly archive: number | null;
  readonly undone: boolean;
  /** The drop it came with, and how many active changes came with it. */
  readonly drop: number | null;
  readonly dropCount: number;
  /** How the file found its entry. */
  readonly why: string;
  /** What was done to make it fit, in sentences. */
  readonly done: readonly string[];
  readonly note: string;
  readonly label: string | null;
  /** How it was asked to be made to fit; null when the file that was brought is no longer kept. */
  readonly fitOptions: FitOptions | null;
  readonly createdAt: string;
}

/** An archive that takes new entries. */
export interface ArchiveChoice {
  readonly path: string;
  readonly entries: number;
}

/** A new entry: its path, the archive it goes into by its path in the game's folder, and what the file is called. */
export const addOrder = z.strictObject({
  path: path.refine((text) => !/(^|\/)\.{0,2}(\/|$)|\\/.test(text), 'is no path of folders and a name'),
  into: path,
  name: z.string().min(1).max(1000),
});
export type AddOrder = z.output<typeof addOrder>;

export const removeOrder = z.strictObject({ remove: path });

/**
 * `how`: a person has to say how a film is converted; `which`: a person has to choose an entry; `number`: a person has to say how its number is counted; `nowhere`: no entry
 * is like it; `same`: it is what the game has.
 */
export type IncomingFileState = 'waiting' | 'which' | 'number' | 'nowhere' | 'how' | 'same' | 'refused';

/** Changes that are sent to a page at most, the newest of them. */
export const MOST_LISTED_CHANGES = 3_000;

/** A dropped file that is no change yet. */
export interface IncomingFile {
  readonly id: number;
  readonly drop: number;
  readonly name: string;
  readonly kind: KindName;
  readonly size: number;
  readonly state: IncomingFileState;
  readonly path: string | null;
  readonly why: string | null;
  readonly choices: readonly MatchChoice[];
  readonly fault: FaultAnswer | null;
}

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
export const importOrder = z.strictObject({ files: z.array(importFile).max(200_000) });

/** An import that was cut off while its files were sent. */
export interface UnfinishedImport {
  readonly id: number;
  readonly createdAt: string;
  readonly total: number;
  readonly received: number;
  /** Milliseconds since the last file came: it may still be sent by another tab. */
  readonly quietFor: number;
  /** The first of those that are missing. */
  readonly missing: readonly ImportFile[];
}

/** Dropped files that wait for something; of very many, the first. */
export interface IncomingFiles {
  readonly total: number;
  readonly rows: readonly IncomingFile[];
}

/** What would go along when one entry takes the place of another. */
export interface InsteadAnswer {
  /** False while nobody has found out what names what. */
  readonly known: boolean;
  readonly pairs: readonly { readonly path: string; readonly from: string }[];
  /** What belongs to the replaced entry, and has nothing like it on the other side. */
  readonly stays: readonly string[];
}

/** Entries that are the same in other languages, and whether each is changed as well. */
export interface OtherLanguage {
  readonly path: string;
  readonly changed: boolean;
}

/** Where the numbered files of a drop may go. */
export interface NumbersAnswer {
  /** Folders with numbered entries of their kind. */
  readonly folders: readonly { readonly folder: string; readonly count: number }[];
  /** What each way of counting would replace, once a folder is chosen. */
  readonly ways: readonly {
    readonly counting: Counting;
    readonly fits: number;
    readonly shown: readonly { readonly name: string; readonly path: string | null; readonly label: string | null }[];
  }[];
}

/** Characters of a note on a change. */
const MAX_NOTE = 4000;

export const changeEdit = z.strictObject({
  undone: z.boolean().optional(),
  note: z.string().max(MAX_NOTE).optional(),
  /** The game changed the same entry, and this change holds all the same. */
  keep: z.literal(true).optional(),
});

export type ChangeEdit = z.output<typeof changeEdit>;

/** How a film is converted: what is chosen here goes to ffmpeg as it is checked, and nothing else does. */
export const filmOptions = z.strictObject({
  quality: z.enum(['fine', 'even', 'small']).optional(),
  /** Aimed at, in place of a quality. */
  megabytes: z.number().min(0.05).max(100_000).optional(),
  /** Pictures from one that stands by itself to the next. */
  keyframes: z.number().int().min(1).max(1000).optional(),
  preset: z.enum(['veryfast', 'medium', 'slow']).optional(),
  /** Decibels that sound is made louder. */
  gain: z.number().min(-40).max(40).optional(),
  /** Of a film that brings both, one alone. */
  only: z.enum(['pictures', 'sound']).optional(),
  /** The language that sound or subtitles are of. */
  locale: z.string().max(16).optional(),
});

export type FilmOptions = z.output<typeof filmOptions>;

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

export type FitOptions = z.output<typeof fitOptionsShape>;

/** Entries that a change is to be brought to as well. */
export const alsoOrder = z.strictObject({ paths: z.array(path).min(1).max(100) });

/** Undoes all that came with a drop. */
export const dropEdit = z.strictObject({ undone: z.literal(true) });

export const incomingFileQuery = z.object({ name: path, path: path.optional() });

/** The entry it is for, or how a film is converted. */
export const incomingFileEdit = z.union([z.strictObject({ path }), z.strictObject({ film: filmOptions })]);

/** What there is to choose before a film is converted. */
export interface FilmChoices {
  /** Of its pictures, as the game keeps them, and how many there are a second. */
  readonly codec: string;
  readonly rate: number;
  /** Seconds that the game's film lasts, and the one that came. */
  readonly before: number;
  readonly seconds: number;
  /** It brings sound. */
  readonly sound: boolean;
  /** Bytes to be expected, by quality. */
  readonly sizes: Readonly<Record<'fine' | 'even' | 'small', number>>;
}

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
