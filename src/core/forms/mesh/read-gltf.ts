/** Meshes and clips from glTF 2.0. */
import type { Document } from '@gltf-transform/core';
import { WebIO, type Accessor, type Material, type Node, type Primitive } from '@gltf-transform/core';
import { FormatError } from '../../faults';
import type { MeshPart, Quad, Triple } from './mesh';
import { checkNumbers } from './numbers';
import type { OpenMesh } from './mesh-model';
import { LEVEL_NAME, unitLength } from './gltf';

/**
 * A GLB, or a glTF whose buffers are inside it.
 *
 * @throws FormatError `wrong-kind` for a file that is none, refers to others, or has nothing with triangles
 */
export async function readGltf(bytes: Uint8Array, file: string): Promise<OpenMesh> {
  const wrong = (what: string, hint?: string, found?: string) =>
    new FormatError({
      code: 'wrong-kind',
      file,
      what,
      ...(found === undefined ? {} : { found }),
      ...(hint === undefined ? {} : { hint }),
    });
  let document: Document;
  try {
    document = await documentOf(bytes, wrong);
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw wrong(`it cannot be read as glTF (${(error as Error).message})`, 'Export it again as GLB.');
  }
  const root = document.getRoot();
  const materials = root.listMaterials();
  const skin = root.listSkins()[0];
  const jointNodes = skin?.listJoints() ?? [];
  const levels = new Map<number, MeshPart[]>();
  for (const node of (root.getDefaultScene() ?? root.listScenes()[0])?.listChildren() ?? []) visit(node, 0);
  if (levels.size === 0) throw wrong('there is nothing with triangles in it');
  return {
    materials: materials.map((material) => material.getName()),
    joints: jointNodes.map((node) => ({
      name: node.getName(),
      parent: jointNodes.indexOf(node.getParentNode() as Node),
      at: node.getTranslation() as Triple,
      turn: node.getRotation() as Quad,
    })),
    levels: [...levels].sort(([a], [b]) => a - b).map(([, parts]) => parts),
    clips: root.listAnimations().map((animation) => ({
      name: animation.getName(),
      tracks: animation.listChannels().flatMap((channel) => {
        const [node, sampler, path] = [channel.getTargetNode(), channel.getSampler(), channel.getTargetPath()];
        if (node === null || sampler === null || (path !== 'rotation' && path !== 'translation')) return [];
        const cubic = sampler.getInterpolation() === 'CUBICSPLINE';
        const [input, output] = [sampler.getInput(), sampler.getOutput()];
        if (input === null || output === null) return [];
        const size = path === 'rotation' ? 4 : 3;
        const values = floats(output);
        return [
          {
            joint: node.getName(),
            path,
            steps: sampler.getInterpolation() === 'STEP',
            times: floats(input),
            // Of a spline the values themselves are used, and not its tangents.
            values: cubic
              ? Float32Array.from(
                  { length: values.length / 3 },
                  (_, i) => values[(Math.floor(i / size) * 3 + 1) * size + (i % size)]!,
                )
              : values,
          } as const,
        ];
      }),
    })),
  };

  function visit(node: Node, level: number): void {
    const named = LEVEL_NAME.exec(node.getName());
    const own = named === null ? level : Number(named[1]);
    for (const primitive of node.getMesh()?.listPrimitives() ?? [])
      levels.set(own, [...(levels.get(own) ?? []), partOf(primitive, node)]);
    for (const child of node.listChildren()) visit(child, own);
  }

  function partOf(primitive: Primitive, node: Node): MeshPart {
    if (primitive.getMode() !== 4)
      throw wrong(`${node.getName()} is drawn as points, lines or strips`, 'Export it with triangles.');
    const lane = (semantic: string) => {
      const found = primitive.getAttribute(semantic);
      return found === null ? undefined : floats(found);
    };
    const positions = lane('POSITION');
    if (positions === undefined) throw wrong(`${node.getName()} has no positions`);
    const count = positions.length / 3;
    checkNumbers(positions, 3, file, `position of ${node.getName()}: that`);
    const indices = primitive.getIndices()?.getArray() ?? Uint32Array.from({ length: count }, (_, i) => i);
    const beyond = Array.prototype.findIndex.call(indices, (index: number) => index >= count) as number;
    if (beyond >= 0) throw wrong(`corner ${beyond} of ${node.getName()} is vertex ${indices[beyond]} of ${count}`);
    const skinned = node.getSkin() !== null;
    const matrix = skinned ? undefined : node.getWorldMatrix();
    const joints = lane('JOINTS_0');
    const colours = primitive.getAttribute('COLOR_0');
    return {
      material: materials.indexOf(primitive.getMaterial() as Material),
      positions: matrix === undefined ? positions : moved(positions, matrix, 1),
      normals: matrix === undefined ? lane('NORMAL') : turnedBy(lane('NORMAL'), matrix),
      uvs: lane('TEXCOORD_0'),
      colours: colours === null ? undefined : fourEach(floats(colours), colours.getElementSize()),
      joints: joints === undefined || !skinned ? undefined : Uint16Array.from(joints),
      weights: skinned ? lane('WEIGHTS_0') : undefined,
      indices: Uint32Array.from(indices),
    };
  }
}

