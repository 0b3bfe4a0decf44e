/** Which fields describe a picture, a mesh, a clip or a font. */
import type { NUMBER_KINDS, PaletteKind, POSE_NUMBERS, VERTEX_NUMBERS } from '../language/form-parts';
import type { Formula } from './formula';
import type { Binding } from './entries';

/** Some mips of a picture, one after the other in a region of bytes. */
export interface PixelsRule {
  /** The region. */
  readonly from: number;
  readonly first: Formula | undefined;
  readonly mips: Formula | undefined;
  readonly align: number;
  /** Where the offsets of columns of posts count from, before the region; undefined for pixels row by row. */
  readonly posts: Formula | undefined;
}

/** Which fields tell what of a picture. */
export interface PictureRule {
  readonly line: number;
  readonly width: Formula;
  readonly height: Formula;
  readonly format: Formula;
  readonly srgb: Formula | undefined;
  readonly mips: Formula | undefined;
  /** The region with the colours of indexed pixels. */
  readonly palette: { readonly from: number; readonly as: PaletteKind } | undefined;
  readonly pixels: readonly PixelsRule[];
  /** Small pictures in it that have names and places. */
  readonly rectangles: RectanglesRule | undefined;
}

/** Rows that each tell of a part of a picture, in pixels of its largest mip. */
export interface RectanglesRule {
  readonly line: number;
  readonly each: Binding;
  readonly name: Formula;
  readonly x: Formula;
  readonly y: Formula;
  readonly width: Formula;
  readonly height: Formula;
}

export type { PaletteKind };
export type NumberKind = (typeof NUMBER_KINDS)[number];
export type VertexNumbers = (typeof VERTEX_NUMBERS)[number];
export type PoseNumbers = (typeof POSE_NUMBERS)[number];

/** Numbers of a vertex or of a pose in the bytes of one. */
export interface AttributeRule<Of extends string> {
  readonly line: number;
  readonly of: Of;
  readonly as: NumberKind;
  readonly at: Formula;
  readonly when: Formula | undefined;
}

/** Bytes in which all things of one kind lie one after the other. */
export interface PackedRule<Of extends string> {
  /** The region that holds them. */
  readonly from: number;
  /** Endianness of the numbers; `stored` where the file states it. */
  readonly numbers: 'little' | 'big' | 'stored';
  readonly stride: Formula;
  readonly layout: readonly AttributeRule<Of>[];
}

/** Vertices one after the other, each with all its numbers, and then triangles, of one part after the other. */
export interface PackedVertices extends PackedRule<VertexNumbers> {
  readonly index: 'u8' | 'u16' | 'u32';
  readonly align: number;
}

/** Arrays of each kind of numbers, in the bytes of a part. */
export interface VertexArrays {
  readonly little: boolean;
  readonly vertices: readonly {
    readonly line: number;
    readonly of: VertexNumbers;
    readonly as: NumberKind;
    /** The bytes it lies in. */
    readonly bytes: Formula;
    readonly at: Formula;
    readonly stride: number;
  }[];
  readonly index: { readonly as: 'u8' | 'u16' | 'u32'; readonly bytes: Formula; readonly at: Formula };
  readonly isClockwise: boolean;
}

export interface MeshRule {
  readonly line: number;
  /** How the numbers of its parts lie: one of these. */
  readonly packed: PackedVertices | undefined;
  readonly arrays: VertexArrays | undefined;
  readonly unit: Formula | number;
  readonly up: 'y' | 'z';
  readonly materials:
    { readonly each: Binding; readonly name: Formula; readonly textures: Formula | undefined } | undefined;
  readonly joints:
    | {
        readonly each: Binding;
        readonly name: Formula;
        readonly parent: Formula;
        /** x, y and z. */
        readonly at: readonly Formula[];
        /** A quaternion x, y, z, w; none where joints are not turned. */
        readonly turn: readonly Formula[];
      }
    | undefined;
  readonly levels: { readonly each: Binding; readonly from: Formula | undefined; readonly parts: Formula } | undefined;
  /** Formulas of x, y and z. */
  readonly bounds: { readonly low: readonly Formula[]; readonly high: readonly Formula[] } | undefined;
  readonly parts: {
    readonly each: Binding;
    readonly material: Formula | undefined;
    readonly vertices: Formula;
    readonly indices: Formula;
  };
}

export interface ClipRule extends PackedRule<PoseNumbers> {
  readonly line: number;
  readonly mesh: Formula | undefined;
  readonly rate: Formula;
  readonly frames: Formula;
  readonly joints: Formula;
  readonly loops: Formula | undefined;
}

/** A font whose letters are pictures. */
export interface FontRule {
  readonly line: number;
  readonly size: Formula;
  readonly lineHeight: Formula | undefined;
  readonly base: Formula;
  readonly glyphs: {
    readonly each: Binding;
    readonly code: Formula;
    readonly page: Formula;
    readonly x: Formula;
    readonly y: Formula;
    readonly width: Formula;
    readonly height: Formula;
    readonly left: Formula | undefined;
    readonly top: Formula | undefined;
    readonly advance: Formula;
  };
  readonly kerning:
    { readonly each: Binding; readonly first: Formula; readonly second: Formula; readonly amount: Formula } | undefined;
}
