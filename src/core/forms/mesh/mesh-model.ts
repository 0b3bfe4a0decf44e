/** A mesh as open formats hold it. */
import type { MeshJoint, MeshPart } from './mesh';

/** How one joint moves along time. */
export interface ClipTrack {
  readonly joint: string;
  readonly path: 'rotation' | 'translation';
  /** Values hold until the next one; in between they change evenly otherwise. */
  readonly steps: boolean;
  /** In seconds. */
  readonly times: Float32Array;
  readonly values: Float32Array;
}

export interface OpenMesh {
  readonly materials: readonly string[];
  readonly joints: readonly MeshJoint[];
  /** Parts by level of detail, the most detailed first. */
  readonly levels: readonly (readonly MeshPart[])[];
  readonly clips: readonly { readonly name: string; readonly tracks: readonly ClipTrack[] }[];
}
