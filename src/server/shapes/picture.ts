/** What pages show of a picture, and the levels they unpack. */
import { z } from 'zod';

export const pictureFacts = z.object({
  form: z.literal('picture'),
  width: z.number(),
  height: z.number(),
  alpha: z.boolean(),
  /** How its pixels are packed, such as `BC1`. */
  packing: z.string(),
  mips: z.number(),
  layers: z.number(),
  faces: z.number(),
  srgb: z.boolean(),
  /** Paths of the entries that hold parts of it. */
  companions: z.array(z.string()).readonly(),
  /** True when a browser shows its bytes as they are. */
  direct: z.boolean(),
  /** What its file leaves free: how it is packed, and its size. */
  free: z.object({
    format: z.boolean(),
    size: z.boolean(),
  }),
});

export type PictureFacts = Readonly<z.output<typeof pictureFacts>>;

/** One level of a picture: what has to be known to unpack its bytes. */
export const levelHead = z.object({
  width: z.number(),
  height: z.number(),
  format: z.string(),
  srgb: z.boolean(),
});

export type LevelHead = Readonly<z.output<typeof levelHead>>;

const level = z.coerce.number().int().min(0).max(4096).default(0);

export const levelQuery = z.object({ mip: level, layer: level, face: level });

export type LevelQuery = z.output<typeof levelQuery>;
