/** Entries: found, looked at, compared, labelled. */
import { z } from 'zod';
import { CATALOGUE_SORTS, type Overview } from '../../core/catalogue';
import { type Difference } from '../../core/compare';
import type { Inspection } from '../../core/forms/mesh';
import { soughtSchema, TEXT_ENCODINGS } from '../../core/inside';
import { MAX_LABEL } from '../../core/labels';
import { id, type KindName, path } from './common';
import type { FilmFacts } from './films';

/** What an entry is in the merged game: it wins, another covers it, or it says that one is gone. */
export type EntryRole = 'wins' | 'covered' | 'removes';

export interface EntryRow {
  readonly archive: number;
  readonly n: number;
  readonly path: string;
  readonly name: string;
  readonly kind: KindName;
  readonly size: number;
  readonly changed: boolean;
  readonly role: EntryRole;
  /** What somebody noted on it. */
  readonly label: string | null;
}

export interface EntryPage {
  readonly total: number;
  readonly bytes: number;
  readonly kinds: Readonly<Partial<Record<KindName, number>>>;
  /** How many lie in each archive that has any, in load order. */
  readonly archives: readonly { readonly id: number; readonly path: string; readonly count: number }[];
  readonly rows: readonly EntryRow[];
}

export interface FolderRow {
  readonly path: string;
  readonly name: string;
  readonly count: number;
  /** True when it has folders of its own. */
  readonly folders: boolean;
}

/** What a table of labels would name, by each way it can be read. */
export interface LabelTableAnswer {
  readonly rows: number;
  /** Labels that were set; 0 while nothing was taken. */
  readonly set: number;
  readonly ways: readonly {
    readonly take: 'by path' | 'from 0' | 'from 1';
    readonly fits: number;
    readonly shown: readonly { readonly path: string; readonly text: string }[];
    readonly unmatched: readonly { readonly of: string; readonly line: number }[];
  }[];
}

export interface ShareAnswer {
  readonly name: string;
  readonly count: number;
  readonly bytes: number;
  readonly stored: number;
}

/** What a game, or a part of it, is made of. */
export interface OverviewAnswer extends Omit<Overview, 'methods' | 'archives'> {
  readonly archives: readonly (ShareAnswer & { readonly archive: number })[];
  /** By how entries are packed, in words. */
  readonly methods: readonly ShareAnswer[];
  /** Archives with bytes that no field of their recipe explains. */
  readonly unexplained: readonly { readonly archive: number; readonly path: string; readonly bytes: number }[];
}

/** A place in an entry where something was found. */
export interface HitAnswer {
  readonly number: number;
  readonly archive: number;
  /** -1 in a file that nothing reads. */
  readonly n: number;
  readonly path: string;
  readonly kind: KindName;
  readonly at: number;
  readonly length: number;
  /** As what it stands there, such as UTF-16. */
  readonly form: string;
  /** Bytes around it in base64; it begins at `lead` in them. */
  readonly around: string;
  readonly lead: number;
}

export interface HitsPage {
  readonly total: number;
  readonly entries: number;
  readonly rows: readonly HitAnswer[];
}

/** What an entry names and what names it. */
export interface LinksAnswer {
  /** False while nobody has looked. */
  readonly known: boolean;
  /** Entries have changed since. */
  readonly stale: boolean;
  readonly uses: readonly string[];
  readonly usedBy: readonly string[];
  /** Everything near, for drawing. */
  readonly around: readonly { readonly from: string; readonly to: string }[];
}

export interface ComparedSide {
  readonly game: number;
  /** As a person knows it, with its build. */
  readonly gameName: string;
  readonly archive: number;
  readonly n: number;
  readonly path: string;
  readonly kind: KindName;
  readonly size: number;
  readonly archivePath: string;
  readonly mime: string;
  /** A picture that is packed in a way no browser reads. */
  readonly packed: boolean;
  /** A sound whose archive tells what it is. */
  readonly told: boolean;
}

/** Two entries beside each other. */
export interface ComparedAnswer {
  readonly left: ComparedSide;
  readonly right: ComparedSide;
  readonly same: boolean;
  /** Bytes both begin with. */
  readonly start: number;
  readonly differences: readonly Difference[];
  /** There are more differences than are told. */
  readonly cut: boolean;
  /** Which holds more, in a sentence. */
  readonly verdict: string;
}

