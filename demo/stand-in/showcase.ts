/** Entries as they are seen and heard in the game, for a person who changed them. */
import { unpackTexture } from './block-unpacking';
import type { VoiceCue } from './cue-reader';
import { drawModel, MODEL_SIDE } from './draw-model';
import { decodeIma } from './ima';
import type { Drawn } from './mesh-reader';
import type { Loaded } from './models';
import type { Shown } from './report';
import type { Texture } from './tex-reader';

export class Showcase {
  readonly shown: Shown[] = [];
  private readonly wanted: Set<string>;

  constructor(paths: readonly string[]) {
    this.wanted = new Set(paths);
  }

  readonly textured = (path: string, from: string, texture: Texture): void => {
    const { width, height } = texture;
    if (this.wanted.has(path))
      this.shown.push({ path, from, what: { is: 'picture', width, height, rgba: unpackTexture(texture) } });
  };

  readonly modelled = (path: string, from: string, model: Drawn): void => {
    if (!this.wanted.has(path)) return;
    const what = { is: 'picture', width: MODEL_SIDE, height: MODEL_SIDE, rgba: drawModel(model) } as const;
    this.shown.push({ path, from, what });
  };

  /** Of two files with one cue the later is heard. */
  readonly heard = (path: string, from: string, { codec, rate, bytes }: VoiceCue): void => {
    if (!this.wanted.has(path)) return;
    const plain = () => Int16Array.from({ length: bytes.length >> 1 }, (_, i) => bytes.readInt16LE(i * 2));
    const samples = codec === 'adpcm' ? decodeIma(bytes) : plain();
    const before = this.shown.findIndex((one) => one.path === path);
    if (before >= 0) this.shown.splice(before, 1);
    this.shown.push({ path, from, what: { is: 'sound', rate, samples } });
  };

  /** Pictures and sounds that are files of their own. */
  rest(find: (path: string) => Loaded | undefined): void {
    for (const path of this.wanted) {
      const found = /\.(png|wav)$/.test(path) ? find(path) : undefined;
      if (found !== undefined) this.shown.push({ path, from: found.file, what: { is: 'file', bytes: found.bytes } });
    }
  }
}
