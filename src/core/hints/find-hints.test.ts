import { createCipheriv } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import { bufferSource } from '../bytes';
import { findHints, randomness } from '.';

/** The same noise every time: chance would now and then write something that looks like a name. */
function noiseOf(length: number): Buffer {
  return createCipheriv('aes-128-ctr', Buffer.alloc(16), Buffer.alloc(16)).update(Buffer.alloc(length));
}

/** An archive no one described: a header, six rows of 12 bytes, names, packed bodies, a random stretch. */
function unknownFile(): Buffer {
  const bodies = Array.from({ length: 6 }, (_, i) => deflateSync(Buffer.alloc(900 + i, `body ${i} of the file. `)));
  const names = Array.from({ length: 6 }, (_, i) => Buffer.from(`sets/part_${i}.cfg\0`));
  const head = Buffer.alloc(16);
  const table = Buffer.alloc(6 * 12);
  const noise = noiseOf(200_000);
  const before = [head, table, ...names];
  let at = Buffer.concat(before).length;
  bodies.forEach((body, i) => {
    table.writeUInt32LE(at, i * 12);
    table.writeUInt32LE(body.length, i * 12 + 4);
    table.writeUInt32LE(0xffffff00, i * 12 + 8);
    at += body.length;
  });
  head.write('QUIL');
  head.writeUInt32LE(6, 4);
  head.writeUInt32LE(at + noise.length, 8);
  return Buffer.concat([...before, ...bodies, noise]);
}

test('an unknown archive gives its mark, size, count, table, names, streams and its random part away', async () => {
  const file = unknownFile();
  const hints = await findHints(bufferSource(file));
  const about = (pattern: RegExp) => hints.find(({ what }) => pattern.test(what));
  expect(about(/begins with “QUIL”/)?.lines[0]?.text).toBe('match: { at: 0, bytes: QUIL }');
  expect(about(/size of the file/)).toMatchObject({ at: 8, length: 4 });
  expect(about(/is 6, as many as were found/)).toMatchObject({ at: 4 });
  expect(about(/6 numbers from 0x10 on grow every 12 bytes/)?.lines.at(-1)?.text).toContain('row[6]');
  expect(about(/6 names such as “sets\/part_0.cfg”/)?.at).toBe(16 + 72);
  expect(about(/^zlib begins at 0x/)?.lines[0]?.text).toBe('through: [zlib]');
  const noisy = about(/looks packed or locked/)!;
  expect(noisy.at + noisy.length).toBe(file.length);
  expect(noisy.length).toBeGreaterThan(190_000);
});

test('an empty and a short file give nothing away, and no fault', async () => {
  expect(await findHints(bufferSource(Buffer.alloc(0)))).toEqual([]);
  expect((await findHints(bufferSource(Buffer.alloc(3)))).length).toBe(0);
});

test('randomness is 8 for noise and 0 for zeros, in as many cells as asked', async () => {
  const cells = await randomness(bufferSource(Buffer.concat([Buffer.alloc(65_536), noiseOf(65_536)])), 8);
  expect(cells).toHaveLength(8);
  expect(cells.slice(0, 4)).toEqual([0, 0, 0, 0]);
  for (const cell of cells.slice(4)) expect(cell).toBeGreaterThan(7.8);
});
