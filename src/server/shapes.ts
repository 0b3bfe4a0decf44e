/** What crosses between server and page: checked on the way in, plain on the way out. It imports only Zod and plain shapes of the core. */
import { z } from 'zod';
import { CATALOGUE_SORTS, type Overview } from '../core/catalogue';
import type { Difference } from '../core/compare';
import { PICTURE_OUT } from '../core/forms/picture/out-formats';
import { SOUND_OUT } from '../core/forms/sound/out-formats';
import { soughtSchema } from '../core/inside';
import { MAX_LABEL } from '../core/labels';
import {
  COUNTINGS,
  loadOrderRule,
  type Counting,
  type GameProfile,
  type LoadOrderRule,
  type MatchChoice,
} from '../core/game';

export type { GameProfile };

export const KIND_NAMES = ['picture', 'sound', 'film', 'words', 'mesh', 'records', 'bytes'] as const;
export type KindName = (typeof KIND_NAMES)[number];

/** `unsure`: several recipes fit, and a person has to choose. */
export type ArchiveState = 'open' | 'locked' | 'unknown' | 'damaged' | 'unsure';
export type RunState = 'waiting' | 'working' | 'stopping' | 'done' | 'failed' | 'stopped' | 'interrupted';

/** The facts of a fault with its sentence; what the page shows. */
export interface FaultAnswer {
  readonly code: string;
  readonly sentence: string;
}

/** What the game changed in an archive, compared with the build before. */
export interface ArchiveNews {
  /** The build before, when it was known. */
  readonly since: string | null;
  readonly added: number;
  readonly changed: number;
  readonly gone: number;
  /** Some of the paths, with what happened to them. */
  readonly samples: readonly { readonly path: string; readonly what: 'added' | 'changed' | 'gone' }[];
}

/** What a scan found that was otherwise the time before. */
export interface ScanNews {
  readonly added: readonly string[];
  readonly changed: readonly string[];
  readonly moved: readonly { readonly from: string; readonly to: string }[];
  readonly gone: readonly string[];
  /** The build before this scan, when it was another one. */
  readonly buildBefore: string | null;
}

export interface ScanAnswer {
  readonly scannedAt: string;
  readonly build: string | null;
  readonly files: number;
  readonly bytes: number;
  readonly news: ScanNews;
  /** Folders and files that could not be looked at, in words. */
  readonly trouble: readonly string[];
}

/** A stretch of the strip. Neighbours of one kind are joined, so that a million entries draw as few hundred bands. */
export interface StripBand {
  readonly at: number;
  readonly length: number;
  readonly what: KindName | 'region' | 'locked' | 'fill' | 'unexplained';
  readonly name?: string;
}

export interface ProofAnswer {
  readonly bytes: { readonly explained: number; readonly total: number };
  readonly formulas: { readonly agree: number; readonly total: number };
  readonly identical: boolean;
  readonly changed: { readonly equal: number; readonly tested: number; readonly total: number };
  readonly proven: boolean;
  readonly firsts: readonly string[];
}

/** A recipe that fits a file, and why. */
export interface FitAnswer {
  readonly recipe: string;
  readonly title: string;
  readonly reason: string;
}

export interface ArchiveAnswer {
  readonly id: number;
  readonly path: string;
  readonly title: string | null;
  readonly state: ArchiveState;
  readonly slots: Readonly<Record<string, string>>;
  readonly fault: FaultAnswer | null;
  /** Bytes of all its files. */
  readonly size: number;
  /** Its files, the main one first; empty while it is not open. */
  readonly volumes: readonly { readonly name: string; readonly size: number }[];
  readonly entryCount: number;
  readonly proof: ProofAnswer | null;
  readonly bands: readonly StripBand[];
  /** The archive it is an entry of. */
  readonly parent: number | null;
  /** Archives right inside it. */
  readonly inside: number;
  /** It keeps hashes of names, and so many of its entries have one. */
  readonly hashed: boolean;
  readonly named: number;
  /** Entries that cover one of an archive before. */
  readonly covers: number;
  /** Markers that say an entry of an archive before is gone. */
  readonly removes: number;
  readonly news: ArchiveNews | null;
  /** What was found in a file no recipe knows; null while nobody has looked. */
  readonly found: {
    readonly kinds: Readonly<Partial<Record<KindName, number>>>;
    readonly randomness: readonly number[];
  } | null;
  /** Several, where a person has to choose or has chosen. */
  readonly fits: readonly FitAnswer[];
  readonly recipe: string | null;
}

