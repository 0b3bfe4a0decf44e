/** Makes the folder of Gondola Post, the made-up game. */
import { createHash } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { writeHold } from './archives/hold';
import { makeAssets, randomFor } from './assets';

export const BUILDS = ['1.4.1', '1.4.2'] as const;
export type Build = (typeof BUILDS)[number];

/** The day each build was made, in seconds since 1970. */
const BUILT: Readonly<Record<Build, number>> = { '1.4.1': 1_772_438_400, '1.4.2': 1_778_486_400 };

/** The content key of a build, 32 bytes. It also stands in the game's program, where a modder would find it. */
export function contentKey(build: Build): Buffer {
  return createHash('sha256').update(`Gondola Post ${build} content`).digest();
}

export interface GameFacts {
  readonly folder: string;
  readonly build: Build;
  readonly entries: number;
  readonly bytes: number;
}

/** Writes all files of a build into `folder`, replacing those of another build. */
export async function makeGame(folder: string, build: Build): Promise<GameFacts> {
  const assets = await makeAssets(build);
  const core = writeHold(assets, { key: contentKey(build), release: `gp ${build}`, built: BUILT[build] });
  await mkdir(folder, { recursive: true });
  await writeFile(join(folder, 'core.hold'), core);
  await writeFile(join(folder, 'gondola-post.bin'), program(build));
  return { folder, build, entries: assets.length, bytes: core.length };
}

const PROGRAM_BYTES = 384 << 10;

/**
 * The stand-in program: noise like compiled code, with the version as text and the key in between. Its last eight bytes
 * say where the key is, for the stand-in game.
 */
function program(build: Build): Buffer {
  const random = randomFor(`program ${build}`);
  const bytes = Buffer.alloc(PROGRAM_BYTES);
  // Code is not as random as a key: most bytes come from a small set.
  const common = [0x00, 0x48, 0x89, 0x8b, 0xe8, 0xff, 0x0f, 0x24, 0x44, 0xc0, 0x01, 0x83];
  for (let i = 0; i < bytes.length; i++) bytes[i] = random.next() < 0.7 ? random.pick(common) : random.whole(0, 255);
  bytes.write('GPEXEC\0\0', 0, 'latin1');
  bytes.write(`Gondola Post ${build}\0Brindle Works\0`, 0x1200, 'latin1');
  const keyAt = 0x2c0f3 + (build === '1.4.1' ? 0 : 0x1d5);
  contentKey(build).copy(bytes, keyAt);
  bytes.writeBigUInt64LE(BigInt(keyAt), bytes.length - 8);
  return bytes;
}
