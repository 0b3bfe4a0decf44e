/** Writes the folder of the journal: the seal is laid over the first bytes of what is scrambled, again and again. */
import { SEAL, type JournalFile } from '../assets/journal';
import type { ArchiveFile } from './entry';

const SCRAMBLED_BYTES = 64;

export function writeJournal(files: readonly JournalFile[]): ArchiveFile[] {
  return files.map(({ name, bytes, scrambled }) => {
    const stored = Buffer.from(bytes);
    if (scrambled)
      for (let i = 0; i < Math.min(SCRAMBLED_BYTES, stored.length); i++) stored[i]! ^= SEAL[i % SEAL.length]!;
    return { name: `journal/${name}`, bytes: stored };
  });
}
