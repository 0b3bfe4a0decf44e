/** Every word a recipe may hold, checked with Zod; the same schema drives completion in the workbench. */
import { z } from 'zod';
import { ENCODINGS } from '../kinds/text-codec';
import { FORM_PARTS, FORM_WORDS, soundText } from './form-parts';
import { formula, name, scalar, whole } from './scalars';

const endian = z.enum(['little', 'big']);
const values = z.union([scalar, z.array(scalar).min(1)]);
const must = z.union([values, z.strictObject({ not: values.describe('what it must not be') })]);

const part = z.union([
  formula.transform((bits) => ({
    bits,
    must: undefined,
    is: undefined,
    new: undefined,
    patch: undefined,
    note: undefined,
  })),
  z.strictObject({
    bits: formula.describe('a bit such as 0, or a range such as 4..7; bit 0 is the lowest'),
    must: must.optional(),
    is: formula.optional(),
    new: formula.optional(),
    patch: formula.optional(),
    note: z.string().optional(),
  }),
]);

const sort = z.union([formula.transform((key) => [key]), z.array(formula).min(1)]);

const checkText = z.strictObject({
  that: formula.describe('what has to hold'),
  say: z.string().min(1).max(300).describe('what is wrong where it does not'),
});
const checks = z.union([checkText.transform((one) => [one]), z.array(checkText).min(1)]);

const step = z.union([
  formula.transform((use) => ({ use, when: undefined })),
  z.strictObject({ use: formula.describe('a step'), when: formula.optional().describe('the step is taken only then') }),
]);
const steps = z.union([step.transform((one) => [one]), z.array(step)]);

const fieldText = z.strictObject({
  field: name.describe('the name of the field'),
  as: z.union([formula, z.record(z.string(), formula)]).describe('its kind; with `by`, one kind for each value'),
  by: formula.optional().describe('chooses among the kinds of `as`'),
  numbers: endian.optional().describe('endianness of this field'),
  must: must.optional().describe('what it has to be: a value, a list of values, a range'),
  is: formula.optional().describe('the formula of its value in the finished file'),
  new: formula.optional().describe('its value in a new row or file, or `neighbour`'),
  changed: formula.optional().describe('its value once the bytes of its entry are others'),
  patch: formula
    .optional()
    .describe('its value in a patch that is made for the archive; its own name is the value there'),
  when: formula.optional().describe('the field is there only when this holds'),
  values: z.record(z.string(), z.string()).optional().describe('names for its values'),
  parts: z.record(name, part).optional().describe('names for its bits'),
  at: formula.optional().describe('the offset where it lies, when it is elsewhere'),
  align: whole.min(1).optional().describe('alignment of a field that lies elsewhere'),
  size: formula.optional().describe('the bytes it is confined to'),
  through: steps.optional().describe('steps from its stored bytes to those of its kind'),
  sort: sort.optional().describe('order of the rows'),
  check: checks.optional().describe('conditions over the fields of its shape, each with a message'),
  note: z.string().optional(),
});

const regionText = z.strictObject({
  region: name.describe('the name of the region'),
  volume: name.optional().describe('the set of volumes it lies in'),
  at: formula.optional().describe('the offset where it starts'),
  search: formula.optional().describe('bytes that mark its start: "TEXT" or hex(…)'),
  from: formula.optional().describe('where the search begins'),
  backwards: z.boolean().optional().describe('search from the end'),
  within: whole.min(1).optional().describe('the search crosses no more bytes than these'),
  optional: z.boolean().optional().describe('it may be missing unless its `when` holds'),
  length: formula.optional().describe('its stored length'),
  plain: formula.optional().describe('its length behind `through`'),
  when: formula.optional().describe('the region is there only when this holds'),
  through: steps.optional().describe('steps from the stored bytes to the plain ones'),
  holds: formula.describe('a kind, `entries`, or `bytes`'),
  align: whole
    .min(1)
    .max(1 << 30)
    .optional()
    .describe('its start (that of each entry) is a multiple of this'),
  fill: whole.max(255).optional().describe('the byte between what is aligned'),
  order: z.enum(['rows', 'any']).optional().describe('whether entries must lie in the order of their rows'),
  gaps: z.enum(['none', 'kept']).optional().describe('whether bytes may lie unused between entries'),
  tail: whole
    .min(2)
    .max(1 << 30)
    .optional()
    .describe('padding after the last entry, up to a multiple of this'),
  sort: sort.optional().describe('order of the rows'),
  slots: z
    .strictObject({
      by: formula.describe(
        'the number that, divided by how many slots there are, leaves the slot where a search begins',
      ),
      free: formula.describe('holds for a slot that was never used, where a search ends'),
      deleted: formula.optional().describe('holds for a slot whose row was removed, where a search goes on'),
      step: formula.optional().describe('how many slots further a search goes on'),
      full: whole
        .min(1)
        .max(99)
        .optional()
        .describe('the most used slots of a hundred, before there are twice as many'),
    })
    .optional()
    .describe('its rows are slots of a hash table'),
  note: z.string().optional(),
});

