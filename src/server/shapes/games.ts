/** Games, their archives, keys, names and builds, as the station Open shows them. */
import { noteSchema } from '../../core/notes';
import { z } from 'zod';
import { type GameProfile, loadOrderRule } from '../../core/game';
import { path, KIND_NAMES, faultAnswer } from './common';
import { proofAnswer } from './proof';
import { runAnswer } from './runs';
import { keyAnswer } from './keys';

export type { GameProfile };

/** `unsure`: several recipes fit, and a person has to choose. */
export const archiveState = z.enum(['open', 'locked', 'unknown', 'damaged', 'unsure']);

export type ArchiveState = Readonly<z.output<typeof archiveState>>;

/** What the game changed in an archive, compared with the build before. */
export const archiveNews = z.object({
  /** The build before, when it was known. */
  since: z.string().nullable(),
  added: z.number(),
  changed: z.number(),
  gone: z.number(),
  /** Some of the paths, with what happened to them. */
  samples: z
    .array(
      z.object({
        path: z.string(),
        what: z.enum(['added', 'changed', 'gone']),
      }),
    )
    .readonly(),
});

export type ArchiveNews = Readonly<z.output<typeof archiveNews>>;

/** What a scan found that was otherwise the time before. */
export const scanNews = z.object({
  added: z.array(z.string()).readonly(),
  changed: z.array(z.string()).readonly(),
  moved: z
    .array(
      z.object({
        from: z.string(),
        to: z.string(),
      }),
    )
    .readonly(),
  gone: z.array(z.string()).readonly(),
  /** The build before this scan, when it was another one. */
  buildBefore: z.string().nullable(),
});

export type ScanNews = Readonly<z.output<typeof scanNews>>;

export const scanAnswer = z.object({
  scannedAt: z.string(),
  build: z.string().nullable(),
  files: z.number(),
  bytes: z.number(),
  news: scanNews,
  /** Folders and files that could not be looked at, in words. */
  trouble: z.array(z.string()).readonly(),
});

export type ScanAnswer = Readonly<z.output<typeof scanAnswer>>;

/** A stretch of the strip. Neighbours of one kind are joined, so that a million entries draw as few hundred bands. */
export const stripBand = z.object({
  at: z.number(),
  length: z.number(),
  what: z.union([
    z.enum(KIND_NAMES),
    z.literal('region'),
    z.literal('locked'),
    z.literal('fill'),
    z.literal('unexplained'),
  ]),
  name: z.string().optional(),
});

export type StripBand = Readonly<z.output<typeof stripBand>>;

/** A recipe that fits a file, and why. */
export const fitAnswer = z.object({
  recipe: z.string(),
  title: z.string(),
  reason: z.string(),
});

export type FitAnswer = Readonly<z.output<typeof fitAnswer>>;

export const archiveAnswer = z.object({
  id: z.number(),
  path: z.string(),
  title: z.string().nullable(),
  state: archiveState,
  slots: z.record(z.string(), z.string()),
  fault: faultAnswer.nullable(),
  /** Bytes of all its files. */
  size: z.number(),
  /** Its files, the main one first; empty while it is not open. */
  volumes: z
    .array(
      z.object({
        name: z.string(),
        size: z.number(),
      }),
    )
    .readonly(),
  entryCount: z.number(),
  proof: proofAnswer.nullable(),
  bands: z.array(stripBand).readonly(),
  /** The archive it is an entry of. */
  parent: z.number().nullable(),
  /** Archives right inside it. */
  inside: z.number(),
  /** It stores hashes of names; `namedCount` of its entries have a name. */
  hashed: z.boolean(),
  named: z.number(),
  /** Entries that cover one of an archive before. */
  covers: z.number(),
  /** Markers that say an entry of an archive before is gone. */
  removes: z.number(),
  news: archiveNews.nullable(),
  /** What was found in a file no recipe knows; null until it has been searched. */
  found: z
    .object({
      kinds: z.partialRecord(z.enum(KIND_NAMES), z.number()),
      randomness: z.array(z.number()).readonly(),
    })
    .nullable(),
  /** Several, where a person has to choose or has chosen. */
  fits: z.array(fitAnswer).readonly(),
  recipe: z.string().nullable(),
});

