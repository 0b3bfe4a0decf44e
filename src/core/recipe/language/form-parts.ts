/** What a recipe says of a form that it presents, such as a picture. */
import { z } from 'zod';
import { formula, name, whole } from './scalars';

/** How the colours of a palette are stored: `rgb6` has 0 to 63 in each byte, as VGA has it. */
export const PALETTE_KINDS = ['rgb8', 'bgr8', 'rgba8', 'bgra8', 'rgb6'] as const;
export type PaletteKind = (typeof PALETTE_KINDS)[number];

/** How one number of a vertex or a pose is kept: `unorm8` represents 0 to 1, `snorm16` -1 to 1. */
export const NUMBER_KINDS = [
  ...(['f32', 'f16', 'u8', 'i8', 'u16', 'i16', 'u32'] as const),
  ...(['unorm8', 'snorm8', 'unorm16', 'snorm16'] as const),
] as const;
export const VERTEX_NUMBERS = ['position', 'normal', 'tangent', 'uv', 'colour', 'joints', 'weights'] as const;
export const POSE_NUMBERS = ['turn', 'position'] as const;

/** Names of pixel formats are checked when a picture is read: the file may tell them. */
const pictureText = z.strictObject({
  width: formula.describe('pixels of the largest mip along x'),
  height: formula.describe('pixels along y'),
  format: formula.describe('how the pixels are packed: rgba8, bc1, bc3, index8 …'),
  srgb: formula.optional().describe('holds when its colours are sRGB; plain numbers otherwise'),
  mips: formula.optional().describe('how many mips there are; 1 without it'),
  palette: z
    .strictObject({
      from: formula.describe('the region with its colours; it holds `bytes`'),
      as: z.enum(PALETTE_KINDS).describe('how a colour is stored'),
    })
    .optional()
    .describe('the colours of pixels in `index8` or `index8a8`; grey where the region is not there'),
  pixels: z
    .array(
      z.strictObject({
        from: formula.describe('the region with their bytes; it holds `bytes`'),
        first: formula.optional().describe('the first mip in it; 0 is the largest'),
        mips: formula.optional().describe('how many mips lie in it; all that follow without it'),
        align: whole.min(1).optional().describe('every mip starts at a multiple of this, and is filled up to one'),
        posts: formula
          .optional()
          .describe('its one mip is columns of posts in `index8a8`, whose offsets count from so far before the region'),
      }),
    )
    .min(1)
    .describe('where the mips are'),
  rectangles: z
    .strictObject({
      each: z.string().describe('the rows that tell of them: `part in region`'),
      name: formula.describe('what the small picture is called'),
      x: formula.describe('its left side, in pixels of the largest mip'),
      y: formula.describe('its upper side'),
      width: formula.describe('its pixels along x'),
      height: formula.describe('its pixels along y'),
    })
    .optional()
    .describe('small pictures in the picture, each an entry of its own'),
});

/** Numbers of a vertex or a pose: what they are, how they are kept, and where in its bytes. */
const attributeText = <T extends readonly [string, ...string[]]>(of: T) =>
  z.strictObject({
    is: z.enum(of).describe('what the numbers are'),
    as: z.enum(NUMBER_KINDS).describe('how each is kept'),
    at: formula.describe('where they start in the bytes of one'),
    when: formula.optional().describe('they are there only when this holds'),
  });

const arrayBytes = formula.describe('the bytes that an array lies in: a field of the part’s row');

const three = z.tuple([formula, formula, formula]);

const meshText = z.strictObject({
  unit: z
    .union([z.number().positive(), z.string()])
    .optional()
    .describe('metres that one unit is, a number or a formula; 1 without it'),
  up: z.enum(['y', 'z']).optional().describe('the axis that points up; y without it'),
  materials: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the rows of materials'),
      name: formula.describe('what a material is called'),
      textures: formula.optional().describe('paths of its pictures: a list of texts, or one'),
    })
    .optional(),
  joints: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the rows of joints'),
      name: formula.describe('what a joint is called'),
      parent: formula.describe('the number of the joint it hangs on; below 0 for none'),
      at: three.describe('where it is, from its parent'),
      turn: z
        .tuple([formula, formula, formula, formula])
        .optional()
        .describe('how it is turned: a quaternion x, y, z, w'),
    })
    .optional(),
  levels: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the levels of detail, the most detailed first'),
      from: formula.optional().describe('the distance from which on it is drawn'),
      parts: formula.describe('how many of the parts belong to it'),
    })
    .optional(),
  bounds: z
    .strictObject({ low: three.describe('the smallest x, y and z'), high: three.describe('and the largest') })
    .optional()
    .describe('fields with the box around all vertices'),
  parts: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the rows of parts'),
      material: formula.optional().describe('the number of its material'),
      vertices: formula.describe('how many vertices it has'),
      indices: formula.describe('how many corners its triangles have: three each'),
    })
    .describe('what is drawn at once; each has vertices and then triangles in `from`'),
  from: formula.optional().describe('the region with their bytes; it holds `bytes`'),
  stride: formula.optional().describe('bytes of a vertex'),
  layout: z.array(attributeText(VERTEX_NUMBERS)).min(1).optional().describe('what a vertex is made of'),
  index: z.enum(['u8', 'u16', 'u32']).optional().describe('how the corners of triangles are kept'),
  align: whole.min(1).optional().describe('each part is filled up to a multiple of this'),
  arrays: z
    .strictObject({
      vertices: z
        .array(
          attributeText(VERTEX_NUMBERS)
            .omit({ when: true })
            .extend({ in: arrayBytes, stride: whole.min(1) }),
        )
        .min(1)
        .describe('an array for each kind of numbers: where it starts, and the bytes from one vertex to the next'),
      index: z
        .strictObject({ as: z.enum(['u8', 'u16', 'u32']), in: arrayBytes, at: formula })
        .describe('the corners of triangles'),
      clockwise: z.boolean().optional().describe('triangles are seen from outside with the clock'),
    })
    .optional()
    .describe('instead of `from`, `stride`, `layout` and `index`: each part has an array for each kind of numbers'),
});

