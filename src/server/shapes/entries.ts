/** Entries: found, looked at, compared, labelled. */
import { z } from 'zod';
import { CATALOGUE_SORTS } from '../../core/catalogue';
import { soughtSchema, TEXT_ENCODINGS } from '../../core/inside';
import { MAX_LABEL } from '../../core/labels';
import { id, path, KIND_NAMES } from './common';
import { filmFacts } from './films';

/** What an entry is in the merged game: it wins, another covers it, or it says that one is gone. */
export const entryRole = z.enum(['wins', 'covered', 'removes']);

export const entryRow = z.object({
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  name: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
  changed: z.boolean(),
  role: entryRole,
  /** What somebody noted on it. */
  label: z.string().nullable(),
});
export type EntryRow = Readonly<z.output<typeof entryRow>>;

export const entryPage = z.object({
  total: z.number(),
  bytes: z.number(),
  kinds: z.partialRecord(z.enum(KIND_NAMES), z.number()),
  /** How many lie in each archive that has any, in load order. */
  archives: z
    .array(
      z.object({
        id: z.number(),
        path: z.string(),
        count: z.number(),
      }),
    )
    .readonly(),
  rows: z.array(entryRow).readonly(),
});
export type EntryPage = Readonly<z.output<typeof entryPage>>;

export const folderRow = z.object({
  path: z.string(),
  name: z.string(),
  count: z.number(),
  /** True when it has folders of its own. */
  folders: z.boolean(),
});
export type FolderRow = Readonly<z.output<typeof folderRow>>;

/** What a table of labels would name, by each way it can be read. */
export const labelTableAnswer = z.object({
  rows: z.number(),
  /** Labels that were set; 0 while nothing was taken. */
  set: z.number(),
  ways: z
    .array(
      z.object({
        take: z.enum(['by path', 'from 0', 'from 1']),
        fits: z.number(),
        shown: z
          .array(
            z.object({
              path: z.string(),
              text: z.string(),
            }),
          )
          .readonly(),
        unmatched: z
          .array(
            z.object({
              of: z.string(),
              line: z.number(),
            }),
          )
          .readonly(),
      }),
    )
    .readonly(),
});
export type LabelTableAnswer = Readonly<z.output<typeof labelTableAnswer>>;

export const shareAnswer = z.object({
  name: z.string(),
  count: z.number(),
  bytes: z.number(),
  stored: z.number(),
});
export type ShareAnswer = Readonly<z.output<typeof shareAnswer>>;

export interface FolderShare extends ShareAnswer {
  readonly path: string;
  readonly under: readonly FolderShare[];
}
const folderShare: z.ZodType<FolderShare> = shareAnswer.extend({
  path: z.string(),
  get under() {
    return z.array(folderShare).readonly();
  },
});
const place = z.object({
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
});
const overview = z.object({
  total: shareAnswer,
  /** The largest folders, two deep, below the folder that is looked at. */
  folders: z.array(folderShare).readonly(),
  kinds: z.array(shareAnswer.extend({ kind: z.enum(KIND_NAMES) })).readonly(),
  biggest: z.array(place).readonly(),
  /** Groups of entries with one content, the most wasteful first, as far as archives keep checksums. */
  duplicates: z.array(z.object({ size: z.number(), count: z.number(), entries: z.array(place).readonly() })).readonly(),
  /** Bytes of all duplicates but the first of each. */
  duplicateBytes: z.number(),
});

/** What a game, or a part of it, is made of. */
export const overviewAnswer = overview.extend({
  archives: z
    .array(
      shareAnswer.extend({
        archive: z.number(),
      }),
    )
    .readonly(),
  /** By how entries are packed, in words. */
  methods: z.array(shareAnswer).readonly(),
  /** Archives with bytes that no field of their recipe explains. */
  unexplained: z
    .array(
      z.object({
        archive: z.number(),
        path: z.string(),
        bytes: z.number(),
      }),
    )
    .readonly(),
});
export type OverviewAnswer = Readonly<z.output<typeof overviewAnswer>>;

/** A place in an entry where something was found. */
export const hitAnswer = z.object({
  number: z.number(),
  archive: z.number(),
  /** -1 in a file that nothing reads. */
  n: z.number(),
  path: z.string(),
  kind: z.enum(KIND_NAMES),
  at: z.number(),
  length: z.number(),
  /** As what it stands there, such as UTF-16. */
  form: z.string(),
  /** Bytes around it in base64; it begins at `lead` in them. */
  around: z.string(),
  lead: z.number(),
});
export type HitAnswer = Readonly<z.output<typeof hitAnswer>>;

