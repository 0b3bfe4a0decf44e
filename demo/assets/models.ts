/** The models: a cabin and a post box that stand still, and a crane that turns and lifts; with their textures and clips. */
import { writeClip, type JointPose } from '../archives/clip';
import type { ArchiveEntry } from '../archives/entry';
import { writeMesh, type Joint, type Mesh } from '../archives/mesh';
import { box, cylinder, part } from './solids';
import { textures } from './textures';

const skin = (model: string) => ({
  name: `${model}_skin`,
  textures: [`models/${model}/${model}_colour.tex`, `models/${model}/${model}_normal.tex`],
});

/** Sides of what is round, by level of detail. */
const ROUND = [24, 10, 5] as const;
/** From which distance on a level is drawn, in metres. */
const DISTANCES = [0, 25, 90] as const;

function cabin(): Mesh {
  const glass = { name: 'cabin_glass', textures: ['models/cabin/cabin_colour.tex'] };
  return {
    materials: [skin('cabin'), glass],
    joints: [],
    levels: DISTANCES.map((from, level) => {
      const body = part(
        0,
        box([0, 1.1, 0], [2.2, 2.2, 1.8]),
        cylinder([0, 2.2, 0], 0.08, 1.4, ROUND[level]!),
        ...(level < 2 ? [box([0, 3.7, 0], [0.9, 0.2, 0.3])] : []),
      );
      const panes = [-0.55, 0.55].flatMap((x) =>
        [-0.92, 0.92].map((z) => box([x, 1.5, z], [0.8, 0.8, 0.04], 0, [0.1, 0.1, 0.4, 0.4])),
      );
      return { from, parts: level < 2 ? [body, part(1, ...panes)] : [body] };
    }),
  };
}

function postBox(): Mesh {
  return {
    materials: [skin('post_box')],
    joints: [],
    levels: DISTANCES.map((from, level) => ({
      from,
      parts: [part(0, cylinder([0, 0, 0], 0.3, 1.2, ROUND[level]!), box([0, 0.95, 0.29], [0.36, 0.06, 0.06]))],
    })),
  };
}

const CRANE_JOINTS: readonly Joint[] = [
  { name: 'base', parent: -1, position: [0, 0, 0] },
  { name: 'mast', parent: 0, position: [0, 0.4, 0] },
  { name: 'arm', parent: 1, position: [0, 4, 0] },
  { name: 'hook', parent: 2, position: [3.2, -0.2, 0] },
];

function crane(): Mesh {
  return {
    materials: [skin('crane')],
    joints: CRANE_JOINTS,
    levels: DISTANCES.map((from, level) => ({
      from,
      parts: [
        part(0, cylinder([0, 0, 0], 0.9, 0.4, ROUND[level]!, 0), cylinder([0, 0.4, 0], 0.25, 4, ROUND[level]!, 1)),
        part(
          0,
          box([1.4, 4.5, 0], [4, 0.3, 0.4], 2),
          box([3.2, 3.6, 0], [0.06, 1.2, 0.06], 3),
          ...(level < 2 ? [box([3.2, 2.9, 0], [0.3, 0.3, 0.1], 3)] : []),
        ),
      ],
    })),
  };
}

const STILL = [0, 0, 0, 1] as const;

/** A clip in which one joint moves and the others rest. `part` goes from 0 to 1. */
function craneClip(joint: string, frames: number, move: (part: number, rest: Joint) => JointPose): Uint8Array {
  return writeClip({
    mesh: 'models/crane/crane.mesh',
    framesPerSecond: 12,
    loops: true,
    frames: Array.from({ length: frames }, (_, frame) =>
      CRANE_JOINTS.map((rest) =>
        rest.name === joint ? move(frame / frames, rest) : { turn: STILL, position: rest.position },
      ),
    ),
  });
}

/** Everything below `models/`, in no order. */
export async function models(): Promise<ArchiveEntry[]> {
  const turn = craneClip('mast', 36, (at, { position }) => ({
    turn: [0, Math.sin(at * Math.PI), 0, Math.cos(at * Math.PI)],
    position,
  }));
  const lift = craneClip('hook', 24, (at, { position: [x, y, z] }) => ({
    turn: STILL,
    position: [x, y - 1 + Math.cos(at * Math.PI * 2), z],
  }));
  return [
    { path: 'models/cabin/cabin.mesh', bytes: writeMesh(cabin()) },
    { path: 'models/post_box/post_box.mesh', bytes: writeMesh(postBox()) },
    { path: 'models/crane/crane.mesh', bytes: writeMesh(crane()) },
    { path: 'models/crane/turn.clip', bytes: turn },
    { path: 'models/crane/lift.clip', bytes: lift },
    ...(await textures()),
  ];
}
