/** Builds, what the stand-in game says of them, and what is in the game folder. */
import { z } from 'zod';
import { testRule, type TestRule } from '../../core/game';
import { type ChangeAction } from './changes';
import { path } from './common';
import { type ProofAnswer } from './games';
import { takeOutOrder } from './take-out';

/**
 * `patch`: a small archive that loads last; `keep`: rebuilt where it was, `append`: rebuilt with what grew at the end,
 * `afresh`: rebuilt from the start; `loose`: files beside the game.
 */
export const HOWS = ['patch', 'keep', 'append', 'afresh', 'loose'] as const;
export type How = (typeof HOWS)[number];
/** Ways of single archives, by their paths in the game's folder. */
export const archiveWays = z.record(z.string().min(1).max(4096), z.enum(HOWS));

export interface TestRulesAnswer {
  /** Below which folder the game looks for loose files; empty for its own. */
  readonly looseFolder: string;
  /** Each rule with its sentence. */
  readonly rules: readonly { readonly rule: TestRule; readonly says: string }[];
}

export const testRulesEdit = z.strictObject({
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
  /** Takes entries out as the game has them now; what has not changed since is passed over. */
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

export interface RoutineAnswer {
  readonly id: number;
  readonly name: string;
  readonly steps: readonly RoutineStep[];
}

/** A routine with the game it is of. */
export interface NamedRoutine {
  readonly id: number;
  readonly name: string;
  readonly game: number;
  readonly gameName: string;
}

/** A change as it went into a build: enough to build it again. */
export interface BuiltChange {
  readonly path: string;
  /** Empty where an entry is removed. */
  readonly blob: string;
  readonly size?: number;
  readonly fileName?: string;
  readonly kind?: string;
  readonly action?: ChangeAction;
  readonly into?: string;
  readonly loop?: readonly [number, number];
  readonly base?: string;
  /** The mod it came with, by its name. */
  readonly mod?: string;
  /** Set where it goes with another, and is not told by itself. */
  readonly beside?: boolean;
}

/** How a build is laid out: one way for all, and others for single archives, by their paths in the game's folder. */
export interface BuildWays {
  readonly how: How;
  readonly archives: Readonly<Record<string, How>>;
}

const wayRefusal = z.object({
  /** The archive's path in the game's folder. */
  archive: z.string(),
  /** The change that stands in the way; null where it is all of them. */
  entry: z.string().nullable(),
  why: z.string(),
});
/** Why an archive, or a change in it, cannot go into a build in some way. */
export type WayRefusal = Readonly<z.output<typeof wayRefusal>>;

const wayAnswer = z.object({
  how: z.enum(HOWS),
  bytes: z.number(),
  files: z.array(z.string()).readonly(),
  /** Why nothing is built that way, whatever is done with single archives. */
  refused: z.string().nullable(),
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

export interface InstallFile extends BuildFile {
  /** The original's hash, kept in storage; none when the file is new in the folder. */
  readonly original: string | null;
  /** A part of its temporary name; absent in what older versions put in. */
  readonly token?: string;
  readonly originalSize: number;
  /** Milliseconds since 1970. */
  readonly originalModified: number;
  readonly originalMode?: number;
  /** Folders that had to be made for it, the outermost first. */
  readonly newFolders?: readonly string[];
  /** When the file that was put in was written; absent in what older versions put in. */
  readonly placedModified?: number;
}

/** A file that was put in, as the folder shows it now. */
export interface SeenFile {
  readonly name: string;
  readonly is: 'ours' | 'original' | 'other' | 'gone';
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

/** What a command of the user's own said of a build. */
export interface CommandReport {
  /** Null when it was ended because it took too long. */
  readonly exit: number | null;
  readonly seconds: number;
  /** The end of what it wrote. */
  readonly output: string;
}

export interface JudgeReport {
  /** The stand-in game, or the rules of the profile. */
  readonly by?: 'stand-in' | 'rules';
  readonly command?: CommandReport;
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
  /** The film behind the title; its frames as an animated picture and its sound in storage. Reports of older builds have none. */
  readonly film?: null | {
    readonly file: string;
    readonly seconds: number;
    /** Times in milliseconds. */
    readonly subtitles: readonly { readonly time: number; readonly text: string }[];
    readonly pictureBlob: string;
    readonly soundBlob: string;
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

/** A change that went into a build, as a page lists it. */
export interface ToldChange {
  readonly path: string;
  readonly action: ChangeAction;
  readonly mod: string | null;
}

export interface BuildAnswer {
  readonly id: number;
  readonly number: number;
  readonly how: How;
  readonly archives: BuildWays['archives'];
  readonly files: readonly BuildFile[];
  /** How many changes are in it, and the first of them. */
  readonly changes: number;
  readonly first: readonly ToldChange[];
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
  /** What the folder itself says of the files that were put in; null when the build is out. */
  readonly seen: readonly SeenFile[] | null;
  readonly leftAlone: readonly string[];
}

export interface PutBackAnswer {
  readonly builds: readonly BuildAnswer[];
  readonly installs: readonly InstallAnswer[];
  /** What each way would write; null until it is worked out for the changes there are now. */
  readonly ways: WaysAnswer | null;
  /** Tells the changes there are now, those of mods too, from others. */
  readonly mark: string;
  readonly before: JudgeReport['scene'];
}

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
