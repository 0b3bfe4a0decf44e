/** The files of a game's folder. What cannot be read is reported, and the rest is still found. */
import { readdir, stat } from 'node:fs/promises';
import { basename, join, relative } from 'node:path';
import { FaultError, faultOf, throwIfStopped, type Fault } from '../../../core/faults';
import { isOwnPlace, underRoots } from '../../storage';

/** A file with its path in the game's folder (with `/`), bytes, and milliseconds since 1970. */
export interface FoundFile {
  readonly path: string;
  readonly size: number;
  readonly modified: number;
  /** Where its bytes are, when they are not in the folder yet. */
  readonly at?: string;
}

export interface Walk {
  readonly files: readonly FoundFile[];
  readonly trouble: readonly Fault[];
}

const MAX_FILES = 1_000_000;
const MAX_TROUBLE = 200;
const TOGETHER = 32;

/** @throws FaultError when the folder itself cannot be read */
export async function walkFolder(folder: string, signal: AbortSignal): Promise<Walk> {
  const files: FoundFile[] = [];
  const trouble: Fault[] = [];
  // A link back up would go round for ever.
  const seen = new Set<string>([folder]);
  const tell = (error: unknown, path: string) => {
    if (trouble.length < MAX_TROUBLE) trouble.push(faultOf(error, path));
  };
  const named = (path: string) => relative(folder, path).replaceAll('\\', '/');
  const waiting = [folder];
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    throwIfStopped(signal);
    const names = await readdir(at, { withFileTypes: true }).catch((error: unknown) => {
      if (at === folder) throw new FaultError(faultOf(error, folder), { cause: error });
      tell(error, named(at!));
      return [];
    });
    const found: string[] = [];
    for (const name of names) {
      if (name.name.startsWith('.')) continue;
      const path = join(at, name.name);
      if (name.isDirectory()) {
        // The folder of the application itself is no part of a game.
        if (!(await isOwnPlace(path))) waiting.push(path);
      }
      if (name.isFile()) found.push(path);
      else if (name.isSymbolicLink()) {
        const target = await underRoots(path).catch((error: unknown) => void tell(error, named(path)));
        const facts =
          target === undefined
            ? undefined
            : await stat(target).catch((error: unknown) => void tell(error, named(path)));
        if (facts?.isFile() === true) found.push(path);
        else if (facts?.isDirectory() === true && !seen.has(target!)) {
          seen.add(target!);
          waiting.push(path);
        }
      }
    }
    for (let i = 0; i < found.length; i += TOGETHER) {
      const facts = await Promise.all(
        found.slice(i, i + TOGETHER).map((path) => stat(path).catch((error: unknown) => void tell(error, named(path)))),
      );
      for (const [k, one] of facts.entries())
        if (one !== undefined && one !== null)
          files.push({ path: named(found[i + k]!), size: one.size, modified: one.mtimeMs });
    }
    if (files.length > MAX_FILES)
      throw new FaultError({
        code: 'limit-reached',
        file: basename(folder),
        what: 'the folder has too many files',
        limit: `files of one game, ${MAX_FILES.toLocaleString('en')}`,
      });
  }
  return { files: files.sort((a, b) => (a.path < b.path ? -1 : 1)), trouble };
}
