/** An entry as its form shows it. */
import { z } from 'zod';
import { id } from './common';
import { filmFacts } from './films';
import { formFacts } from './form-facts';
import { entryRow } from './lists';

export const entryFieldAnswer = z.object({
  field: z.string(),
  value: z.string(),
  at: z.number(),
  length: z.number(),
  unlocked: z.boolean(),
  formula: z.string().nullable(),
});

export const pictureFacts = z.object({
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
  beside: z.array(z.string()).readonly(),
  /** True when a browser shows its bytes as they are. */
  direct: z.boolean(),
  /** What its file leaves free: how it is packed, and its size. */
  free: z.object({
    format: z.boolean(),
    size: z.boolean(),
  }),
});

export type PictureFacts = Readonly<z.output<typeof pictureFacts>>;

/** A sound without a header, as its archive tells of it. */
export const soundFacts = z.object({
  /** Codec, channels and rate in words. */
  says: z.string(),
  seconds: z.number(),
  /** What is played over and over, in seconds. */
  loop: z.tuple([z.number(), z.number()]).readonly().nullable(),
  /** Why it is not offered as a sound: its codec is not known, or decoding it gives noise. */
  trouble: z.string().nullable(),
});

export type SoundFacts = Readonly<z.output<typeof soundFacts>>;

/** What a mesh has that programs may dislike. */
const inspection = z.object({
  parts: z.number(),
  vertices: z.number(),
  triangles: z.number(),
  /** Pieces that share no place with another. */
  shells: z.number(),
  /** How many of them are closed: every edge has two triangles. */
  closed: z.number(),
  /** Rings of edges that only one triangle has. */
  holes: z.number(),
  /** Edges that more than two triangles share. */
  nonManifold: z.number(),
  /** Triangles without area. */
  flat: z.number(),
  /** Along x, y and z, in units of the game. */
  size: z.tuple([z.number(), z.number(), z.number()]).readonly(),
});

/** A mesh, or a clip that moves one. */
export const meshFacts = z.object({
  /** Levels of detail, the most detailed first; none of a clip. */
  levels: z
    .array(
      z.object({
        /** The distance from which on it is drawn, in units of the game. */
        from: z.number(),
        parts: z.number(),
        triangles: z.number(),
        vertices: z.number(),
      }),
    )
    .readonly(),
  /** Of the most detailed level. */
  inspection: inspection.nullable(),
  /** Along x, y and z. */
  millimetres: z.tuple([z.number(), z.number(), z.number()]).readonly().nullable(),
  joints: z.array(z.string()).readonly(),
  materials: z
    .array(
      z.object({
        name: z.string(),
        textures: z
          .array(
            z.object({
              path: z.string(),
              there: z.boolean(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
  /** Clips that move it. */
  clips: z
    .array(
      z.object({
        path: z.string(),
        name: z.string(),
      }),
    )
    .readonly(),
  clip: z
    .object({
      /** Path of the mesh it moves, where it names one. */
      mesh: z.string().nullable(),
      there: z.boolean(),
      rate: z.number(),
      frames: z.number(),
      loops: z.boolean(),
      joints: z.number(),
    })
    .nullable(),
});

export type MeshFacts = Readonly<z.output<typeof meshFacts>>;

/** One level of a picture: what has to be known to unpack its bytes. */
export const levelHead = z.object({
  width: z.number(),
  height: z.number(),
  format: z.string(),
  srgb: z.boolean(),
});

export type LevelHead = Readonly<z.output<typeof levelHead>>;

export const entryDetails = entryRow.extend({
  archivePath: z.string(),
  /** The file its bytes lie in, which is another than the archive's main one in archives of several volumes. */
  file: z.string(),
  /** 0 is the main file, -1 where the offset counts in unlocked bytes, and not in a file. */
  volume: z.number(),
  stored: z.number(),
  at: z.number(),
  method: z.string(),
  /** What of it is behind a key. */
  locked: z.object({
    index: z.boolean(),
    entry: z.boolean(),
  }),
  mime: z.string(),
  /** Its archive can be without it. */
  removable: z.boolean(),
  inTray: z.boolean(),
  /** Archives that hold the same path and load before. */
  covers: z
    .array(
      z.object({
        archive: z.number(),
        n: z.number(),
        path: z.string(),
      }),
    )
    .readonly(),
  /** The archive that loads last of those that load after it and hold the same path. */
  coveredBy: z.string().nullable(),
  /** The same path in other games, such as another build of this one. */
  elsewhere: z
    .array(
      z.object({
        game: z.number(),
        name: z.string(),
        archive: z.number(),
        n: z.number(),
      }),
    )
    .readonly(),
  fields: z.array(entryFieldAnswer).readonly(),
  picture: pictureFacts.nullable(),
  /** Set when its archive says what kind of sound it is. */
  sound: soundFacts.nullable(),
  /** Set for a mesh or a clip that can be read. */
  mesh: meshFacts.nullable(),
  /** Set for a film, and for each packet of one. */
  film: filmFacts.nullable(),
  /** Set for forms of the registry, such as fonts. */
  facts: formFacts.nullable(),
  /** Why it cannot be shown as what it is. */
  trouble: z.string().nullable(),
  expects: z.array(z.string()).readonly(),
});

export type EntryDetails = Readonly<z.output<typeof entryDetails>>;

/** An entry at a glance, for its card: what there is to say of it without opening it. */
export const glance = z.union([
  z.object({
    is: z.literal('picture'),
    width: z.number(),
    height: z.number(),
    packing: z.string(),
  }),
  z.object({
    is: z.literal('sound'),
    seconds: z.number(),
    peaks: z.array(z.number()).readonly().nullable(),
    says: z.string(),
  }),
  z.object({
    is: z.literal('film'),
    seconds: z.number(),
  }),
  z.object({
    is: z.literal('mesh'),
    triangles: z.number(),
  }),
  /** A form of the registry, which has a drawing as its thumbnail. */
  z.object({
    is: z.literal('drawn'),
    says: z.string(),
  }),
  z.object({
    is: z.literal('text'),
    lines: z.array(z.string()).readonly(),
  }),
  z.object({
    is: z.literal('nothing'),
  }),
]);

export type Glance = Readonly<z.output<typeof glance>>;

export const glanceOrder = z.strictObject({ entries: z.array(z.tuple([id, z.number().int().min(0)])).max(60) });

const level = z.coerce.number().int().min(0).max(4096).default(0);

export const levelQuery = z.object({ mip: level, layer: level, face: level });

export type LevelQuery = z.output<typeof levelQuery>;
