/** Reads models and the clips that move them: every index, weight, bound and joint has to fit. */
import { Walk } from './walk';

/** What of a model is drawn from near by. */
export interface Drawn {
  readonly places: readonly (readonly number[])[];
  /** Three places of each triangle. */
  readonly corners: readonly number[];
}

export interface MeshFacts {
  readonly joints: number;
  readonly near: Drawn;
  readonly textures: readonly string[];
}

type Bounds = readonly [low: number[], high: number[]];

/** @throws LoadStop */
export function readMesh(file: string, path: string, bytes: Buffer): MeshFacts {
  const walk = new Walk(file, 'MESH', bytes, 'little', path);
  walk.magic('GPMS');
  walk.is('VERSION', 4, walk.u16(), 4, 'A model is of version 4.');
  const jointed = walk.u16();
  const [materials, joints, levels, parts] = [walk.u16(), walk.u16(), walk.u16(), walk.u16()];
  if (materials === 0 || levels === 0) walk.stop('EMPTY', 8, 'A model has a material and a level of detail.', 'none');
  walk.is('JOINTS', joints > 0 ? 1 : 0, jointed, 6, 'The flag says whether there are joints.');
  const tables = walk.u32();
  const bounds = [three(walk), three(walk)] as const;
  const start = walk.at;
  const textures: string[] = [];
  for (let i = 0; i < materials; i++) {
    walk.text8();
    for (let left = walk.u8(); left > 0; left--) textures.push(walk.text8());
  }
  for (let i = 0; i < joints; i++) takeJoint(walk, i);
  walk.is('TABLES', tables, walk.at - start, 16, `Materials and joints take ${walk.at - start} bytes.`);
  walk.zeros((4 - (walk.at % 4)) % 4);
  const nearParts = takeLevels(walk, levels, parts);
  const rows = Array.from({ length: parts }, () => {
    const at = walk.at;
    const row = { at, material: walk.u32(), vertices: walk.u32(), indices: walk.u32() };
    if (row.material >= materials) walk.stop('MATERIAL', at, 'A part wears a material of the model.', row.material);
    if (row.vertices > 0xffff) walk.stop('VERTICES', at + 4, 'A part has up to 65,535 vertices.', row.vertices);
    if (row.indices === 0 || row.indices % 3 !== 0)
      walk.stop('INDICES', at + 8, 'A part has whole triangles.', row.indices);
    return row;
  });
  const found: Bounds = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  const near = { places: [] as number[][], corners: [] as number[] };
  for (const [part, { vertices, indices }] of rows.entries()) {
    const first = near.places.length;
    for (let i = 0; i < vertices; i++) {
      const place = takeVertex(walk, joints, found);
      if (part < nearParts) near.places.push(place);
    }
    for (let i = 0; i < indices; i++) {
      const index = walk.u16();
      if (index >= vertices) walk.stop('INDEX', walk.at - 2, 'A triangle joins vertices of its part.', index);
      if (part < nearParts) near.corners.push(first + index);
    }
    walk.zeros((4 - (walk.at % 4)) % 4);
  }
  walk.ended();
  for (const [side, values] of bounds.entries())
    for (const [axis, value] of values.entries())
      walk.is('BOUNDS', found[side]![axis], value, 20 + side * 12 + axis * 4, 'The bounds are those of the vertices.');
  return { joints, textures, near };
}

const float = (walk: Walk) => walk.take(4).readFloatLE();
const three = (walk: Walk) => [float(walk), float(walk), float(walk)];

function takeJoint(walk: Walk, number: number): void {
  walk.text8();
  const at = walk.at;
  const parent = walk.take(2).readInt16LE();
  if (number === 0 ? parent !== -1 : parent < 0 || parent >= number)
    walk.stop('PARENT', at, 'A joint hangs on one before it, and the first on none.', parent);
  three(walk);
}

/** @returns how many parts the first level has */
function takeLevels(walk: Walk, levels: number, parts: number): number {
  const start = walk.at;
  let sum = 0;
  let near = 0;
  let last = -1;
  for (let i = 0; i < levels; i++) {
    const from = float(walk);
    if (!(from > last)) walk.stop('LEVEL', walk.at - 4, 'Each level begins farther away than the one before.', from);
    last = from;
    const own = walk.u32();
    if (i === 0) near = own;
    sum += own;
  }
  walk.is('PARTS', parts, sum, start, `The levels have ${parts} parts.`);
  return near;
}

function takeVertex(walk: Walk, joints: number, [low, high]: Bounds): number[] {
  const at = walk.at;
  const place = three(walk);
  for (const [axis, value] of place.entries()) {
    if (!Number.isFinite(value)) walk.stop('POSITION', at + axis * 4, 'A place is a number.', value);
    low[axis] = Math.min(low[axis]!, value);
    high[axis] = Math.max(high[axis]!, value);
  }
  const normal = [0, 1, 2].map(() => walk.take(1).readInt8() / 127);
  if (Math.abs(Math.hypot(...normal) - 1) > 0.05)
    walk.stop('NORMAL', at + 12, 'A normal is of length 1.', Math.hypot(...normal).toFixed(2));
  walk.zeros(1);
  walk.take(4);
  if (joints === 0) return place;
  const hangs = walk.take(4);
  const weights = walk.take(4);
  for (const [i, weight] of weights.entries())
    if (weight > 0 && hangs[i]! >= joints) walk.stop('JOINT', at + 20 + i, 'A vertex hangs on a joint.', hangs[i]);
  const sum = weights.reduce((total, weight) => total + weight, 0);
  walk.is('WEIGHTS', 255, sum, at + 24, 'The weights of a vertex are 255 together.');
  return place;
}

export interface ClipFacts {
  readonly mesh: string;
  readonly joints: number;
}

/** @throws LoadStop */
export function readClip(file: string, path: string, bytes: Buffer): ClipFacts {
  const walk = new Walk(file, 'CLIP', bytes, 'little', path);
  walk.magic('GPCL');
  walk.is('VERSION', 1, walk.u16(), 4, 'A clip is of version 1.');
  walk.u16();
  const [joints, frames, rate] = [walk.u16(), walk.u16(), float(walk)];
  if (frames === 0 || !(rate >= 1 && rate <= 120))
    walk.stop('RATE', 12, 'A clip has frames, and 1 to 120 of them a second.', rate);
  const mesh = walk.text8();
  walk.zeros((4 - (walk.at % 4)) % 4);
  for (let i = 0; i < frames * joints; i++) {
    const at = walk.at;
    const turn = [0, 1, 2, 3].map(() => walk.take(2).readInt16LE() / 32_767);
    if (Math.abs(Math.hypot(...turn) - 1) > 0.001)
      walk.stop('TURN', at, 'A turn is a quaternion of length 1.', Math.hypot(...turn).toFixed(3));
    three(walk);
  }
  walk.ended();
  return { mesh, joints };
}
