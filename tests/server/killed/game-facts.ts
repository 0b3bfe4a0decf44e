/** What a person finds in a game and its folders, and what is done in them before the jobs. */
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { addEntry, addIncomingFile, listChanges, newDrop, startBringIn } from '../../../src/server/changes';
import { findWinner } from '../../../src/server/content';
import { ChangeModel } from '../../../src/server/database';
import { sharedFile, startShare } from '../../../src/server/mods';
import { shareOrder } from '../../../src/server/shapes';
import { hasBlob } from '../../../src/server/storage';
import { ended, once } from '../support';

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
export const painted = (background: string) =>
  sharp({ create: { width: 256, height: 256, channels: 4, background } })
    .png()
    .toBuffer();

/** Every file of a folder with its hash, hidden ones too. */
export function fingerprint(folder: string): Record<string, string> {
  if (!existsSync(folder)) return {};
  const files = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((file) => file.isFile());
  const paths = files.map((file) => join(file.parentPath, file.name)).sort();
  return Object.fromEntries(paths.map((path) => [path.slice(folder.length), sha256(readFileSync(path))]));
}

/** What is changed, as a person sees it. */
export async function changed(id: number): Promise<string[]> {
  const rows = await ChangeModel.findAll({ where: { gameId: id, undone: false } });
  for (const { path, blob } of rows)
    if (blob !== '' && !(await hasBlob(blob))) throw new Error(`${path} lost its bytes`);
  return rows
    .map(({ path, action, blob, modId }) => `${path} ${action} ${blob} ${modId === null ? '' : 'of a mod'}`)
    .sort();
}

export const ORDER = shareOrder.parse({ name: 'Killed', release: '1', author: 'somebody', licence: 'CC0' });
export const LIST_ZIP = `import sys, zipfile, hashlib
z = zipfile.ZipFile(sys.argv[1])
for n in sorted(z.namelist()): print(n, hashlib.sha256(z.read(n)).hexdigest() if not n.endswith('.json') else '')`;

export async function place(id: number, path: string): Promise<[number, number]> {
  const { archive, n } = await findWinner(id, path);
  return [archive, n];
}

/** Waits for a run that nothing kills. */
export async function must(answer: { id: number }): Promise<void> {
  const run = await ended(answer.id);
  if (run.state !== 'done') throw new Error(`${run.title}: ${run.state} ${JSON.stringify(run.fault)}`);
}

export async function sharedMod(id: number): Promise<Buffer> {
  const run = await startShare(id, ORDER);
  await must(run);
  return readFileSync((await sharedFile(id, run.id)).file);
}

/** Changes that stay while the jobs are done. */
export async function changeSome(id: number): Promise<void> {
  await addEntry(id, {
    ...{ path: 'cabins/livery/my_own.png', into: 'core.hold', name: 'my_own.png' },
    bytes: once(await painted('#c06020')),
  });
  const { id: drop } = await newDrop(id);
  await addIncomingFile(id, drop, { name: 'cabins/livery/cabin_01_red.png', bytes: once(await painted('#2060c0')) });
  await must(await startBringIn(id, drop));
  if ((await listChanges(id)).length === 0) throw new Error('nothing is changed');
}