export interface SavedSearch {
  readonly id: number;
  readonly name: string;
  /** The place as the address has it. */
  readonly place: string;
}

export interface EntryFieldAnswer {
  readonly field: string;
  readonly value: string;
  readonly at: number;
  readonly length: number;
  readonly unlocked: boolean;
  readonly formula: string | null;
}

export interface PictureFacts {
  readonly width: number;
  readonly height: number;
  readonly alpha: boolean;
  /** How its pixels are packed, such as `BC1`. */
  readonly packing: string;
  readonly mips: number;
  readonly layers: number;
  readonly faces: number;
  readonly srgb: boolean;
  /** Paths of the entries that hold parts of it. */
  readonly beside: readonly string[];
  /** True when a browser shows its bytes as they are. */
  readonly direct: boolean;
  /** What its file leaves free: how it is packed, and its size. */
  readonly free: { readonly format: boolean; readonly size: boolean };
}

/** A sound without a header, as its archive tells of it. */
export interface SoundFacts {
  /** Codec, channels and rate in words. */
  readonly says: string;
  readonly seconds: number;
  /** What is played over and over, in seconds. */
  readonly loop: readonly [from: number, to: number] | null;
  /** Why it is not offered as a sound: its codec is not known, or decoding it gives noise. */
  readonly trouble: string | null;
}

/** A mesh, or a clip that moves one. */
export interface MeshFacts {
  /** Levels of detail, the most detailed first; none of a clip. */
  readonly levels: readonly {
    /** The distance from which on it is drawn, in units of the game. */
    readonly from: number;
    readonly parts: number;
    readonly triangles: number;
    readonly vertices: number;
  }[];
  /** Of the most detailed level. */
  readonly inspection: Inspection | null;
  /** Along x, y and z. */
  readonly millimetres: readonly [number, number, number] | null;
  readonly joints: readonly string[];
  readonly materials: readonly {
    readonly name: string;
    readonly textures: readonly { readonly path: string; readonly there: boolean }[];
  }[];
  /** Clips that move it. */
  readonly clips: readonly { readonly path: string; readonly name: string }[];
  readonly clip: {
    /** Path of the mesh it moves, where it names one. */
    readonly mesh: string | null;
    readonly there: boolean;
    readonly rate: number;
    readonly frames: number;
    readonly loops: boolean;
    readonly joints: number;
  } | null;
}

/** One level of a picture: what has to be known to unpack its bytes. */
export interface LevelHead {
  readonly width: number;
  readonly height: number;
  readonly format: string;
  readonly srgb: boolean;
}

export interface EntryDetails extends EntryRow {
  readonly archivePath: string;
  /** The file its bytes lie in, which is another than the archive's main one in archives of several volumes. */
  readonly file: string;
  /** 0 is the main file, -1 where the offset counts in unlocked bytes, and not in a file. */
  readonly volume: number;
  readonly stored: number;
  readonly at: number;
  readonly method: string;
  /** What of it is behind a key. */
  readonly locked: { readonly index: boolean; readonly entry: boolean };
  readonly mime: string;
  /** Its archive can be without it. */
  readonly removable: boolean;
  readonly inTray: boolean;
  /** Archives that hold the same path and load before. */
  readonly covers: readonly { readonly archive: number; readonly n: number; readonly path: string }[];
  /** The archive that loads last of those that load after it and hold the same path. */
  readonly coveredBy: string | null;
  /** The same path in other games, such as another build of this one. */
  readonly elsewhere: readonly {
    readonly game: number;
    readonly name: string;
    readonly archive: number;
    readonly n: number;
  }[];
  readonly fields: readonly EntryFieldAnswer[];
  readonly picture: PictureFacts | null;
  /** Set when its archive tells what kind of sound it is. */
  readonly sound: SoundFacts | null;
  /** Set for a mesh or a clip that can be read. */
  readonly mesh: MeshFacts | null;
  /** Set for a film, and for each packet of one. */
  readonly film: FilmFacts | null;
  /** Why a mesh or a film cannot be shown as one. */
  readonly trouble: string | null;
  readonly expects: readonly string[];
}