const clipText = z.strictObject({
  mesh: formula.optional().describe('the path of the mesh it moves'),
  rate: formula.describe('frames a second'),
  frames: formula.describe('how many frames there are'),
  joints: formula.describe('how many joints move; each frame has a pose of every one'),
  loops: formula.optional().describe('holds when it is played over and over'),
  from: formula.describe('the region with the poses; it holds `bytes`'),
  stride: formula.describe('bytes of a pose'),
  layout: z.array(attributeText(POSE_NUMBERS)).min(1).describe('what a pose is made of'),
});

const recordsText = z.strictObject({
  tables: z.record(name, formula).describe('NAME in PLACE: the rows of each table, which are records'),
});

const fontText = z.strictObject({
  size: formula.describe('the size it is drawn at, in pixels of an em'),
  line: formula.optional().describe('pixels from one line to the next; the size without it'),
  base: formula.describe('pixels from the top of a line to its baseline'),
  glyphs: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the rows of letters'),
      code: formula.describe('the Unicode code point of a letter, or the letter itself'),
      page: formula.describe('the path of the picture that holds it, from the folder of the font'),
      x: formula.describe('its left side in the picture, in pixels'),
      y: formula.describe('its upper side'),
      width: formula.describe('its pixels along x'),
      height: formula.describe('its pixels along y'),
      left: formula.optional().describe('pixels from the pen to its left side; 0 without it'),
      top: formula.optional().describe('pixels from the top of the line to its upper side; 0 without it'),
      advance: formula.describe('pixels that the pen moves on'),
    })
    .describe('which rows are letters'),
  kerning: z
    .strictObject({
      each: formula.describe('NAME in PLACE: the rows of pairs'),
      first: formula.describe('the left letter, as in `code`'),
      second: formula.describe('the right letter'),
      amount: formula.describe('pixels that are added between them'),
    })
    .optional()
    .describe('pairs of letters that lie closer together, or further apart'),
});

/** What fields tell of a sound without a header: those of an entry's row, or those of the entry itself. */
export const soundText = z.strictObject({
  codec: formula.describe('how its samples are kept: pcm-s16, pcm-u8, ima-adpcm, ima-adpcm-sums'),
  rate: formula.describe('samples a second'),
  channels: formula.optional().describe('1 without it'),
  block: formula.optional().describe('bytes of a block, of codecs that have blocks'),
  loop: formula.optional().describe('holds when it is played over and over'),
  'loop-start': formula.optional().describe('the first sample of what is'),
  'loop-end': formula.optional().describe('and the last'),
  samples: formula.optional().describe('samples of each channel, where blocks hold more than are played'),
  most: formula.optional().describe('samples of each channel the game takes at most'),
});

/** The part of a recipe for each form that it may present, by the word of `presents`. */
export const FORM_PARTS = {
  picture: pictureText.optional().describe('which fields tell what of a picture'),
  mesh: meshText.optional().describe('which fields tell what of a mesh'),
  sound: soundText
    .extend({ from: formula.describe('the region with its samples; it holds `bytes`') })
    .optional()
    .describe('which fields tell what of a sound'),
  records: recordsText.optional().describe('which rows are records'),
  clip: clipText.optional().describe('which fields tell what of a clip, which moves the joints of a mesh'),
  font: fontText.optional().describe('which fields describe a font whose letters are pictures'),
};

export type FormWord = keyof typeof FORM_PARTS;
export const FORM_WORDS = Object.keys(FORM_PARTS) as [FormWord, ...FormWord[]];
