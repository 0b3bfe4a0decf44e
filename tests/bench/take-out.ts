/** Taking everything out, stored and packed, as the command line does it, against cp and the formats' own tools. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeHold } from '../../demo/archives/hold';
import { randomFor } from '../../demo/assets';
import { say, seconds, type Row } from './table';

const key = Buffer.alloc(32, 5);
const ENTRIES = 512;
const ENTRY_BYTES = 1 << 20;
const cli = join(__dirname, '..', '..', 'bin', 'zero-latch');

export async function measureTakeOut(work: string): Promise<Row[]> {
  const rows: Row[] = [];
  for (const [ending, on, tool] of [
    ['bin', 'stored', 'cp'],
    ['txt', 'zlib', 'python3 zlib, one thread'],
    ['wav', 'LZ4', 'lz4 -d, one frame'],
  ] as const) {
    const folder = join(work, `take-${ending}`);
    mkdirSync(folder);
    const bytes = halfRandom();
    const entries = Array.from({ length: ENTRIES }, (_, i) => ({ path: `d${i % 16}/e${i}.${ending}`, bytes }));
    const archive = join(folder, 'bench.hold');
    writeFileSync(archive, writeHold(entries, { key, release: 'bench', built: 0 }));
    const out = join(folder, 'out');
    const ours = await seconds(() => {
      rmSync(out, { recursive: true, force: true });
      execFileSync(cli, ['take', archive, '--key', `content=${key.toString('hex')}`, '--to', out]);
    });
    if (!readFileSync(join(out, `d0/e0.${ending}`)).equals(bytes)) throw new Error('the entry is not what went in');
    rmSync(out, { recursive: true, force: true });
    const theirs = await measureTool(ending, folder, archive, bytes);
    rows.push({
      what: 'take everything out',
      on: `${ENTRIES} entries of 1 MiB, ${on}`,
      ours: say(ours),
      tool,
      theirs: say(theirs),
      ratio: theirs / ours,
      bar: ending === 'bin' ? '0.7' : '0.8',
    });
    rmSync(folder, { recursive: true, force: true });
  }
  return rows;
}

async function measureTool(
  ending: 'bin' | 'txt' | 'wav',
  folder: string,
  archive: string,
  bytes: Buffer,
): Promise<number> {
  const target = join(folder, 'tool');
  if (ending === 'bin')
    return seconds(() => execFileSync('sh', ['-c', 'cp --reflink=never "$1" "$2"', 'sh', archive, target]));
  if (ending === 'txt') {
    // The same bytes, packed and unpacked as often, each written to a file of its own.
    writeFileSync(join(folder, 'plain'), bytes);
    const script = `
import sys, zlib, os
packed = zlib.compress(open(sys.argv[1], 'rb').read(), 9)
os.makedirs(sys.argv[2], exist_ok=True)
for i in range(${ENTRIES}):
    with open(f'{sys.argv[2]}/{i}', 'wb') as f:
        f.write(zlib.decompress(packed))
`;
    return seconds(() => execFileSync('python3', ['-c', script, join(folder, 'plain'), target]));
  }
  writeFileSync(join(folder, 'plain'), Buffer.concat(Array.from({ length: ENTRIES }, () => bytes)));
  execFileSync('lz4', ['-f', '-q', join(folder, 'plain'), join(folder, 'frame.lz4')]);
  return seconds(() => execFileSync('sh', ['-c', 'lz4 -d -f -q "$1" "$2"', 'sh', join(folder, 'frame.lz4'), target]));
}

/** A megabyte that packs to about half. */
function halfRandom(): Buffer {
  const random = randomFor('bench');
  const bytes = Buffer.alloc(ENTRY_BYTES);
  for (let i = 0; i < bytes.length; i++) bytes[i] = i % 64 < 32 ? random.whole(0, 255) : 0x41 + (i % 16);
  return bytes;
}
