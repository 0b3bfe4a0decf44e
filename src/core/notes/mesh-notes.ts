import { z } from 'zod';
import { note, sayCount } from './note';

export const MESH_NOTES = {
  'mesh-converted': note({ to: z.string() }, ({ to }) => `converted to ${to}`),
  'mesh-levels-kept': note(
    { count: z.number() },
    ({ count }) => `${sayCount(count, 'level')} of detail kept from the original`,
  ),
  'mesh-levels-made': note(
    { triangles: z.array(z.number()).readonly() },
    ({ triangles }) =>
      `${sayCount(triangles.length, 'level')} of detail made: ${triangles.map((count) => count.toLocaleString('en')).join(' and ')} triangles`,
  ),
  'mesh-levels-left-out': note(
    { count: z.number(), original: z.number() },
    ({ count, original }) => `${count} of its levels left out: the game has ${original}`,
  ),
  'mesh-part-empty': note(
    { part: z.number() },
    ({ part }) =>
      `part ${part} has nothing in your file and will not be seen: one triangle without area takes its place`,
  ),
  'mesh-joints-from-original': note(
    {},
    () => 'your file has no joints: each vertex follows those of the nearest vertex of the original',
  ),
  'mesh-material-unknown': note(
    { material: z.string().nullable(), into: z.string().nullable() },
    ({ material, into }) =>
      `${material === null ? 'what has no material' : `the material ${material}, which the game does not have,`} goes into ${into ?? 'the first part'}`,
  ),
  'mesh-normals-made': note({}, () => 'normals computed'),
  'mesh-no-coordinates': note(
    {},
    () => 'your file has no texture coordinates: all of it shows one corner of the picture',
  ),
  'mesh-clamped': note(
    { count: z.number(), what: z.enum(['position', 'uv']), low: z.number(), high: z.number() },
    ({ count, what, low, high }) =>
      `${sayCount(count, what === 'uv' ? 'texture coordinate' : 'coordinate')} outside ${low} to ${high}, which is all the game can store: clamped`,
  ),
  'mesh-clip-chosen': note(
    { count: z.number(), name: z.string() },
    ({ count, name }) => `of its ${count} animations, ${name} was taken`,
  ),
  'mesh-clip-frames': note(
    { frames: z.number(), original: z.number() },
    ({ frames, original }) => `${frames} frames instead of ${original}`,
  ),
  'mesh-clip-length': note(
    { yours: z.number(), longer: z.boolean() },
    ({ yours, longer }) => `yours has ${yours} frames: ${longer ? 'the rest is left out' : 'the last is held'}`,
  ),
  'mesh-shells-open': note(
    { open: z.number(), of: z.number() },
    ({ open, of }) => `${open} of ${of} shells are not closed`,
  ),
  'mesh-no-solid': note({}, () => 'no shell is closed, so there is no solid'),
  'mesh-shells-united': note(
    { count: z.number() },
    ({ count }) => `${sayCount(count, 'shell')} united into one closed solid`,
  ),
  'mesh-shells-left': note(
    { count: z.number(), reason: z.enum(['open', 'self-intersecting']) },
    ({ count, reason }) =>
      `${sayCount(count, 'shell')} left unchanged: ${reason === 'open' ? 'with holes, or edges of more than two triangles' : 'they intersect themselves'}`,
  ),
} as const;