const foldersText = z.strictObject({
  each: formula.describe('NAME in PLACE: the rows of folders'),
  path: formula.optional().describe('the whole path of a folder'),
  name: formula.optional().describe('its own name'),
  parent: formula.optional().describe('the number of the folder above'),
  top: z
    .enum(['row', 'none'])
    .optional()
    .describe('whether what lies at the top has a row of its own; without it, as it was found'),
});

const blocksText = z.strictObject({
  size: formula.describe('plain bytes of every block but the last'),
  stored: formula.describe('stored bytes of a block'),
  through: steps.optional().describe('steps of a block'),
  align: whole.min(1).optional().describe('every block starts at a multiple of this'),
  each: formula.optional().describe('NAME in PLACE: one table of blocks for all entries'),
  first: formula.optional().describe('the number of the entry’s first block, in the table or in a chain'),
  number: formula.optional().describe('the number of a block in the table, where entries list the numbers of theirs'),
  count: formula.optional().describe('how many blocks an entry has, where they are not all of one size'),
  at: formula.optional().describe('where a block lies, when they do not lie one behind the other'),
  next: formula.optional().describe('the number of the block that follows block.number, where blocks are chained'),
});

const wordsText = z.strictObject({
  locale: formula.describe('the language of the texts'),
  key: formula.optional().describe('the key of a text; the name of the entry without it'),
  most: formula.optional().describe('bytes a text may have'),
  encoding: z.enum(ENCODINGS).optional().describe('how a text is written; utf-8 without it'),
});

const languagesText = z.strictObject({
  code: formula.describe('the language, as tables of texts say their locale'),
});

const filmText = z.strictObject({
  stream: formula.describe('the number of the stream a packet belongs to'),
  time: formula.describe('when it is shown or heard, in milliseconds'),
  stands: formula.optional().describe('milliseconds that a subtitle is shown; until the next one without it'),
  streams: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the rows of streams'),
      is: formula.describe('pictures, sound or subtitles'),
      codec: formula.describe(
        'what a packet holds: png, jpeg, h264, mpeg2, vp8, vp9; a codec of sounds such as pcm-s16; utf-8',
      ),
      locale: formula.optional().describe('its language'),
      rate: formula.optional().describe('frames or samples a second'),
      channels: formula.optional().describe('of sound; 1 without it'),
      block: formula.optional().describe('bytes of a block, of codecs that have blocks'),
      width: formula.optional().describe('pixels of a frame along x'),
      height: formula.optional().describe('and along y'),
      folder: formula.describe('the folder of its packets, which are called by their times'),
      ending: formula.describe('the ending of their names, with its dot'),
    })
    .describe('what the packets belong to'),
  digits: whole.min(1).max(12).optional().describe('digits of the times in the names of packets; 6 without it'),
});

const madeText = z.strictObject({
  path: z.string().min(1).describe('the path of the entry'),
  each: formula.describe('what it holds for each of the others: a text or bytes'),
  only: formula.optional().describe('which of the others'),
  sort: formula.optional().describe('the order of the others; that of the rows without it'),
  first: formula.optional().describe('what comes first: a text or bytes'),
});

