/** Makes the folder of Gondola Post, the made-up game. */
import { createHash } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { writeCrate } from './archives/crate';
import { writeCues } from './archives/cues';
import type { ArchiveFile } from './archives/entry';
import { writeHold } from './archives/hold';
import { writeJournal } from './archives/journal';
import { writeLevel } from './archives/level';
import { writeLex, writeLexMeta } from './archives/lex';
import { writeSet } from './archives/parcels';
import { writeReel } from './archives/reel';
import { writeStock } from './archives/stock';
import { writeWorld } from './archives/world';
import * as assets from './assets';

export const SIZES = ['small', 'large'] as const;
export type Size = (typeof SIZES)[number];

export const BUILDS = ['1.4.1', '1.4.2'] as const;
export type Build = (typeof BUILDS)[number];

/** The day each build was made, in seconds since 1970. */
const BUILT: Readonly<Record<Build, number>> = { '1.4.1': 1_772_438_400, '1.4.2': 1_778_486_400 };

/** What the game locks, and how many bytes the key of each has. All are in its program, where a modder would find them. */
const KEYS = { content: 32, voices: 8, reel: 12 } as const;
export type KeySlot = keyof typeof KEYS;

export function gameKey(build: Build, slot: KeySlot): Buffer {
  // The film's key has been the same since the first build.
  const of = slot === 'content' ? build : 'all builds';
  return createHash('sha256').update(`Gondola Post ${of} ${slot}`).digest().subarray(0, KEYS[slot]);
}

export interface GameFacts {
  readonly folder: string;
  readonly build: Build;
  readonly files: number;
  readonly bytes: number;
}

/** Tiles along a side of each area of the world. */
const WORLD_SIDE = 6;

/** Writes all files of a build into `folder`, replacing those of another build. */
export async function makeGame(folder: string, build: Build, size: Size = 'small'): Promise<GameFacts> {
  const facts = { folder, build, files: 0, bytes: 0 };
  const write = async ({ name, bytes }: ArchiveFile) => {
    const path = join(folder, name);
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, bytes);
    facts.files++;
    facts.bytes += bytes.length;
  };
  for (const file of await gameFiles(build)) await write(file);
  if (size === 'large') for await (const file of freightFiles(build)) await write(file);
  return facts;
}

/** Archives of the large size; with what is small they hold 200,000 entries. */
const FREIGHT_ARCHIVES = 40;
const FREIGHT_ENTRIES = 5_000;

/** The freight of the large size, one archive at a time: together they would not fit into memory. */
async function* freightFiles(build: Build): AsyncGenerator<ArchiveFile> {
  const facts = { key: gameKey(build, 'content'), release: `gp ${build}`, built: BUILT[build] };
  const pool = await assets.freightPool();
  for (let number = 1; number <= FREIGHT_ARCHIVES; number++) {
    const entries = assets.freight(pool, number, FREIGHT_ENTRIES);
    yield { name: `freight-${String(number).padStart(2, '0')}.hold`, bytes: writeHold(entries, facts) };
  }
}

/** All files of a build, by their names in the game's folder. */
export async function gameFiles(build: Build): Promise<ArchiveFile[]> {
  const built = BUILT[build];
  const core = await assets.makeAssets(build);
  const hold = { key: gameKey(build, 'content'), release: `gp ${build}`, built };
  const voices = gameKey(build, 'voices');
  const { streams, packets } = await assets.film();
  const salt = createHash('md5').update('arrival').digest();
  return [
    { name: 'core.hold', bytes: writeHold(core, hold) },
    { name: 'core-spring.hold', bytes: writeHold(await assets.springAssets(), { ...hold, release: 'gp spring' }) },
    ...(await writeWorld(await assets.worldAreas(WORLD_SIDE))),
    ...writeCrate(await assets.props(), `gp ${build}`),
    ...writeCues('voices', 'en', assets.voices('en', build), voices),
    ...writeCues('voices.de', 'de', assets.voices('de', build), voices),
    ...writeCues('voices.fr', 'fr', assets.voices('fr', build), voices),
    { name: 'parcels.set', bytes: writeSet(await assets.parcels()) },
    ...writeStock(assets.stock(built * 1000)),
    { name: 'scenes.reel', bytes: writeReel(streams, packets, salt, gameKey(build, 'reel')) },
    ...assets.LANGUAGES.map((language) => ({
      name: `words/${language}.lex`,
      bytes: writeLex(language, assets.wordTable(language)),
    })),
    ...writeJournal(await assets.journal()),
    { name: 'valley.lvl', bytes: writeLevel(await assets.valley()) },
    { name: 'words/lex.meta', bytes: writeLexMeta(assets.LANGUAGE_FACTS) },
    ...(await assets.fonts()),
    { name: 'gondola-post.bin', bytes: program(build) },
  ];
}

const PROGRAM_BYTES = 384 << 10;

/**
 * The stand-in program: noise like compiled code, with the version as text and the keys in between. Its last 24 bytes say
 * where the keys are, for the stand-in game.
 */
function program(build: Build): Buffer {
  const random = assets.randomFor(`program ${build}`);
  const bytes = Buffer.alloc(PROGRAM_BYTES);
  // Code is not as random as a key: most bytes come from a small set.
  const common = [0x00, 0x48, 0x89, 0x8b, 0xe8, 0xff, 0x0f, 0x24, 0x44, 0xc0, 0x01, 0x83];
  for (let i = 0; i < bytes.length; i++) bytes[i] = random.next() < 0.7 ? random.pick(common) : random.whole(0, 255);
  bytes.write('GPEXEC\0\0', 0, 'latin1');
  bytes.write(`Gondola Post ${build}\0Brindle Works\0`, 0x1200, 'latin1');
  const moved = build === '1.4.1' ? 0 : 0x1d5;
  const places: Readonly<Record<KeySlot, number>> = { reel: 0x11a37, voices: 0x4e1c9, content: 0x2c0f3 };
  for (const [i, slot] of (['reel', 'voices', 'content'] as const).entries()) {
    const at = places[slot] + moved;
    gameKey(build, slot).copy(bytes, at);
    bytes.writeBigUInt64LE(BigInt(at), bytes.length - 24 + i * 8);
  }
  return bytes;
}
