/** Archives for tests, written by the demo game's own writer, which knows nothing of recipes. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeHold, type HoldEntry } from '../../demo/archives/hold';
import { bufferSource, collect } from '../../src/core/bytes';
import { compileRecipe, openArchive, readEntry, type Archive, type OpenOptions } from '../../src/core/recipe';

export const KEY = new Uint8Array(
  Buffer.from('00112233445566778899aabbccddeeff0123456789abcdef0123456789abcdef', 'hex'),
);
export const HOLD_TEXT = readFileSync(join(__dirname, '../../recipes/hold-archive.yaml'), 'utf8');
export const HOLD = compileRecipe(HOLD_TEXT);

export const SOME: readonly HoldEntry[] = [
  { path: 'a/first.txt', bytes: Buffer.from('the first text '.repeat(40)) },
  { path: 'a/second.json', bytes: Buffer.from(JSON.stringify({ list: Array.from({ length: 60 }, (_, i) => i) })) },
  { path: 'b/hum.wav', bytes: Buffer.concat([Buffer.from('RIFF'), Buffer.alloc(900, 7)]) },
  { path: 'b/raw.bin', bytes: Buffer.from([1, 2, 3, 4, 5]) },
  { path: 'empty.txt', bytes: Buffer.alloc(0) },
];

export function hold(entries: readonly HoldEntry[] = SOME): Buffer {
  return writeHold(entries, { key: KEY, release: 'test 1', built: 1_700_000_000 });
}

export function open(bytes: Uint8Array, options: OpenOptions = {}): Promise<Archive> {
  return openArchive(HOLD, bufferSource(bytes, 'test.hold'), { keys: new Map([['content', KEY]]), ...options });
}

export async function plain(archive: Archive, path: string): Promise<Uint8Array> {
  const entry = Array.from({ length: archive.entries.count }, (_, i) => i).find(
    (i) => archive.entries.path(i) === path,
  );
  if (entry === undefined) throw new Error(`no entry ${path}`);
  return collect(readEntry(archive, entry));
}

/** The fault a promise fails with. */
export async function faultOf(work: Promise<unknown>): Promise<{ code: string; [fact: string]: unknown }> {
  try {
    await work;
  } catch (error) {
    const { fault } = error as { fault?: { code: string } };
    if (fault !== undefined) return fault;
    throw error;
  }
  throw new Error('it did not fail');
}
