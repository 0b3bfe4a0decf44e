/** What draws a mesh: its levels of detail, its skeleton, and the clips that move it. */
import {
  AmbientLight,
  AnimationMixer,
  Box3,
  CanvasTexture,
  Color,
  DirectionalLight,
  DoubleSide,
  GridHelper,
  MeshBasicMaterial,
  MeshNormalMaterial,
  NearestFilter,
  PerspectiveCamera,
  RepeatWrapping,
  Scene,
  SkeletonHelper,
  SkinnedMesh,
  SRGBColorSpace,
  TextureLoader,
  Vector3,
  WebGLRenderer,
  Mesh,
  type AnimationAction,
  type AnimationClip,
  type Material,
  type MeshStandardMaterial,
  type Object3D,
  type Texture,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { GLTFLoader, type GLTF } from 'three/addons/loaders/GLTFLoader.js';
import { fileAt } from '../../shared/api';

/** How surfaces are shown. */
export const SURFACES = ['texture', 'plain', 'normals', 'uvs'] as const;
export type Surface = (typeof SURFACES)[number];

export interface StageView {
  readonly surface: Surface;
  readonly wire: boolean;
  readonly skeleton: boolean;
  /** Which level of detail; all of them side by side. */
  readonly level: number | 'all';
}

export interface StageClip {
  readonly name: string;
  readonly frames: number;
  readonly rate: number;
}

export interface StageFacts {
  /** Triangles of each level. */
  readonly levels: readonly number[];
  readonly clips: readonly StageClip[];
  readonly joints: number;
}

/** Space between levels that stand side by side, as a part of their width. */
const GAP = 0.25;

export class MeshStage {
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(35, 1, 0.01, 1000);
  private readonly renderer: WebGLRenderer;
  private readonly controls: OrbitControls;
  private readonly levels: Object3D[] = [];
  /** Materials as they came, and those that replace them. */
  private readonly own = new Map<Mesh, Material>();
  private readonly textures: Texture[] = [];
  private helper: SkeletonHelper | undefined;
  private grid: GridHelper | undefined;
  private mixer: AnimationMixer | undefined;
  private action: AnimationAction | undefined;
  private clips: readonly AnimationClip[] = [];
  private frame = 0;
  private asked = false;
  private gone = false;
  private checker: Texture | undefined;
  /** Told of each picture that was drawn, with the triangles in it. */
  onDrawn: (triangles: number) => void = () => {};

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('change', () => this.ask());
    const sun = new DirectionalLight(0xffffff, 2.2);
    sun.position.set(0.5, 1, 0.8);
    this.camera.add(sun);
    this.scene.add(this.camera, new AmbientLight(0xffffff, 1.1));
  }

  /** @throws what loading it says */
  async load(url: string): Promise<StageFacts> {
    const response = await fileAt(url);
    const gltf: GLTF = await new GLTFLoader().parseAsync(await response.arrayBuffer(), '');
    if (this.gone) return { levels: [], clips: [], joints: 0 };
    this.scene.add(gltf.scene);
    const named = gltf.scene.children.filter(({ name }) => /^level_\d+$/.test(name));
    this.levels.push(...(named.length > 0 ? named : [gltf.scene]));
    let joints = 0;
    gltf.scene.traverse((object) => {
      if (!(object instanceof Mesh)) return;
      const material = object.material as MeshStandardMaterial;
      material.side = DoubleSide;
      this.own.set(object, material);
      this.loadTextures(material);
      if (object instanceof SkinnedMesh) {
        // Moved by its joints in a space of its own, so that levels can be side by side.
        object.bindMode = 'detached';
        object.frustumCulled = false;
        joints = Math.max(joints, object.skeleton.bones.length);
      }
    });
    if (joints > 0) {
      this.helper = new SkeletonHelper(gltf.scene);
      (this.helper.material as Material).depthTest = false;
      this.scene.add(this.helper);
    }
    this.clips = gltf.animations;
    this.mixer = new AnimationMixer(gltf.scene);
    return {
      levels: this.levels.map((level) => trianglesIn(level)),
      clips: gltf.animations.map(({ name, duration, userData }) => ({
        name,
        frames: Number(userData['frames'] ?? Math.round(duration * 30) + 1),
        rate: Number(userData['rate'] ?? 30),
      })),
      joints,
    };
  }

  private loadTextures(material: MeshStandardMaterial): void {
    for (const address of (material.userData['textures'] as string[] | undefined) ?? []) {
      const texture = new TextureLoader().load(address, () => this.ask());
      this.textures.push(texture);
      texture.flipY = false;
      texture.wrapS = texture.wrapT = RepeatWrapping;
      if (address.endsWith('?normals')) material.normalMap ??= texture;
      else if (material.map === null) {
        texture.colorSpace = SRGBColorSpace;
        material.map = texture;
      }
    }
  }

  show({ surface, wire, skeleton, level }: StageView): void {
    const shown = this.levels.filter((_, i) => level === 'all' || i === Math.min(level, this.levels.length - 1));
    let x = 0;
    for (const one of this.levels) {
      one.visible = shown.includes(one);
      one.position.x = 0;
      if (level !== 'all' || this.levels.length === 1) continue;
      const box = new Box3().setFromObject(one);
      const width = box.max.x - box.min.x;
      if (x > 0) one.position.x = x;
      x += width * (1 + GAP);
    }
    for (const [mesh, material] of this.own) {
      const replaced = mesh.material as Material;
      if (replaced !== material) replaced.dispose();
      mesh.material = this.surfaceOf(surface, material as MeshStandardMaterial, wire);
    }
    if (this.helper !== undefined) this.helper.visible = skeleton;
    this.ask();
  }

  private surfaceOf(surface: Surface, own: MeshStandardMaterial, wire: boolean): Material {
    const material =
      surface === 'normals'
        ? new MeshNormalMaterial({ side: DoubleSide })
        : surface === 'uvs'
          ? new MeshBasicMaterial({ map: (this.checker ??= checkerTexture()), side: DoubleSide })
          : own.clone();
    if (surface === 'plain') {
      const plain = material as MeshStandardMaterial;
      plain.map = plain.normalMap = null;
      plain.color = new Color(colourOf('--olive-mark', '#8b945c'));
    }
    (material as MeshBasicMaterial).wireframe = wire;
    return material;
  }

  /** Looks at all that is shown, from the front and a little from above. */
  frameAll(): void {
    const box = new Box3();
    for (const level of this.levels) if (level.visible) box.expandByObject(level);
    if (box.isEmpty()) return;
    const [middle, size] = [box.getCenter(new Vector3()), box.getSize(new Vector3())];
    const reach = Math.max(size.length() / 2, 1e-6);
    const narrow = Math.min(1, this.camera.aspect);
    const distance = reach / Math.sin((this.camera.fov * Math.PI) / 360) / narrow;
    this.camera.position.copy(middle).add(new Vector3(-0.55, 0.38, 0.75).normalize().multiplyScalar(distance));
    this.camera.near = reach / 100;
    this.camera.far = distance + reach * 20;
    this.camera.updateProjectionMatrix();
    this.controls.target.copy(middle);
    this.controls.update();
    if (this.grid !== undefined) this.scene.remove(this.grid);
    const step = 10 ** Math.round(Math.log10(reach / 3));
    const cells = Math.ceil((reach * 2.4) / step);
    this.grid = new GridHelper(cells * step, cells, colourOf('--dim', '#63706D'), colourOf('--line', '#DAD4C4'));
    this.grid.position.set(middle.x, box.min.y, middle.z);
    this.scene.add(this.grid);
    this.ask();
  }

  /** Turns the view by an angle in radians, or zooms by a factor. */
  turn(around: number, up: number, nearer = 1): void {
    const arm = this.camera.position.clone().sub(this.controls.target);
    const length = arm.length() * nearer;
    const flat = Math.atan2(arm.x, arm.z) + around;
    const tilt = Math.min(1.5, Math.max(-1.5, Math.asin(arm.y / arm.length()) + up));
    arm.set(Math.sin(flat) * Math.cos(tilt), Math.sin(tilt), Math.cos(flat) * Math.cos(tilt)).multiplyScalar(length);
    this.camera.position.copy(this.controls.target).add(arm);
    this.controls.update();
    this.ask();
  }

  /** A clip at a time in seconds; at rest without one. */
  pose(clip: number | undefined, seconds: number): void {
    const wanted = clip === undefined ? undefined : this.clips[clip];
    if (this.action !== undefined && this.action.getClip() !== wanted) {
      this.action.stop();
      this.action = undefined;
    }
    if (wanted !== undefined && this.mixer !== undefined) {
      this.action ??= this.mixer.clipAction(wanted).play();
      // Rounding must not lead past the last frame, where it would begin again.
      this.mixer.setTime(Math.min(seconds, Math.max(0, wanted.duration - 1e-4)));
    }
    this.ask();
  }

  resize(width: number, height: number): void {
    if (width === 0 || height === 0) return;
    this.renderer.setPixelRatio(Math.min(2, globalThis.devicePixelRatio));
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
    this.camera.updateProjectionMatrix();
    this.ask();
  }

  /** Draws with the next picture of the screen, once for all that changed until then. */
  ask(): void {
    if (this.asked || this.gone) return;
    this.asked = true;
    this.frame = requestAnimationFrame(() => {
      this.asked = false;
      this.renderer.render(this.scene, this.camera);
      this.onDrawn(this.renderer.info.render.triangles);
    });
  }

  dispose(): void {
    this.gone = true;
    cancelAnimationFrame(this.frame);
    this.controls.dispose();
    for (const [mesh, material] of this.own) {
      mesh.geometry.dispose();
      (mesh.material as Material).dispose();
      material.dispose();
    }
    for (const texture of [...this.textures, this.checker]) texture?.dispose();
    this.helper?.dispose();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
  }
}

function trianglesIn(level: Object3D): number {
  let sum = 0;
  level.traverse((object) => {
    if (object instanceof Mesh)
      sum += (object.geometry.index?.count ?? object.geometry.attributes['position'].count) / 3;
  });
  return sum;
}

const colourOf = (name: string, otherwise: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim() || otherwise;

/** Squares that show how a texture lies on a surface. */
function checkerTexture(): Texture {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = 16;
  const context = canvas.getContext('2d')!;
  for (let y = 0; y < 16; y++)
    for (let x = 0; x < 16; x++) {
      context.fillStyle = (x + y) % 2 === 0 ? `hsl(${x * 22} 45% 70%)` : `hsl(${y * 22} 40% 38%)`;
      context.fillRect(x, y, 1, 1);
    }
  const texture = new CanvasTexture(canvas);
  texture.magFilter = NearestFilter;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.colorSpace = SRGBColorSpace;
  return texture;
}