/** An entry at a glance, for its card: what there is to say of it without opening it. */
export type Glance =
  | { readonly is: 'picture'; readonly width: number; readonly height: number; readonly packing: string }
  | { readonly is: 'sound'; readonly seconds: number; readonly peaks: readonly number[] | null; readonly says: string }
  | { readonly is: 'film'; readonly seconds: number }
  | { readonly is: 'mesh'; readonly triangles: number }
  | { readonly is: 'text'; readonly lines: readonly string[] }
  | { readonly is: 'nothing' };

/** The next place where something stands; null when it stands nowhere in the rest. */
export interface PlaceInBytes {
  readonly found: { readonly at: number; readonly length: number } | null;
}

/** What is listed, and in which order. */
export const entryPlace = z.object({
  search: z.string().max(500).default(''),
  folder: z.string().max(4096).default(''),
  archive: id.optional(),
  sort: z.enum(CATALOGUE_SORTS).default('path'),
  order: z.enum(['up', 'down']).default('up'),
});

export type EntryPlace = z.output<typeof entryPlace>;

export const entryQuery = entryPlace.extend({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});

export type EntryQuery = z.output<typeof entryQuery>;

/** Places of entries in a list: pairs of the first and the one behind the last. */
const ranges = z.array(z.tuple([z.number().int().min(0), z.number().int().min(0)])).max(10_000);

export const listPart = z.strictObject({ place: entryPlace, ranges: ranges.optional() });

export type ListPart = z.output<typeof listPart>;

export const glanceOrder = z.strictObject({ entries: z.array(z.tuple([id, z.number().int().min(0)])).max(60) });

export const insideOrder = listPart.extend({ sought: soughtSchema });

/** A place in an entry, or in a file itself when `n` is -1, that a text was found at. */
const textPlace = {
  archive: z.coerce.number().int().positive(),
  n: z.coerce.number().int().min(-1),
  at: z.coerce.number().int().min(0),
  length: z.coerce.number().int().min(1).max(4096),
  encoding: z.preprocess((value) => String(value).toLowerCase(), z.enum(TEXT_ENCODINGS)),
};
export const textPlaceQuery = z.object(textPlace);
export type TextPlace = z.output<typeof textPlaceQuery>;

/** Other words for it. `join`: the file goes into builds with them. */
export const textOrder = z.strictObject({ ...textPlace, text: z.string().max(65_536), join: z.boolean() });
export type TextOrder = z.output<typeof textOrder>;

export interface TextPlaceAnswer {
  /** The file or entry it is in. */
  readonly path: string;
  readonly at: number;
  /** Bytes of its place. */
  readonly length: number;
  readonly encoding: string;
  readonly text: string;
  readonly fill: 'zeros' | 'spaces';
  /** Bytes of the number in front that tells its length; 0 where none does. */
  readonly counted: number;
}

/** An entry in an address: its archive and number, such as `3.17`. */
export const entryMark = z
  .string()
  .regex(/^\d{1,9}\.\d{1,9}$/)
  .transform((text) => ({ archive: Number(text.split('.')[0]), n: Number(text.split('.')[1]) }));

export const findInEntryOrder = z.strictObject({ sought: soughtSchema, from: z.number().int().min(0).default(0) });

export const labelEdit = z.strictObject({
  labels: z
    .array(z.strictObject({ path, text: z.string().max(MAX_LABEL) }))
    .min(1)
    .max(100_000),
});

export const labelTableOrder = z.strictObject({
  text: z.string().max(32 << 20),
  folder: z.string().max(4096).optional(),
  take: z.enum(['by path', 'from 0', 'from 1']).optional(),
});

export type LabelTableOrder = z.output<typeof labelTableOrder>;

export const searchEdit = z.strictObject({ name: z.string().trim().min(1).max(80), place: z.string().max(8000) });

const level = z.coerce.number().int().min(0).max(4096).default(0);

export const levelQuery = z.object({ mip: level, layer: level, face: level });

export type LevelQuery = z.output<typeof levelQuery>;
