/** AES-256 over a large stretch, against openssl on the same file. */
import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { readChunks } from '../../src/core/bytes';
import { openFile } from '../../src/core/bytes/node';
import { findCodec } from '../../src/core/codecs';
import { say, seconds, type Row } from './table';

const MEGABYTES = 1024;
const key = Buffer.alloc(32, 7);
const iv = Buffer.alloc(16, 9);

export async function measureAes(work: string): Promise<Row[]> {
  const path = join(work, 'locked.bin');
  // Made by another process: this one's memory must be as it is in use.
  execFileSync('sh', [
    '-c',
    `head -c ${MEGABYTES}M /dev/zero | openssl enc -aes-256-cbc -K ${key.toString('hex')} -iv ${iv.toString('hex')} -out "$1"`,
    'sh',
    path,
  ]);
  const codec = findCodec('aes-256-cbc')!;
  const context = { params: { key, iv, pad: 'pkcs7' }, maxPlainBytes: 2 ** 40 };
  const ours = await seconds(async () => {
    const source = await openFile(path);
    let total = 0;
    for await (const chunk of codec.decodeStream!(readChunks(source), context)) total += chunk.length;
    if (total !== MEGABYTES << 20) throw new Error(`unlocked ${total} bytes`);
    await source.close();
  });
  const theirs = await seconds(() =>
    execFileSync('openssl', [
      'enc',
      '-d',
      '-aes-256-cbc',
      '-K',
      key.toString('hex'),
      '-iv',
      iv.toString('hex'),
      '-in',
      path,
      '-out',
      '/dev/null',
    ]),
  );
  rmSync(path);
  return [
    {
      what: 'unlock AES-256-CBC',
      on: '1 GiB',
      ours: say(ours),
      tool: 'openssl enc',
      theirs: say(theirs),
      ratio: theirs / ours,
      bar: '0.7',
    },
  ];
}