const entriesText = z.strictObject({
  each: formula.describe('NAME in PLACE: the rows of entries'),
  beside: z
    .array(formula)
    .optional()
    .describe('further tables with one row for each entry, in step or by a number: `slot in table by slot.file`'),
  only: formula.optional().describe('which rows are entries'),
  path: formula.optional().describe('the path of an entry'),
  hash: formula.optional().describe('where the hash of the path is'),
  hashing: formula.optional().describe('how a path becomes that hash, with entry.path'),
  id: formula.optional().describe('a number or text the game knows the entry by'),
  volume: formula.optional().describe('the volume its bytes lie in'),
  at: formula.optional().describe('the offset of its stored bytes'),
  stored: formula.optional().describe('its stored length'),
  size: formula.optional().describe('its plain length'),
  time: formula.optional().describe('when it was changed'),
  unique: z
    .union([formula.transform((key) => [key]), z.array(formula).min(1)])
    .optional()
    .describe('what no two entries share: `path`, or a formula'),
  check: checks.optional().describe('conditions that hold for every entry, each with a message'),
  content: z
    .array(
      z.strictObject({
        when: formula.optional().describe('for which entries; for all that come to it without it'),
        holds: name.describe('the shape of their plain bytes'),
      }),
    )
    .min(1)
    .optional()
    .describe('what the plain bytes of entries must look like: the first that fits is compared in the proof'),
  together: z
    .strictObject({
      group: formula.describe('a text that entries of one group share; nothing, or an empty text, for those of none'),
      along: formula.describe('holds for the entries that go along when a patch changes any of their group'),
    })
    .optional()
    .describe('entries that the game reads only together with others'),
  deleted: formula.optional().describe('holds for deletion markers'),
  directory: formula.optional().describe('holds for rows that are folders, and have no bytes'),
  prefixed: z
    .array(formula)
    .min(1)
    .optional()
    .describe(
      'each holds where the row that it finds next to an entry is a header of the entry, and goes when the entry goes',
    ),
  link: z
    .strictObject({
      to: formula.describe(
        'the path of the entry whose bytes it shares; nothing, or an empty text, for entries that are no links',
      ),
      relative: formula.optional().describe('holds for links whose path begins at their own folder'),
    })
    .optional()
    .describe('entries that are links to others, and have no bytes of their own'),
  data: formula.optional().describe('the field that holds its bytes'),
  wrap: name.optional().describe('the shape around its bytes'),
  folder: formula.optional().describe('the number of its folder'),
  folders: foldersText.optional(),
  blocks: blocksText.optional(),
  through: steps.optional().describe('steps from its stored bytes to the plain ones'),
  method: formula.optional().describe('the field that names its chain'),
  methods: z.record(z.string(), steps).optional().describe('the chains by that field'),
  sound: soundText.optional().describe('entries are sounds without a header: their rows tell what kind'),
  film: filmText.optional().describe('entries are packets of a film'),
  words: wordsText.optional().describe('entries are texts by key, each table in one language'),
  languages: languagesText.optional().describe('entries are the languages the game offers'),
  made: z.array(madeText).min(1).optional().describe('entries whose content follows from the others'),
  names: z
    .strictObject({
      in: z.string().min(1).describe('the path of the entry that lists them'),
      ends: z.string().min(1).optional().describe('what ends each of them; a line break without it'),
    })
    .optional()
    .describe('where the archive itself lists the paths of hashed entries'),
});

const signatureText = z.strictObject({
  at: z.number().int().describe('offset; negative counts from the end'),
  within: z
    .number()
    .int()
    .min(1)
    .max(1 << 20)
    .optional()
    .describe('the bytes begin anywhere in so many from there on'),
  bytes: z.string().min(1).describe('ASCII text, or hex with spaces'),
  mask: z.string().optional().describe('hex; only these bits count'),
});
const matchAll = z.union([
  signatureText.transform((one) => [one]),
  z.strictObject({ all: z.array(signatureText).min(1) }).transform(({ all }) => all),
]);

const matchText = z
  .union([matchAll.transform((one) => [one]), z.array(matchAll).min(1)])
  .optional()
  .describe('bytes that tell the format');