async function documentOf(
  bytes: Uint8Array,
  wrong: (what: string, hint?: string, found?: string) => FormatError,
): Promise<Document> {
  const io = new WebIO();
  if (Buffer.from(bytes.subarray(0, 4)).toString('latin1') === 'glTF')
    return io.readBinary(bytes as Uint8Array<ArrayBuffer>);
  const json = JSON.parse(new TextDecoder().decode(bytes)) as {
    buffers?: { uri?: string }[];
    images?: { uri?: string }[];
  };
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  for (const { uri } of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    if (uri === undefined) continue;
    const inside = /^data:[^,]*;base64,/.exec(uri);
    if (inside === null)
      throw wrong('it refers to another file', 'Export it as GLB, which holds everything in one file.', uri);
    resources[uri] = new Uint8Array(Buffer.from(uri.slice(inside[0].length), 'base64'));
  }
  return io.readJSON({ json: json as never, resources });
}

/** All numbers of an accessor; whole ones that represent fractions are turned into these. */
function floats(accessor: Accessor): Float32Array {
  const size = accessor.getElementSize();
  const out = new Float32Array(accessor.getCount() * size);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) out.set(accessor.getElement(i, element), i * size);
  return out;
}

function fourEach(values: Float32Array, size: number): Float32Array {
  if (size === 4) return values;
  return Float32Array.from({ length: (values.length / size) * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : values[Math.floor(i / 4) * size + (i % 4)]!,
  );
}

function moved(values: Float32Array, matrix: readonly number[], w: 0 | 1): Float32Array {
  const out = new Float32Array(values.length);
  for (let i = 0; i < values.length; i += 3)
    for (let row = 0; row < 3; row++)
      out[i + row] =
        matrix[row]! * values[i]! +
        matrix[4 + row]! * values[i + 1]! +
        matrix[8 + row]! * values[i + 2]! +
        w * matrix[12 + row]!;
  return out;
}

/** Normals are turned, and made of length 1 again; of a node that is stretched unevenly they are made again later. */
function turnedBy(normals: Float32Array | undefined, matrix: readonly number[]): Float32Array | undefined {
  if (normals === undefined) return undefined;
  const lengths = [0, 4, 8].map((i) => Math.hypot(matrix[i]!, matrix[i + 1]!, matrix[i + 2]!));
  const even = lengths.every((length) => Math.abs(length - lengths[0]!) < 1e-3 * lengths[0]!);
  return even ? unitLength(moved(normals, matrix, 0), 3) : undefined;
}
