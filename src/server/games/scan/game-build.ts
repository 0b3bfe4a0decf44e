/** Which build of the game a folder holds. */
import { open, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  isProgram,
  isVersionFile,
  versionInProgram,
  versionInText,
  versionOfFile,
  type FoundVersion,
  type GameProfile,
} from '../../../core/game';
import type { ArchiveModel } from '../../database';
import { underRoots } from '../../storage';
import type { FoundFile } from './walk';

/** Bytes of a program that are looked through, in pieces that overlap. */
const MAX_PROGRAM_BYTES = 256 << 20;
const PIECE_BYTES = 8 << 20;
const OVERLAP_BYTES = 1 << 10;
const MAX_PROGRAMS = 12;

/**
 * The build, from the surest of: the place the profile names, version resources of programs, version files, texts of
 * programs, and what archives say of themselves.
 */
export async function findBuild(
  folder: string,
  files: readonly FoundFile[],
  archives: readonly ArchiveModel[],
  profile: Partial<GameProfile>,
): Promise<FoundVersion | undefined> {
  if (profile.build !== undefined) return buildFromFile(folder, profile.build);
  const found: FoundVersion[] = [];
  const shallow = files.filter(({ path }) => path.split('/').length <= 3);
  for (const { path, size } of shallow.filter((file) => isVersionFile(file.path) && file.size < 64 << 10)) {
    const version =
      size === 0 ? undefined : versionOfFile(path, await readFile(join(folder, path), 'utf8').catch(() => ''));
    if (version !== undefined) found.push(version);
  }
  let programs = 0;
  for (const { path, size } of shallow) {
    if (programs >= MAX_PROGRAMS) break;
    // What is an archive is no program, whatever its name.
    if (archives.some((row) => row.path === path && row.state !== 'unknown')) continue;
    const version = await inFile(join(folder, path), path, size);
    if (version === 'no program') continue;
    programs++;
    if (version !== undefined) found.push(version);
  }
  for (const { path, build } of archives) {
    const version = build === null ? undefined : versionInText(build);
    if (version !== undefined) found.push({ version, how: `${path} says so`, rank: 1 });
  }
  return found.sort((a, b) => b.rank - a.rank)[0];
}

async function inFile(full: string, path: string, size: number): Promise<FoundVersion | undefined | 'no program'> {
  const handle = await open(full, 'r').catch(() => undefined);
  if (handle === undefined) return 'no program';
  try {
    const head = Buffer.alloc(Math.min(64, size));
    await handle.read(head, 0, head.length, 0);
    if (!isProgram(path, head)) return 'no program';
    let best: FoundVersion | undefined;
    for (let at = 0; at < Math.min(size, MAX_PROGRAM_BYTES); at += PIECE_BYTES - OVERLAP_BYTES) {
      const piece = Buffer.alloc(Math.min(PIECE_BYTES, size - at));
      const { bytesRead } = await handle.read(piece, 0, piece.length, at);
      const version = versionInProgram(path, piece.subarray(0, bytesRead));
      if (version !== undefined && version.rank > (best?.rank ?? 0)) best = version;
      if (best?.rank === 4) break;
    }
    return best;
  } finally {
    await handle.close();
  }
}

async function buildFromFile(
  folder: string,
  { file, before }: NonNullable<GameProfile['build']>,
): Promise<FoundVersion | undefined> {
  const path = await underRoots(join(folder, file));
  const bytes = await readFile(path).catch(() => undefined);
  const text = bytes?.toString('latin1') ?? '';
  const at = text.indexOf(before);
  const version = at < 0 ? undefined : versionInText(text.slice(at + before.length, at + before.length + 200));
  return version === undefined ? undefined : { version, how: `${file}, as the game’s profile says`, rank: 5 };
}
