/** AES-256 over a large stretch, against openssl on the same file. */
import { execFileSync } from 'node:child_process';
import { createCipheriv } from 'node:crypto';
import { closeSync, openSync, writeSync } from 'node:fs';
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
  const file = openSync(path, 'w');
  const cipher = createCipheriv('aes-256-cbc', key, iv);
  const megabyte = Buffer.alloc(1 << 20, 'the quick cabin over the lazy valley ');
  for (let i = 0; i < MEGABYTES; i++) writeSync(file, cipher.update(megabyte));
  writeSync(file, cipher.final());
  closeSync(file);
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
