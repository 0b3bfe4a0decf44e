/** glTF 2.0 with binary buffers (GLB), written and read by a library. */
import { Document, WebIO } from '@gltf-transform/core';
import { clipInMetres, inMetres } from './space';
import type { Mesh, MeshClip, MeshJoint, MeshPart } from './mesh';
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

export const LEVEL_NAME = /^level_(\d{1,2})$/;

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
export function unitLength(values: Float32Array, step: 3 | 4, over = 3): Float32Array {
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
