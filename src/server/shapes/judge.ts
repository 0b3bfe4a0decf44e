/** What a test of a build found. */
import { z } from 'zod';

export const judgeFinding = z.object({
  severity: z.enum(['stop', 'note']),
  code: z.string(),
  file: z.string(),
  entry: z.string().optional(),
  offset: z.number(),
  rule: z.string(),
  found: z.string(),
});

export type JudgeFinding = Readonly<z.output<typeof judgeFinding>>;

/** What a command of the user's own said of a build. */
export const commandReport = z.object({
  /** Null when it was ended because it took too long. */
  exit: z.number().nullable(),
  seconds: z.number(),
  /** The end of what it wrote. */
  output: z.string(),
});

export type CommandReport = Readonly<z.output<typeof commandReport>>;

const drawn = z.object({ path: z.string(), from: z.string() });

export const judgeScene = z.object({
  caption: z.string(),
  language: z.string(),
  livery: drawn,
  tannoy: drawn,
  /** Hashes of the scene's picture and sound in storage. */
  pictureBlob: z.string().optional(),
  soundBlob: z.string().optional(),
});

export const judgeFilm = z.object({
  file: z.string(),
  seconds: z.number(),
  /** Times in milliseconds. */
  subtitles: z.array(z.object({ time: z.number(), text: z.string() })).readonly(),
  pictureBlob: z.string(),
  soundBlob: z.string(),
});

export const judgeReport = z.object({
  /** The stand-in game, or the rules of the profile. */
  by: z.enum(['stand-in', 'rules']).optional(),
  command: commandReport.optional(),
  /** Rules that the build was checked by; without any, nothing was checked. */
  rules: z.number().optional(),
  started: z.boolean(),
  steps: z
    .array(
      z.object({
        what: z.string(),
        count: z.number(),
        milliseconds: z.number(),
      }),
    )
    .readonly(),
  findings: z.array(judgeFinding).readonly(),
  files: z
    .array(
      z.object({
        file: z.string(),
        folder: z.number(),
        entries: z.number(),
        bytes: z.number(),
      }),
    )
    .readonly(),
  scene: judgeScene.nullable(),
  /** The film behind the title; its frames as an animated picture and its sound in storage. Reports of older builds have none. */
  film: judgeFilm.nullable().optional(),
  /** Changed pictures and sounds as they are seen and heard in the game, with the build and, where known, before it. */
  shown: z
    .array(
      z.object({
        path: z.string(),
        from: z.string(),
        kind: z.enum(['picture', 'sound']),
        blob: z.string(),
        before: z.string().optional(),
      }),
    )
    .readonly(),
});

export type JudgeReport = Readonly<z.output<typeof judgeReport>>;
