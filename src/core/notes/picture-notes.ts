import { z } from 'zod';
import { note, pixelSize, sayPixels } from './note';

export const PICTURE_NOTES = {
  'picture-resized': note(
    { from: pixelSize, to: pixelSize, stretched: z.boolean().optional() },
    ({ from, to, stretched }) =>
      `yours was ${sayPixels(from)}, resized to ${sayPixels(to)}${stretched === true ? ', which changes its proportions' : ''}`,
  ),
  'picture-own-size': note(
    { from: pixelSize, to: pixelSize },
    ({ from, to }) => `${sayPixels(to)} instead of ${sayPixels(from)}, as yours is`,
  ),
  'picture-converted': note({ from: z.string().optional(), to: z.string() }, ({ from, to }) =>
    from === undefined ? `converted to ${to}` : `converted from ${from} to ${to}`,
  ),
  'picture-frames-lost': note(
    { before: z.number() },
    ({ before }) => `the original has ${before} pictures, yours has one: the others are left out`,
  ),
  'picture-rewritten': note(
    { format: z.string() },
    ({ format }) => `written as the kind of ${format} that the game has`,
  ),
  'picture-packing-chosen': note(
    {
      format: z.string(),
      reason: z.enum(['normal-map', 'no-alpha', 'alpha']),
      /** Percent of the pixels that are see-through. */
      percent: z.number().optional(),
    },
    ({ format, reason, percent }) => `${format}, because ${CHOICES[reason](percent)}`,
  ),
  'picture-packed': note({ format: z.string(), decibels: z.number().nullable() }, ({ format, decibels }) =>
    decibels === null
      ? `packed as ${format}, without loss`
      : `packed as ${format}, within ${decibels.toFixed(1)} dB of yours`,
  ),
  'picture-mips-made': note(
    { count: z.number(), as: z.enum(['colour', 'normals', 'numbers']) },
    ({ count, as }) => `${count} mips made${MIPS[as]}`,
  ),
  'picture-alpha-added': note({}, () => 'an alpha channel was added'),
  'picture-alpha-removed': note({}, () => 'alpha left out: the original does not use it'),
  'picture-alpha-kept': note({}, () => 'yours has no alpha: that of the original is kept'),
  'picture-as-packed': note({}, () => 'its pixels went in unchanged: they were packed the way the game packs them'),
  'picture-entries-together': note({ count: z.number() }, ({ count }) => `${count} entries change together`),
  'picture-part-joined': note(
    { part: z.string() },
    ({ part }) => `your ${part} was joined with the other channels of the picture`,
  ),
} as const;

const CHOICES = {
  'normal-map': () => 'it is a normal map',
  'no-alpha': () => 'alpha is not used',
  alpha: (percent: number | undefined) => `alpha is used: ${percent ?? 0} % of the pixels are transparent`,
} as const;

const MIPS = { colour: ' in linear light', normals: ' as directions', numbers: '' } as const;
