/** Builds, their test runs, and what is in the game folder. */
import { faultSchema } from '../../core/faults';
import { z } from 'zod';
import { HOWS, testRule, type How } from '../../core/game';
import { CHANGE_ACTIONS } from './changes';
import { path } from './common';
import { proofAnswer } from './proof';
import { takeOutOrder } from './take-out';
import { judgeReport } from './judge';

export { HOWS, type How };

/** Ways of single archives, by their paths in the game's folder. */
export const archiveWays = z.record(z.string().min(1).max(4096), z.enum(HOWS));

export const testRulesAnswer = z.object({
  /** Below which folder the game looks for loose files; empty for its own. */
  looseFolder: z.string(),
  /** Each rule with its sentence. */
  rules: z
    .array(
      z.object({
        rule: testRule,
        title: z.string(),
      }),
    )
    .readonly(),
});

export type TestRulesAnswer = Readonly<z.output<typeof testRulesAnswer>>;

export const testRulesEdit = z.strictObject({
  how: z.enum(HOWS).optional(),
  rules: z.array(testRule).max(1000).optional(),
  looseFolder: z
    .string()
    .max(4096)
    .refine((text) => !/(^|\/)\.{1,2}(\/|$)|\\|^\//.test(text), 'is no folder inside the game')
    .optional(),
});

export type TestRulesEdit = z.output<typeof testRulesEdit>;

/** One step of a routine. */
export const routineStep = z.discriminatedUnion('do', [
  /** Takes entries out as the game has them now; what has not changed since is skipped. */
  z.strictObject({
    do: z.literal('take-out'),
    order: takeOutOrder.extend({ to: path }),
    paths: z.array(path).min(1).max(100_000),
  }),
  /** Brings the files of a folder back, as if they were dropped. */
  z.strictObject({ do: z.literal('bring-in'), folder: path }),
  /** Builds and tests; a build that fails its test ends the routine. */
  z.strictObject({ do: z.literal('build'), how: z.enum(HOWS), archives: archiveWays.optional() }),
  /** Puts the build in; one that is in is taken out first. */
  z.strictObject({ do: z.literal('put-in') }),
]);

export type RoutineStep = z.output<typeof routineStep>;

export const routineOrder = z.strictObject({
  name: z.string().trim().min(1).max(80),
  steps: z.array(routineStep).min(1).max(20),
});

export type RoutineOrder = z.output<typeof routineOrder>;

export const routineAnswer = z.object({
  id: z.number(),
  name: z.string(),
  steps: z.array(routineStep).readonly(),
});

export type RoutineAnswer = Readonly<z.output<typeof routineAnswer>>;

/** A routine with the game it is of. */
export const namedRoutine = z.object({
  id: z.number(),
  name: z.string(),
  game: z.number(),
  gameName: z.string(),
});

export type NamedRoutine = Readonly<z.output<typeof namedRoutine>>;

/** A change as it went into a build: enough to build it again. */
export const builtChange = z.object({
  path: z.string(),
  /** Empty where an entry is removed. */
  blob: z.string(),
  size: z.number().optional(),
  fileName: z.string().optional(),
  kind: z.string().optional(),
  action: z.enum(CHANGE_ACTIONS).optional(),
  into: z.string().optional(),
  loop: z.tuple([z.number(), z.number()]).readonly().optional(),
  base: z.string().optional(),
  /** The mod it came with, by its name. */
  mod: z.string().optional(),
  /** Set where it belongs to another change, and is not listed by itself. */
  beside: z.boolean().optional(),
});

export type BuiltChange = Readonly<z.output<typeof builtChange>>;

/** How a build is laid out: one way for all, and others for single archives, by their paths in the game's folder. */
export const buildWays = z.object({
  how: z.enum(HOWS),
  archives: z.record(z.string(), z.enum(HOWS)),
});

export type BuildWays = Readonly<z.output<typeof buildWays>>;

const wayRefusal = z.object({
  /** The archive's path in the game's folder. */
  archive: z.string(),
  /** The change that is in the way; null where it is all of them. */
  entry: z.string().nullable(),
  fault: faultSchema,
});

/** Why an archive, or a change in it, cannot go into a build in some way. */
export type WayRefusal = Readonly<z.output<typeof wayRefusal>>;

const wayAnswer = z.object({
  how: z.enum(HOWS),
  bytes: z.number(),
  files: z.array(z.string()).readonly(),
  /** Why nothing is built that way, whatever is done with single archives. */
  refused: faultSchema.nullable(),
  /** Archives that do not go that way: they may go another. */
  refusals: z.array(wayRefusal).readonly(),
});

/** What a way to build would write, in bytes and files; or why it cannot be done. */
export type WayAnswer = Readonly<z.output<typeof wayAnswer>>;

export const waysAnswer = z.object({
  ways: z.array(wayAnswer).readonly(),
  /** Their paths in the game's folder. */
  archives: z.array(z.string()).readonly(),
});

/** What each way would write, and the archives that something changes in. */
export type WaysAnswer = Readonly<z.output<typeof waysAnswer>>;

export const buildFile = z.object({ name: z.string(), size: z.number(), sha256: z.string() });

export type BuildFile = Readonly<z.output<typeof buildFile>>;

export const installFile = buildFile.extend({
  /** The original's hash, kept in storage; none when the file is new in the folder. */
  original: z.string().nullable(),
  /** A part of its temporary name; absent in what older versions put in. */
  token: z.string().optional(),
  originalSize: z.number(),
  /** Milliseconds since 1970. */
  originalModified: z.number(),
  originalMode: z.number().optional(),
  /** Folders that had to be made for it, the outermost first. */
  newFolders: z.array(z.string()).readonly().optional(),
  /** When the file that was put in was written; absent in what older versions put in. */
  placedModified: z.number().optional(),
});

export type InstallFile = Readonly<z.output<typeof installFile>>;

/** A file that was put in, as the folder shows it now. */
export const installedFileStatus = z.object({
  name: z.string(),
  is: z.enum(['ours', 'original', 'other', 'gone']),
});

export type InstalledFileStatus = Readonly<z.output<typeof installedFileStatus>>;

/** A change that went into a build, as a page lists it. */
export const toldChange = z.object({
  path: z.string(),
  action: z.enum(CHANGE_ACTIONS),
  mod: z.string().nullable(),
});

export type ToldChange = Readonly<z.output<typeof toldChange>>;

export const buildAnswer = z.object({
  id: z.number(),
  number: z.number(),
  how: z.enum(HOWS),
  archives: buildWays.shape.archives,
  files: z.array(buildFile).readonly(),
  /** How many changes are in it, and the first of them. */
  changes: z.number(),
  first: z.array(toldChange).readonly(),
  proof: proofAnswer.nullable(),
  report: judgeReport.nullable(),
  createdAt: z.string(),
});

export type BuildAnswer = Readonly<z.output<typeof buildAnswer>>;

export const installAnswer = z.object({
  id: z.number(),
  build: z.number(),
  state: z.enum(['putting-in', 'in', 'taking-out', 'out']),
  files: z.number(),
  kept: z.number(),
  putInAt: z.string(),
  takenOutAt: z.string().nullable(),
  /** The status in the folder of the files that were put in; null when the build is out. */
  seen: z.array(installedFileStatus).readonly().nullable(),
  leftAlone: z.array(z.string()).readonly(),
});

export type InstallAnswer = Readonly<z.output<typeof installAnswer>>;

export const putBackAnswer = z.object({
  builds: z.array(buildAnswer).readonly(),
  installs: z.array(installAnswer).readonly(),
  /** What each way would write; null until it is worked out for the changes there are now. */
  ways: waysAnswer.nullable(),
  /** The way that the game reads, by its profile or the recipes of its archives; null where neither says. */
  reads: z.enum(HOWS).nullable(),
  /** Tells the changes there are now, those of mods too, from others. */
  mark: z.string(),
  before: judgeReport.shape.scene,
});

export type PutBackAnswer = Readonly<z.output<typeof putBackAnswer>>;

/** `leave`: files that something else wrote since stay as they are. */
export const takeBackOrder = z.strictObject({ leave: z.boolean().default(false) });

export const buildOrder = z.strictObject({
  how: z.enum(HOWS),
  /** Archives that are built in another way. */
  archives: archiveWays.default({}),
  /** Builds the changes of this build again, and not those of now. */
  again: z.number().int().positive().optional(),
});

export const sceneQuery = z.object({
  when: z.enum(['before', 'after']),
  /** A part of the title scene, or the place of something that is shown. */
  what: z.union([z.enum(['picture', 'sound', 'film', 'film-sound']), z.coerce.number().int().min(0)]),
});