export interface KeyAnswer {
  readonly id: number;
  readonly kind: string;
  readonly mask: string;
  /** What it was called where it was pasted from. */
  readonly name: string | null;
  /** The build it was added for. */
  readonly build: string | null;
  /** Paths of the archives it opens. */
  readonly opens: readonly string[];
}

/** Archives inside another; of very many, the first. */
export interface InsideAnswer {
  readonly total: number;
  readonly rows: readonly {
    readonly id: number;
    readonly path: string;
    readonly name: string;
    readonly state: ArchiveState;
    readonly fault: FaultAnswer | null;
    readonly size: number;
    readonly entryCount: number;
    /** A picture of it to know it by. */
    readonly picture: { readonly archive: number; readonly n: number } | null;
  }[];
}

/** A key that a search found: where it stood, and never the key itself. */
export interface KeySearchFind {
  readonly mask: string;
  readonly at: number;
  readonly written: 'raw' | 'hex' | 'base64' | 'schedule' | 'text' | 'derived';
  readonly archive: string;
  readonly slot: string;
}

export interface XorAnswer {
  /** How many bytes were known. */
  readonly known: number;
  readonly solutions: readonly {
    readonly mask: string;
    /** Bytes of the key. */
    readonly period: number;
    /** Where the known bytes stand. */
    readonly at: number;
    /** Known bytes beyond one round of the key, all of which it explains. */
    readonly confirmed: number;
    /** The start of the file, plain, in hex. */
    readonly preview: string;
  }[];
  readonly kept: boolean;
  readonly run: RunAnswer | null;
}

/** What of a profile was new here. */
export interface ProfileTaken {
  readonly recipes: number;
  readonly nameLists: number;
  readonly notes: readonly string[];
  readonly run: RunAnswer;
}

export interface NameListAnswer {
  readonly id: number;
  readonly name: string;
  readonly kind: 'list' | 'pattern' | 'harvest';
  readonly tested: number;
  readonly matched: number;
  /** Conflicts and lines that are no names, in words. */
  readonly trouble: readonly string[];
}

export interface GameAnswer {
  readonly id: number;
  readonly name: string;
  readonly folder: string;
  readonly scannedAt: string | null;
  readonly build: string | null;
  /** Where the build is told, in words. */
  readonly buildFrom: string | null;
  readonly lastScan: ScanAnswer | null;
  readonly loadOrder: LoadOrderRule;
  /** Somebody has put archives in an order of their own. */
  readonly ordered: boolean;
  readonly archives: readonly ArchiveAnswer[];
  readonly keys: readonly KeyAnswer[];
  readonly nameLists: readonly NameListAnswer[];
  readonly entryCount: number;
  readonly trayCount: number;
  readonly changeCount: number;
  /** Active changes that are not in the newest build. */
  readonly behind: number;
  readonly lastBuild: number | null;
  readonly installed: boolean;
}

export interface GameRow {
  readonly id: number;
  readonly name: string;
  readonly folder: string;
  readonly archives: number;
  readonly build: string | null;
  /** When it was set aside; its keys, changes and builds are still there. */
  readonly forgottenAt: string | null;
}

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
  readonly locked: boolean;
  readonly mime: string;
  readonly inTray: boolean;
  /** Archives that hold the same path and load before. */
  readonly covers: readonly { readonly archive: number; readonly n: number; readonly path: string }[];
  /** The archive that loads last of those that load after it and hold the same path. */
  readonly coveredBy: string | null;
  readonly fields: readonly EntryFieldAnswer[];
  readonly picture: PictureFacts | null;
  /** Set when its archive tells what kind of sound it is. */
  readonly sound: SoundFacts | null;
  readonly expects: readonly string[];
}

/** An entry at a glance, for its card: what there is to say of it without opening it. */
export type Glance =
  | { readonly is: 'picture'; readonly width: number; readonly height: number; readonly packing: string }
  | { readonly is: 'sound'; readonly seconds: number; readonly peaks: readonly number[] | null; readonly says: string }
  | { readonly is: 'text'; readonly lines: readonly string[] }
  | { readonly is: 'nothing' };

