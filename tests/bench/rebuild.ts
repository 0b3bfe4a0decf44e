/** One entry changed in an archive of four gigabytes: the whole written again, and a small overriding archive, against cp. */
import { execFileSync } from 'node:child_process';
import { closeSync, mkdirSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { createFile, fileScratch, openFile } from '../../src/core/bytes/node';
import { NO_EDITS, openArchive, planRebuild, writePlan } from '../../src/core/recipe';
import { loadRecipe } from '../../src/core/recipe/node';
import { say, seconds, type Row } from './table';

const ENTRIES = 3900;
const ENTRY_BYTES = 1 << 20;
const ROW_BYTES = 64;
const checkout = join(__dirname, '..', '..');
const cli = join(checkout, 'bin', 'zero-latch');

export async function measureRebuild(work: string): Promise<Row[]> {
  const folder = join(work, 'rebuild');
  mkdirSync(folder);
  const archive = join(folder, 'bench.pak');
  writePack(archive);
  const changed = join(folder, 'changed');
  writeFileSync(changed, Buffer.alloc(ENTRY_BYTES, 'cabins in the rain'));
  const keep = await seconds(() =>
    execFileSync(cli, ['put', archive, '--change', `e/500.bin=${changed}`, '--to', join(folder, 'keep'), '--replace']),
  );
  rmSync(join(folder, 'keep'), { recursive: true });
  const patch = await seconds(() => overriding(archive, changed, join(folder, 'zz-bench.pak')));
  const copy = await seconds(() =>
    execFileSync('sh', ['-c', 'cp --reflink=never "$1" "$2" && sync -d "$2"', 'sh', archive, join(folder, 'copy')]),
  );
  rmSync(folder, { recursive: true, force: true });
  const size = '3,900 entries, 4.1 GB, one changed';
  return [
    {
      what: 'rebuild an archive',
      on: `${size}, by command line`,
      ours: say(keep),
      tool: 'cp and sync',
      theirs: say(copy),
      ratio: copy / keep,
      bar: '0.7',
    },
    {
      what: 'small overriding archive',
      on: `${size}, in the application: opened, planned, written`,
      ours: say(patch),
      tool: 'cp and sync of the whole',
      theirs: say(copy),
      ratio: copy / patch,
      bar: 'under 1 s',
    },
  ];
}

/** As a worker makes it, for which the recipes are read already. */
async function overriding(archive: string, changed: string, to: string): Promise<void> {
  const recipe = await loadRecipe(join(checkout, 'recipes', 'pack-archive.yaml'));
  const source = await openFile(archive);
  const file = await openFile(changed);
  const scratch = fileScratch();
  try {
    const opened = await openArchive(recipe, [source]);
    const n = Array.from({ length: opened.entries.count }, (_, i) => i).find(
      (i) => opened.entries.path(i) === 'e/500.bin',
    )!;
    const plan = await planRebuild(
      opened,
      { ...NO_EDITS, replace: new Map([[n, file]]) },
      { layout: 'patch', scratch },
    );
    await writePlan(plan, () => createFile(to));
  } finally {
    await scratch.release();
    await source.close();
    await file.close();
  }
}

/** A directory in front of the files: name, place and size of each. */
function writePack(path: string): void {
  const file = openSync(path, 'w');
  const head = Buffer.alloc(12 + ENTRIES * ROW_BYTES);
  head.write('PACK', 'latin1');
  head.writeUInt32LE(12, 4);
  head.writeUInt32LE(ENTRIES * ROW_BYTES, 8);
  for (let i = 0; i < ENTRIES; i++) {
    const at = 12 + i * ROW_BYTES;
    head.write(`e/${i}.bin`, at, 'latin1');
    head.writeUInt32LE(head.length + i * ENTRY_BYTES, at + 56);
    head.writeUInt32LE(ENTRY_BYTES, at + 60);
  }
  writeSync(file, head);
  const bytes = Buffer.alloc(ENTRY_BYTES, 'cabins in the snow');
  for (let i = 0; i < ENTRIES; i++) writeSync(file, bytes);
  closeSync(file);
}
