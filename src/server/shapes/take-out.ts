/** The tray, and how it goes out. */
import { z } from 'zod';
import { FONT_OUT } from '../../core/forms/font/out-formats';
import { MESH_OUT } from '../../core/forms/mesh/out-formats';
import { PICTURE_OUT } from '../../core/forms/picture/out-formats';
import { SOUND_OUT } from '../../core/forms/sound/out-formats';
import { path } from './common';
import { listPart, entryRow } from './lists';

/** What a list brought into the tray. */
export const trayListed = z.object({
  added: z.number(),
  /** Lines that no entry has as its path, with the first of them. */
  unknown: z.number(),
  first: z.array(z.string()).readonly(),
});
export type TrayListed = Readonly<z.output<typeof trayListed>>;

export const trayAnswer = z.object({
  total: z.number(),
  bytes: z.number(),
  rows: z.array(entryRow).readonly(),
  /** Those of the rows that hold a part of a picture among them, and go out in it when pictures are turned. */
  parts: z.array(z.string()).readonly(),
  /** Those that are clips, which go out with a mesh. */
  clips: z.array(z.string()).readonly(),
});
export type TrayAnswer = Readonly<z.output<typeof trayAnswer>>;

export const trayListText = z.strictObject({ text: z.string().max(64 << 20) });

export const trayEdit = z.strictObject({
  add: z.array(path).max(100_000).default([]),
  addFolder: z.string().max(4096).optional(),
  /** A list, or parts of one: what someone selected. */
  addList: listPart.optional(),
  remove: z.array(path).max(100_000).default([]),
  clear: z.boolean().default(false),
});

const existing = z.enum(['keep', 'aside', 'replace']);

/** Files that can be decided on one by one. */
export const MOST_DECISIONS = 1_000;

export const takeOutOrder = z.strictObject({
  /** A folder; null for one ZIP that is downloaded. */
  to: path.nullable(),
  /** `labels`: in their folders, called by their labels where they have one. */
  layout: z.enum(['folders', 'flat', 'labels']).default('folders'),
  form: z.enum(['open', 'stored']).default('open'),
  /** What pictures become; without it they go out as the game has them. */
  pictures: z.enum(PICTURE_OUT).optional(),
  /** The same for sounds. */
  sounds: z.enum(SOUND_OUT).optional(),
  /** The same for meshes; a clip goes out with the mesh it moves. */
  meshes: z.enum(MESH_OUT).optional(),
  /** Clips that go out with a mesh: those that name it, or those of them that are taken out too. */
  clips: z.enum(['all', 'taken', 'none']).default('all'),
  /** All levels of detail go out, of formats that keep them; only the most detailed otherwise. */
  levels: z.stringbool().or(z.boolean()).default(false),
  /** Units of an STL file for each metre. */
  scale: z.coerce.number().positive().max(1_000_000).default(1000),
  /** Closed shells of an STL file are united into one solid. */
  solid: z.stringbool().or(z.boolean()).default(false),
  /** The same for films: the packets of one go out as one film, with its subtitles next to it. */
  films: z.enum(['webm', 'mp4']).optional(),
  /** What fonts with outlines become. */
  fonts: z.enum(FONT_OUT).optional(),
  /** Which mip goes out, of formats that keep one; the smallest where there are fewer. */
  mip: z.coerce.number().int().min(0).max(16).default(0),
  /** A rule that splits the channels of pictures. */
  split: z.string().max(400).optional(),
  /** Sounds lose the silence before and behind them. */
  trim: z.stringbool().or(z.boolean()).default(false),
  /** All sounds go into one file, with a cue sheet. */
  join: z.boolean().default(false),
  /** What an earlier run wrote, of the same content, is skipped. */
  onlyChanged: z.boolean().default(false),
  /**
   * What happens to files that are there and that no run wrote, or that were changed since: they stay, are moved aside, or
   * are written over.
   */
  existing: existing.default('keep'),
  /** The same for single files, by their paths below the folder. */
  decisions: z
    .record(z.string().max(4096), existing)
    .refine((decisions) => Object.keys(decisions).length <= MOST_DECISIONS, `names at most ${MOST_DECISIONS} files`)
    .default({}),
});

/** A file where a run would write that holds someone's work, or may. */
export const clash = z.object({
  /** Below the folder. */
  path: z.string(),
  size: z.number(),
  modified: z.string(),
});
export type Clash = Readonly<z.output<typeof clash>>;

export const clashesAnswer = z.object({
  count: z.number(),
  /** The first of them: as many as can be decided on one by one. */
  first: z.array(clash).readonly(),
});
export type ClashesAnswer = Readonly<z.output<typeof clashesAnswer>>;

export type TakeOutOrder = z.output<typeof takeOutOrder>;