/** The next place where something stands; null when it stands nowhere in the rest. */
export interface PlaceInBytes {
  readonly found: { readonly at: number; readonly length: number } | null;
}

/** What a list brought into the tray. */
export interface TrayListed {
  readonly added: number;
  /** Lines that no entry has as its path, with the first of them. */
  readonly unknown: number;
  readonly first: readonly string[];
}

export interface TrayAnswer {
  readonly total: number;
  readonly bytes: number;
  readonly rows: readonly EntryRow[];
}

export interface ChangeAnswer {
  readonly id: number;
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
  readonly wishes: FitWishes | null;
  readonly createdAt: string;
}

/**
 * `which`: a person has to choose an entry; `number`: a person has to say how its number is counted; `nowhere`: no entry
 * is like it; `same`: it is what the game has.
 */
export type ArrivalState = 'waiting' | 'which' | 'number' | 'nowhere' | 'same' | 'refused';

/** A dropped file that is no change yet. */
export interface ArrivalAnswer {
  readonly id: number;
  readonly drop: number;
  readonly name: string;
  readonly kind: KindName;
  readonly size: number;
  readonly state: ArrivalState;
  readonly path: string | null;
  readonly why: string | null;
  readonly choices: readonly MatchChoice[];
  readonly fault: FaultAnswer | null;
}