export const hitsPage = z.object({
  total: z.number(),
  entries: z.number(),
  rows: z.array(hitAnswer).readonly(),
});
export type HitsPage = Readonly<z.output<typeof hitsPage>>;

/** What an entry names and what names it. */
export const linksAnswer = z.object({
  /** False while nobody has looked. */
  known: z.boolean(),
  /** Entries have changed since. */
  stale: z.boolean(),
  uses: z.array(z.string()).readonly(),
  usedBy: z.array(z.string()).readonly(),
  /** Everything near, for drawing. */
  around: z
    .array(
      z.object({
        from: z.string(),
        to: z.string(),
      }),
    )
    .readonly(),
});
export type LinksAnswer = Readonly<z.output<typeof linksAnswer>>;

export const comparedSide = z.object({
  game: z.number(),
  /** As a person knows it, with its build. */
  gameName: z.string(),
  archive: z.number(),
  n: z.number(),
  path: z.string(),
  kind: z.enum(KIND_NAMES),
  size: z.number(),
  archivePath: z.string(),
  mime: z.string(),
  /** A picture that is packed in a way no browser reads. */
  packed: z.boolean(),
  /** A sound whose archive tells what it is. */
  told: z.boolean(),
});
export type ComparedSide = Readonly<z.output<typeof comparedSide>>;

/** A stretch where two differ: so many bytes on the left stand for so many on the right. */
const difference = z.object({ left: z.number(), leftLength: z.number(), right: z.number(), rightLength: z.number() });

/** Two entries beside each other. */
export const comparedAnswer = z.object({
  left: comparedSide,
  right: comparedSide,
  same: z.boolean(),
  /** Bytes both begin with. */
  start: z.number(),
  differences: z.array(difference).readonly(),
  /** There are more differences than are told. */
  cut: z.boolean(),
  /** Which holds more, in a sentence. */
  verdict: z.string(),
});
export type ComparedAnswer = Readonly<z.output<typeof comparedAnswer>>;

export const savedSearch = z.object({
  id: z.number(),
  name: z.string(),
  /** The place as the address has it. */
  place: z.string(),
});
export type SavedSearch = Readonly<z.output<typeof savedSearch>>;

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
  /** Set when its archive tells what kind of sound it is. */
  sound: soundFacts.nullable(),
  /** Set for a mesh or a clip that can be read. */
  mesh: meshFacts.nullable(),
  /** Set for a film, and for each packet of one. */
  film: filmFacts.nullable(),
  /** Why a mesh or a film cannot be shown as one. */
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
  z.object({
    is: z.literal('text'),
    lines: z.array(z.string()).readonly(),
  }),
  z.object({
    is: z.literal('nothing'),
  }),
]);
export type Glance = Readonly<z.output<typeof glance>>;

/** The next place where something stands; null when it stands nowhere in the rest. */
export const placeInBytes = z.object({
  found: z
    .object({
      at: z.number(),
      length: z.number(),
    })
    .nullable(),
});
export type PlaceInBytes = Readonly<z.output<typeof placeInBytes>>;

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

/** A place in an entry, or in a file itself when `n` is -1, that a text was found at. */
const textPlace = {
  archive: z.coerce.number().int().positive(),
  n: z.coerce.number().int().min(-1),
  at: z.coerce.number().int().min(0),
  length: z.coerce.number().int().min(1).max(4096),
  encoding: z.preprocess((value) => String(value).toLowerCase(), z.enum(TEXT_ENCODINGS)),
};
export const textPlaceQuery = z.object(textPlace);
export type TextPlace = z.output<typeof textPlaceQuery>;

/** Other words for it. `join`: the file goes into builds with them. */
export const textOrder = z.strictObject({ ...textPlace, text: z.string().max(65_536), join: z.boolean() });
export type TextOrder = z.output<typeof textOrder>;

export const textPlaceAnswer = z.object({
  /** The file or entry it is in. */
  path: z.string(),
  at: z.number(),
  /** Bytes of its place. */
  length: z.number(),
  encoding: z.string(),
  text: z.string(),
  fill: z.enum(['zeros', 'spaces']),
  /** Bytes of the number in front that tells its length; 0 where none does. */
  counted: z.number(),
});
export type TextPlaceAnswer = Readonly<z.output<typeof textPlaceAnswer>>;

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

const level = z.coerce.number().int().min(0).max(4096).default(0);

export const levelQuery = z.object({ mip: level, layer: level, face: level });

export type LevelQuery = z.output<typeof levelQuery>;
