/** glTF 2.0 with binary buffers (GLB), written and read by a library. */
import { Document, WebIO, type Accessor, type Material, type Node, type Primitive } from '@gltf-transform/core';
import { FormatError } from '../../faults';
import { clipInMetres, inMetres } from './space';
import { type Mesh, type MeshClip, type MeshJoint, type MeshPart, type Quad, type Triple } from './mesh';
import { checkNumbers } from './numbers';
import type { OpenMesh } from './mesh-model';
import { restMatrices, invertRigid } from './skeleton';

export interface GltfOptions {
  /** All levels of detail, each a node of its own; only the most detailed one otherwise. */
  readonly allLevels?: boolean;
  readonly clips?: readonly MeshClip[];
  /** Pictures as PNG, by their paths in the game. */
  readonly textures?: ReadonlyMap<string, Uint8Array>;
  /** Where pictures are to be fetched instead, by their paths: noted with each material as `textures`. */
  readonly links?: ReadonlyMap<string, string>;
}

/** What a node with a level of detail is called; read again, such names tell the levels. */
const levelName = (level: number) => `level_${level}`;
const LEVEL_NAME = /^level_(\d{1,2})$/;

/** @returns a GLB file, in metres with y up */
export async function writeGlb(name: string, game: Mesh, options: GltfOptions = {}): Promise<Uint8Array> {
  const { allLevels = false, clips = [], textures = new Map(), links } = options;
  const mesh = inMetres(game);
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene(name);
  const accessor = (
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
    array: Float32Array | Uint16Array | Uint32Array,
  ) =>
    document
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  const pictures = new Map<string, ReturnType<Document['createTexture']>>();
  for (const [path, bytes] of textures)
    pictures.set(
      path,
      document
        .createTexture(path)
        .setImage(bytes as Uint8Array<ArrayBuffer>)
        .setMimeType('image/png'),
    );
  const materials = mesh.materials.map(({ name: skin, textures: paths }) => {
    const material = document.createMaterial(skin).setMetallicFactor(0).setRoughnessFactor(0.9);
    const colour = paths.find((path) => !isNormalMap(path) && pictures.has(path));
    const normals = paths.find((path) => isNormalMap(path) && pictures.has(path));
    if (links !== undefined) material.setExtras({ textures: paths.flatMap((path) => links.get(path) ?? []) });
    if (colour !== undefined) material.setBaseColorTexture(pictures.get(colour)!);
    if (normals !== undefined) material.setNormalTexture(pictures.get(normals)!);
    return material;
  });
  const joints = mesh.joints.map((joint) =>
    document
      .createNode(joint.name)
      .setTranslation([...joint.at])
      .setRotation([...joint.turn]),
  );
  mesh.joints.forEach(({ parent }, i) =>
    parent < 0 ? scene.addChild(joints[i]!) : joints[parent]!.addChild(joints[i]!),
  );
  const skin = joints.length === 0 ? undefined : document.createSkin(`${name} skeleton`);
  if (skin !== undefined) {
    for (const joint of joints) skin.addJoint(joint);
    skin.setInverseBindMatrices(accessor('MAT4', inverseBinds(mesh.joints)));
  }
  for (const [i, level] of mesh.levels.entries()) {
    if (i > 0 && !allLevels) break;
    const drawn = document.createMesh(levelName(i));
    for (const part of level.parts) {
      const primitive = document.createPrimitive().setIndices(accessor('SCALAR', part.indices));
      const material = materials[part.material];
      if (material !== undefined) primitive.setMaterial(material);
      const set = (semantic: string, type: 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array | Uint16Array | undefined) =>
        array !== undefined && primitive.setAttribute(semantic, accessor(type, array));
      set('POSITION', 'VEC3', part.positions);
      set('NORMAL', 'VEC3', part.normals && unitLength(part.normals, 3));
      set('TANGENT', 'VEC4', part.tangents && unitLength(part.tangents, 4));
      set('TEXCOORD_0', 'VEC2', part.uvs);
      set('COLOR_0', 'VEC4', part.colours);
      if (skin !== undefined) {
        set('JOINTS_0', 'VEC4', part.joints && usedJoints(part));
        set('WEIGHTS_0', 'VEC4', part.weights);
      }
      drawn.addPrimitive(primitive);
    }
    const node = document.createNode(levelName(i)).setMesh(drawn).setExtras({ from: level.from });
    if (skin !== undefined) node.setSkin(skin);
    scene.addChild(node);
  }
  for (const clip of clips) addClip(clipInMetres(clip, game));
  return new WebIO().writeBinary(document);

  function addClip({ name: title, rate, frames, turns, places, joints: moving }: MeshClip) {
    const animation = document.createAnimation(title).setExtras({ rate, frames });
    const times = accessor(
      'SCALAR',
      Float32Array.from({ length: frames }, (_, i) => i / rate),
    );
    for (let joint = 0; joint < Math.min(moving, joints.length); joint++) {
      const pick = (all: Float32Array, size: number) => {
        const own = new Float32Array(frames * size);
        for (let frame = 0; frame < frames; frame++)
          own.set(all.subarray((frame * moving + joint) * size, (frame * moving + joint + 1) * size), frame * size);
        return own;
      };
      const lanes = [
        ['rotation', accessor('VEC4', unitLength(pick(turns, 4), 4, 4))],
        ['translation', accessor('VEC3', pick(places, 3))],
      ] as const;
      for (const [path, output] of lanes) {
        const sampler = document.createAnimationSampler().setInput(times).setOutput(output).setInterpolation('LINEAR');
        const channel = document.createAnimationChannel().setTargetNode(joints[joint]!).setTargetPath(path);
        animation.addSampler(sampler).addChannel(channel.setSampler(sampler));
      }
    }
  }
}

export const isNormalMap = (path: string): boolean => /normal|_nrm|_n\.\w+$/i.test(path);

/** Rounded numbers are a little off length 1, which glTF does not allow. */
function unitLength(values: Float32Array, step: 3 | 4, over = 3): Float32Array {
  const out = values.slice();
  for (let i = 0; i < out.length; i += step) {
    let length = 0;
    for (let j = 0; j < over; j++) length += out[i + j]! ** 2;
    length = Math.sqrt(length);
    for (let j = 0; j < over; j++) out[i + j] = length > 0 ? out[i + j]! / length : j === over - 1 ? 1 : 0;
  }
  return out;
}

/** Joints with no weight are 0, as glTF wants them. */
const usedJoints = ({ joints, weights }: MeshPart): Uint16Array =>
  joints!.map((joint, i) => (weights !== undefined && weights[i] === 0 ? 0 : joint));

function inverseBinds(joints: readonly MeshJoint[]): Float32Array {
  const out = new Float32Array(joints.length * 16);
  for (const [i, matrix] of restMatrices(joints).entries()) out.set(invertRigid(matrix), i * 16);
  return out;
}

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
