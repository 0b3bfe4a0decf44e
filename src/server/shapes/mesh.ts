/** What pages show of a mesh, or of a clip that moves one. */
import { z } from 'zod';

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
  form: z.literal('mesh'),
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