export type ArchiveAnswer = Readonly<z.output<typeof archiveAnswer>>;

/** Archives inside another; of very many, the first. */
export const insideAnswer = z.object({
  total: z.number(),
  rows: z
    .array(
      z.object({
        id: z.number(),
        path: z.string(),
        name: z.string(),
        state: archiveState,
        fault: faultAnswer.nullable(),
        size: z.number(),
        entryCount: z.number(),
        /** A picture of it to know it by. */
        picture: z
          .object({
            archive: z.number(),
            n: z.number(),
          })
          .nullable(),
      }),
    )
    .readonly(),
});

export type InsideAnswer = Readonly<z.output<typeof insideAnswer>>;

/** What of a profile was new here. */
export const profileTaken = z.object({
  recipes: z.number(),
  nameLists: z.number(),
  notes: z.array(z.string()).readonly(),
  run: runAnswer,
});

export type ProfileTaken = Readonly<z.output<typeof profileTaken>>;

export const nameListAnswer = z.object({
  id: z.number(),
  name: z.string(),
  kind: z.enum(['list', 'pattern', 'harvest']),
  tested: z.number(),
  matched: z.number(),
  /** Conflicts and lines that are no names, in words. */
  notes: z.array(noteSchema).readonly(),
});

export type NameListAnswer = Readonly<z.output<typeof nameListAnswer>>;

/** Files of the folder that are no archives and have a form of their own. */
export const looseFiles = z.object({
  files: z.number(),
  bytes: z.number(),
});

export type LooseFiles = Readonly<z.output<typeof looseFiles>>;

export const gameAnswer = z.object({
  id: z.number(),
  name: z.string(),
  folder: z.string(),
  scannedAt: z.string().nullable(),
  build: z.string().nullable(),
  /** Where the build was found, in words. */
  buildFrom: z.string().nullable(),
  lastScan: scanAnswer.nullable(),
  loadOrder: loadOrderRule,
  /** Someone has put archives in an order of their own. */
  ordered: z.boolean(),
  archives: z.array(archiveAnswer).readonly(),
  loose: looseFiles,
  keys: z.array(keyAnswer).readonly(),
  nameLists: z.array(nameListAnswer).readonly(),
  entryCount: z.number(),
  trayCount: z.number(),
  changeCount: z.number(),
  /** Dropped files that need someone. */
  waitingFiles: z.number(),
  /** Active changes that are not in the newest build. */
  behind: z.number(),
  lastBuild: z.number().nullable(),
  installed: z.boolean(),
});

export type GameAnswer = Readonly<z.output<typeof gameAnswer>>;

export const gameRow = z.object({
  id: z.number(),
  name: z.string(),
  folder: z.string(),
  archives: z.number(),
  build: z.string().nullable(),
  /** When it was set aside; its keys, changes and builds are still there. */
  forgottenAt: z.string().nullable(),
});

export type GameRow = Readonly<z.output<typeof gameRow>>;

/** Folders on the server that can be chosen. */
export const placesAnswer = z.object({
  /** The demo game's folder, when it has been made. */
  demo: z.string().nullable(),
  /** The default folder for taking out. */
  out: z.string(),
  /** Below which games lie that were sent through the browser. */
  sent: z.string(),
  /** None at the top, where the allowed roots are listed. */
  folder: z.string().nullable(),
  parent: z.string().nullable(),
  folders: z.array(z.string()).readonly(),
  /** Files right in the folder. */
  files: z.number(),
});

export type PlacesAnswer = Readonly<z.output<typeof placesAnswer>>;

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
