/** Games, their archives, keys, names and builds, as the station Open shows them. */
import { z } from 'zod';
import { type GameProfile, loadOrderRule, type LoadOrderRule } from '../../core/game';
import { type FaultAnswer, type KindName, path } from './common';
import { type RunAnswer } from './runs';

export type { GameProfile };

/** `unsure`: several recipes fit, and a person has to choose. */
export type ArchiveState = 'open' | 'locked' | 'unknown' | 'damaged' | 'unsure';

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
  /** What people do with an archive: done and read back. It holds when the format forbids the rest. */
  readonly edits: {
    readonly done: number;
    readonly total: number;
    readonly holds: boolean;
    /** Why the format forbids the first of the rest. */
    readonly forbidden: string | null;
  };
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
export const keySearchFind = z.object({
  mask: z.string(),
  at: z.number(),
  written: z.enum(['raw', 'hex', 'base64', 'schedule', 'text', 'derived']),
  archive: z.string(),
  slot: z.string(),
});
export type KeySearchFind = Readonly<z.output<typeof keySearchFind>>;

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

/** Files of the folder that are no archives and have a form of their own. */
export interface LooseFiles {
  readonly files: number;
  readonly bytes: number;
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
  readonly loose: LooseFiles;
  readonly keys: readonly KeyAnswer[];
  readonly nameLists: readonly NameListAnswer[];
  readonly entryCount: number;
  readonly trayCount: number;
  readonly changeCount: number;
  /** Dropped files that need somebody. */
  readonly waitingFiles: number;
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

/** Folders on the server that can be chosen. */
export interface PlacesAnswer {
  /** The demo game's folder, when it has been made. */
  readonly demo: string | null;
  /** Where things are taken out to when nobody says. */
  readonly out: string;
  /** Below which games lie that were sent through the browser. */
  readonly sent: string;
  /** None at the top, where the allowed roots are listed. */
  readonly folder: string | null;
  readonly parent: string | null;
  readonly folders: readonly string[];
  /** Files right in the folder. */
  readonly files: number;
}

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
