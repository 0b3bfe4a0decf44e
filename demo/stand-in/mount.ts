/** Files of the game folder with builds laid over it, and the keys in its program. */
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { LoadStop } from './report';

export const PROGRAM = 'gondola-post.bin';

export interface GameFile {
  /** With its folder inside the game's, such as `words/de.lex`. */
  readonly file: string;
  /** Which of the folders it came from, counted from 0. */
  readonly folder: number;
  readonly bytes: Buffer;
}

export interface GameKeys {
  readonly content: Buffer;
  readonly voices: Buffer;
  readonly reel: Buffer;
}

/** The last folder that has a file wins. */
export function findFile(folders: readonly string[], file: string): GameFile | undefined {
  for (let folder = folders.length - 1; folder >= 0; folder--) {
    const path = join(folders[folder]!, file);
    if (statSync(path, { throwIfNoEntry: false })?.isFile() === true)
      return { file, folder, bytes: readFileSync(path) };
  }
  return undefined;
}

/**
 * Archives of one kind in the order they load: by their names without the ending, so that later ones win.
 *
 * @param inside the folder of the game they lie in; empty for its root
 */
export function mounted(folders: readonly string[], ending: string, inside = ''): GameFile[] {
  const names = new Set(
    folders.flatMap((folder) => {
      const here = join(folder, inside);
      return existsSync(here) ? readdirSync(here).filter((name) => name.endsWith(ending)) : [];
    }),
  );
  const stem = (name: string) => name.slice(0, -ending.length);
  return [...names]
    .sort((a, b) => (stem(a) < stem(b) ? -1 : 1))
    .map((name) => findFile(folders, inside === '' ? name : `${inside}/${name}`)!);
}

/** The keys are in the program; its last 24 bytes say where. */
export function programKeys(folders: readonly string[]): GameKeys {
  const stop = (rule: string, found: string): never => {
    throw new LoadStop({ code: 'PROGRAM', file: PROGRAM, offset: 0, rule, found });
  };
  const program = findFile(folders, PROGRAM)?.bytes;
  if (program === undefined) return stop('The program is in the game folder.', 'nothing');
  if (program.length < 64 || program.toString('latin1', 0, 6) !== 'GPEXEC')
    stop('The program is whole.', program.toString('latin1', 0, 6));
  const key = (place: number, length: number): Buffer => {
    const at = Number(program.readBigUInt64LE(program.length - place));
    return at + length <= program.length
      ? program.subarray(at, at + length)
      : stop('The program is whole.', String(at));
  };
  return { reel: key(24, 12), voices: key(16, 8), content: key(8, 32) };
}
