/** One entry changed in a large archive: the whole written again, and a small overriding archive, against cp. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeHold } from '../../demo/archives/hold';
import { say, seconds, type Row } from './table';

const key = Buffer.alloc(32, 5);
const ENTRIES = 1000;
const cli = join(__dirname, '..', '..', 'bin', 'zero-latch');

export async function measureRebuild(work: string): Promise<Row[]> {
  const folder = join(work, 'rebuild');
  mkdirSync(folder);
  const bytes = Buffer.alloc(1 << 20, 'cabins in the snow');
  const archive = join(folder, 'bench.hold');
  writeFileSync(
    archive,
    writeHold(
      Array.from({ length: ENTRIES }, (_, i) => ({ path: `e/${i}.bin`, bytes })),
      { key, release: 'bench', built: 0 },
    ),
  );
  writeFileSync(join(folder, 'changed'), Buffer.alloc(1 << 20, 'cabins in the rain'));
  const put = (how: string) => () =>
    execFileSync(cli, [
      'put',
      archive,
      '--key',
      `content=${key.toString('hex')}`,
      '--change',
      `e/500.bin=${join(folder, 'changed')}`,
      '--how',
      how,
      '--to',
      join(folder, how),
    ]);
  const keep = await seconds(put('keep'));
  const patch = await seconds(put('patch'));
  const copy = await seconds(() =>
    execFileSync('sh', ['-c', 'cp --reflink=never "$1" "$2" && sync -d "$2"', 'sh', archive, join(folder, 'copy')]),
  );
  rmSync(folder, { recursive: true, force: true });
  const size = '1,000 entries, 1 GiB, one changed';
  return [
    {
      what: 'rebuild an archive',
      on: size,
      ours: say(keep),
      tool: 'cp and sync',
      theirs: say(copy),
      ratio: copy / keep,
      bar: '0.7',
    },
    {
      what: 'small overriding archive',
      on: size,
      ours: say(patch),
      tool: 'cp and sync of the whole',
      theirs: say(copy),
      ratio: copy / patch,
      bar: 'under 1 s',
    },
  ];
}