/** Dropped files that wait for something; of very many, the first. */
export interface ArrivalsAnswer {
  readonly total: number;
  readonly rows: readonly ArrivalAnswer[];
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

export interface BuildFile {
  readonly name: string;
  readonly size: number;
  readonly sha256: string;
}

export interface InstallFile extends BuildFile {
  /** The original's hash, kept in storage; none when the file is new in the folder. */
  readonly original: string | null;
  readonly originalSize: number;
  /** Milliseconds since 1970. */
  readonly originalModified: number;
}

export interface JudgeFinding {
  readonly severity: 'stop' | 'note';
  readonly code: string;
  readonly file: string;
  readonly entry?: string;
  readonly offset: number;
  readonly rule: string;
  readonly found: string;
}

export interface JudgeReport {
  readonly started: boolean;
  readonly steps: readonly { readonly what: string; readonly count: number; readonly milliseconds: number }[];
  readonly findings: readonly JudgeFinding[];
  readonly files: readonly {
    readonly file: string;
    readonly folder: number;
    readonly entries: number;
    readonly bytes: number;
  }[];
  readonly scene: null | {
    readonly caption: string;
    readonly language: string;
    readonly livery: { readonly path: string; readonly from: string };
    readonly tannoy: { readonly path: string; readonly from: string };
    /** Hashes of the scene's picture and sound in storage. */
    readonly pictureBlob?: string;
    readonly soundBlob?: string;
  };
  /** Changed pictures and sounds as they are seen and heard in the game, with the build and, where known, before it. */
  readonly shown: readonly {
    readonly path: string;
    readonly from: string;
    readonly kind: 'picture' | 'sound';
    readonly blob: string;
    readonly before?: string;
  }[];
}

export interface BuildAnswer {
  readonly id: number;
  readonly number: number;
  readonly how: string;
  readonly files: readonly BuildFile[];
  readonly changes: readonly string[];
  readonly proof: ProofAnswer | null;
  readonly report: JudgeReport | null;
  readonly createdAt: string;
}

export interface InstallAnswer {
  readonly id: number;
  readonly build: number;
  readonly state: 'putting-in' | 'in' | 'taking-out' | 'out';
  readonly files: number;
  readonly kept: number;
  readonly putInAt: string;
  readonly takenOutAt: string | null;
}

export interface PutBackAnswer {
  readonly builds: readonly BuildAnswer[];
  readonly installs: readonly InstallAnswer[];
  readonly before: JudgeReport['scene'];
}

export interface RecipeAnswer {
  readonly id: string;
  readonly title: string;
  readonly revision: number;
  readonly needs: Readonly<Record<string, string>>;
  readonly text: string;
  /** Why the newest revision cannot be used; an older one stands in for it, if there is one. */
  readonly fault: FaultAnswer | null;
  /** True while nobody has saved a revision of their own. */
  readonly shipped: boolean;
  /** Older revisions and the one that ships, the newest first. */
  readonly revisions: readonly { readonly revision: number; readonly text: string; readonly savedAt: string | null }[];
}

/** The longest recipe text that is taken in. */
const MAX_RECIPE_CHARACTERS = 1 << 20;
export const recipeText = z.object({ text: z.string().min(1).max(MAX_RECIPE_CHARACTERS) });
export const recipeTry = recipeText.extend({
  gameId: z.number().int(),
  archiveId: z.number().int(),
  quick: z.boolean().optional(),
});

/** A fault with the recipe's line, and the place in the file. */
export interface PlacedFault extends FaultAnswer {
  readonly line: number | null;
  readonly at: number | null;
}

export interface CheckAnswer {
  readonly fault: PlacedFault | null;
}

export interface TriedField {
  readonly region: string;
  readonly shape: string;
  readonly row: number;
  readonly field: string;
  readonly at: number;
  readonly length: number;
  readonly volume: number;
  readonly unlocked: boolean;
  readonly value: string;
  readonly formula?: string;
  readonly must?: string;
  readonly line: number;
}

export interface TryAnswer {
  readonly fault: PlacedFault | null;
  readonly entries?: number;
  readonly paths?: readonly string[];
  readonly complaints?: readonly PlacedFault[];
  readonly proof?: {
    readonly bytes: { readonly explained: number; readonly total: number; readonly first: PlacedFault | null };
    readonly formulas: { readonly agree: number; readonly total: number; readonly first: PlacedFault | null };
    readonly identical: { readonly same: boolean; readonly first: PlacedFault | null };
    readonly changed: {
      readonly equal: number;
      readonly tested: number;
      readonly total: number;
      readonly first: PlacedFault | null;
    };
  } | null;
  readonly regions?: readonly {
    readonly name: string;
    readonly line: number;
    readonly at: number;
    readonly length: number;
    readonly volume: number;
    readonly unlocked: boolean;
  }[];
  readonly fields?: readonly TriedField[];
  readonly unexplained?: readonly { readonly at: number; readonly length: number }[];
}

type Word = readonly [word: string, about: string];

/** Words of the recipe language, for completion. */
export interface VocabularyAnswer {
  readonly words: readonly Word[];
  readonly kinds: readonly Word[];
  readonly functions: readonly Word[];
  readonly steps: readonly Word[];
  readonly hashes: readonly Word[];
}

export interface HintsAnswer {
  readonly size: number;
  /** Bits a byte of equal stretches. */
  readonly randomness: readonly number[];
  readonly hints: readonly {
    readonly what: string;
    readonly at: number;
    readonly length: number;
    readonly lines: readonly {
      readonly part: 'match' | 'header' | 'row' | 'regions' | 'entries';
      readonly text: string;
    }[];
  }[];
}

/** Folders on the server that can be chosen. */
export interface PlacesAnswer {
  /** The demo game's folder, when it has been made. */
  readonly demo: string | null;
  /** Where things are taken out to when nobody says. */
  readonly out: string;
  /** None at the top, where the allowed roots are listed. */
  readonly folder: string | null;
  readonly parent: string | null;
  readonly folders: readonly string[];
  /** Files right in the folder. */
  readonly files: number;
}

export interface RunAnswer {
  readonly id: number;
  readonly gameId: number | null;
  readonly kind: string;
  readonly title: string;
  readonly state: RunState;
  readonly done: number;
  readonly total: number;
  readonly unit: string;
  readonly log: readonly { readonly at: string; readonly text: string }[];
  readonly result: Readonly<Record<string, unknown>> | null;
  readonly fault: FaultAnswer | null;
  readonly createdAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

const path = z.string().min(1).max(4096);
/** Characters of a note on a change. */
const MAX_NOTE = 4000;
const id = z.coerce.number().int().positive();

export const newGame = z.strictObject({ folder: path, name: z.string().min(1).max(120).optional() });
export const loadOrderEdit = z.strictObject({
  loadOrder: loadOrderRule.optional(),
  byHand: z.array(path).max(10_000).optional(),
});
export type LoadOrderEdit = z.output<typeof loadOrderEdit>;
export const patternEdit = z.strictObject({
  pattern: z.string().max(1000),
  /** Word lists by name, a word a line. */
  words: z.record(z.string().regex(/^[A-Za-z][\w-]{0,40}$/), z.string().max(4 << 20)).default({}),
});
export type PatternEdit = z.output<typeof patternEdit>;
export const recipeChoice = z.strictObject({ recipe: z.string().min(1).max(200) });
export const newKey = z.strictObject({ text: z.string().min(1).max(65_536) });
export const keySearchOrder = z.strictObject({ file: path });
export const xorOrder = z
  .strictObject({
    text: z.string().max(4096).optional(),
    hex: z
      .string()
      .regex(/^([0-9a-f]{2}){1,4096}$/i)
      .optional(),
    /** Where the known bytes stand; anywhere, when nobody knows. */
    at: z.number().int().min(0).optional(),
    /** Which of the solutions is kept as a key. */
    keep: z.number().int().min(0).optional(),
  })
  .refine(({ text, hex }) => (text === undefined) !== (hex === undefined), 'says the known bytes as text or as hex');
export type XorOrder = z.output<typeof xorOrder>;
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
export const trayListText = z.strictObject({ text: z.string().max(64 << 20) });
export const trayEdit = z.strictObject({
  add: z.array(path).max(100_000).default([]),
  addFolder: z.string().max(4096).optional(),
  /** A list, or parts of one: what somebody selected. */
  addList: listPart.optional(),
  remove: z.array(path).max(100_000).default([]),
  clear: z.boolean().default(false),
});
export const takeOutOrder = z.strictObject({
  to: path,
  /** `labels`: in their folders, called by their labels where they have one. */
  layout: z.enum(['folders', 'flat', 'labels']).default('folders'),
  form: z.enum(['open', 'stored']).default('open'),
  /** What pictures become; without it they go out as the game has them. */
  pictures: z.enum(PICTURE_OUT).optional(),
  /** The same for sounds. */
  sounds: z.enum(SOUND_OUT).optional(),
  /** Which mip goes out, of formats that keep one; the smallest where there are fewer. */
  mip: z.coerce.number().int().min(0).max(16).default(0),
  /** A rule that splits the channels of pictures. */
  split: z.string().max(400).optional(),
  /** Sounds lose the silence before and behind them. */
  trim: z.stringbool().or(z.boolean()).default(false),
  /** All sounds go into one file, with a cue sheet. */
  join: z.boolean().default(false),
  /** What an earlier run wrote, of the same content, is passed over. */
  onlyChanged: z.boolean().default(false),
});
export type TakeOutOrder = z.output<typeof takeOutOrder>;
export const zipQuery = takeOutOrder.pick({
  layout: true,
  pictures: true,
  sounds: true,
  mip: true,
  split: true,
  trim: true,
});
const level = z.coerce.number().int().min(0).max(4096).default(0);
export const levelQuery = z.object({ mip: level, layer: level, face: level });
export type LevelQuery = z.output<typeof levelQuery>;
export const buildOrder = z.strictObject({ how: z.enum(['patch', 'keep']) });
export const sceneQuery = z.object({
  when: z.enum(['before', 'after']),
  /** A part of the title scene, or the place of something that is shown. */
  what: z.union([z.enum(['picture', 'sound']), z.coerce.number().int().min(0)]),
});
export const changeEdit = z.strictObject({
  undone: z.boolean().optional(),
  note: z.string().max(MAX_NOTE).optional(),
});
export type ChangeEdit = z.output<typeof changeEdit>;
/** What a person may ask of how a file is made to fit. */
export const fitWishes = z.strictObject({
  /** How long fitting blocks may take. */
  quality: z.enum(['fast', 'best']).optional(),
  /** How a picture is packed is chosen by its pixels, and not by the original. */
  chosen: z.boolean().optional(),
  /** A picture keeps its own size. */
  ownSize: z.boolean().optional(),
  /** A sound is made as loud as the original. */
  loudness: z.boolean().optional(),
  /** The file is one part of a packed picture, by a rule that splits it. */
  part: z.strictObject({ rule: z.string().max(400), suffix: z.string().max(40) }).optional(),
});
export type FitWishes = z.output<typeof fitWishes>;
/** Entries that a change is to be brought to as well. */
export const alsoOrder = z.strictObject({ paths: z.array(path).min(1).max(100) });
/** Undoes all that came with a drop. */
export const dropEdit = z.strictObject({ undone: z.literal(true) });
export const pathQuery = z.object({ path });
export const arrivalQuery = z.object({ name: path, path: path.optional() });
export const arrivalEdit = z.strictObject({ path });
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
