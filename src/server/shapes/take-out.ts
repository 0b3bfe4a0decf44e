/** The tray, and how it goes out. */
import { z } from 'zod';
import { PICTURE_OUT } from '../../core/forms/picture/out-formats';
import { SOUND_OUT } from '../../core/forms/sound/out-formats';
import { path } from './common';
import { type EntryRow, listPart } from './entries';

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
  /** Those of the rows that hold a part of a picture among them, and go out in it when pictures are turned. */
  readonly parts: readonly string[];
}

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
