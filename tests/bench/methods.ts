/** Unpacking and packing by each method, against the method's own tool on the same bytes; both unpack what the tool packed. */
import { execFileSync } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { codecNames, findCodec, prepareCodecs } from '../../src/core/codecs';
import { say, seconds, type Row } from './table';

const MEGABYTES = 8;
const TOOLS: readonly (readonly [codec: string, tool: string, ...args: string[]])[] = [
  ['gzip', 'gzip'],
  ['zstd', 'zstd', '-q'],
  ['lz4-frame', 'lz4', '-q'],
  ['xz', 'xz', '--threads=1'],
  ['lzma-alone', 'xz', '--format=lzma'],
  // The level of both: the tool's own would take minutes.
  ['brotli', 'brotli', '--quality=9'],
];

/** Rows of numbers, words and noise, about as games keep them: half of it packs well. */
function mixture(): Buffer {
  const bytes = Buffer.alloc(MEGABYTES << 20);
  let state = 0x2545f491;
  for (let at = 0; at < bytes.length; at += 64) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    bytes.write(`cabin ${state % 97} leaves station ${state % 13} at ${at % 5171}; `, at, 40, 'latin1');
    for (let i = 40; i < 64; i += 4) {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      bytes.writeUInt32LE(i < 52 ? state >>> 20 : state, at + i);
    }
  }
  return bytes;
}

export async function measureMethods(work: string): Promise<Row[]> {
  await prepareCodecs();
  const plain = mixture();
  const open = join(work, 'mixture');
  const packed = join(work, 'mixture.packed');
  writeFileSync(open, plain);
  const rows: Row[] = [];
  const on = `${MEGABYTES} MiB`;
  for (const [name, tool, ...args] of TOOLS) {
    if (!codecNames().includes(name)) throw new Error(`there is no method ${name}`);
    const codec = findCodec(name)!;
    const context = { params: {}, maxPlainBytes: plain.length, plainSize: plain.length };
    const run = (...more: string[]) => execFileSync(tool, [...args, ...more], { maxBuffer: 2 ** 30 });
    writeFileSync(packed, run('-c', open));
    const stored = readFileSync(packed);
    const unpack = await seconds(() => {
      if (codec.decode(stored, context).length !== plain.length) throw new Error(`${name} unpacks too little`);
    });
    const toolUnpack = await seconds(() => run('-d', '-c', packed));
    const pack = await seconds(() => codec.encode(plain, context));
    const toolPack = await seconds(() => run('-c', open));
    // A fast packer that does not pack has no merit: the table has sizes next to times.
    const sizes = `${on}, to ${mega(codec.encode(plain, context).length)}; the tool to ${mega(stored.length)}`;
    rows.push(
      row(`unpack ${name}`, on, unpack, `${tool} -d`, toolUnpack),
      row(`pack ${name}`, sizes, pack, tool, toolPack),
    );
  }
  rmSync(open);
  rmSync(packed);
  return rows;
}

const mega = (bytes: number) => `${(bytes / 2 ** 20).toFixed(2)} MiB`;

function row(what: string, on: string, ours: number, tool: string, theirs: number): Row {
  return { what, on, ours: say(ours), tool, theirs: say(theirs), ratio: theirs / ours, bar: '' };
}