/** A recipe's text with nothing but what it looks for. */
export const matchSchema = z.strictObject({ match: matchText });

const volumeText = z.union([
  z.string().transform((file) => ({ file, first: undefined, limit: undefined, optional: undefined })),
  z.strictObject({
    file: z.string().min(1).describe('file name with {stem}, {name}, {n} or {n:000}; ** for every file of the folder'),
    first: whole.optional().describe('number of the first of numbered volumes'),
    limit: whole.min(1).optional().describe('the most bytes of one volume'),
    optional: z.boolean().optional().describe('the archive opens without it'),
  }),
]);

const needText = z.union([z.string(), z.strictObject({ key: z.string() }).transform(({ key }) => key)]);

const ownStep = z.strictObject({
  takes: z.array(name).optional().describe('names of its parameters'),
  shared: z.string().min(1).optional().describe('JavaScript that both functions may use'),
  decode: z.string().min(1).describe('a JavaScript function (bytes, parameters) that gives the plain bytes'),
  encode: z.string().optional().describe('its inverse'),
});

export const recipeSchema = z.strictObject({
  recipe: name.describe('the id of the recipe'),
  title: z.string().min(1).describe('what people call the format'),
  revision: z.number().int().min(1).describe('counted up with every change'),
  note: z.string().optional(),
  collection: name
    .optional()
    .describe('recipes of one game or engine: those of forms are used only where one of its archives is'),
  numbers: z
    .union([endian, z.strictObject({ from: formula, little: scalar.optional(), big: scalar.optional() })])
    .describe('endianness of numbers'),
  match: matchText,
  paths: z
    .union([z.string().transform((path) => [path]), z.array(z.string().min(1).max(200)).min(1).max(100)])
    .optional()
    .describe('paths of the entries that a recipe of a form is for: `*` is any name, `**` any folders'),
  volumes: z.record(name, volumeText).optional().describe('the files of one archive, the main one first'),
  needs: z.record(name, needText).optional().describe('key slots and the kind of key they want'),
  let: z.record(name, formula).optional().describe('names for formulas'),
  build: formula.optional().describe('a text that names the build of the game the file comes from'),
  variants: z
    .strictObject({ from: formula, known: z.record(z.string(), name) })
    .optional()
    .describe('names for versions'),
  steps: z.record(name, ownStep).optional().describe('own steps'),
  hashes: z
    .record(
      name,
      z.union([
        z.string().min(1),
        z
          .strictObject({
            takes: z.array(name).optional().describe('names of its parameters'),
            hash: z.string().min(1).describe('JavaScript: the hash of all bytes'),
          })
          .describe('a hash with parameters'),
      ]),
    )
    .optional()
    .describe('hashes of its own'),
  wrapped: steps.optional().describe('steps the whole main file goes through'),
  shapes: z.record(name, z.array(fieldText).min(1)).describe('named lists of fields'),
  regions: z.array(regionText).min(1).describe('the parts of the file, in the order of a new one'),
  duplicates: z.enum(['keep', 'share']).optional().describe('whether new entries with equal bytes share them'),
  alone: z
    .boolean()
    .optional()
    .describe(
      '`true`: the game reads this one file and none beside it; `false`: it also reads further ones, which come last',
    ),
  layouts: z
    .array(z.enum(['keep', 'append', 'afresh']))
    .min(1)
    .optional()
    .describe('the layouts of a rebuilt archive that the game loads, the preferred one first'),
  last: z.boolean().optional().describe('a file has this format only when it has no other'),
  strict: z.boolean().optional().describe('the archive does not open when anything about it is wrong'),
  presents: z
    .enum(['archive', 'folder', ...FORM_WORDS])
    .describe('`folder` for loose files that are each scrambled; the others for what an entry holds'),
  ...FORM_PARTS,
  entries: entriesText.describe('how rows become entries'),
});

export type RecipeText = z.output<typeof recipeSchema>;
export type FieldText = RecipeText['shapes'][string][number];
export type RegionText = RecipeText['regions'][number];
export type StepText = NonNullable<RegionText['through']>[number];
