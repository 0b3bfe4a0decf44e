import { createHash } from 'node:crypto';
import { bufferSource, collect, memoryScratch } from '../../bytes';
import { compileRecipe, keyProbe, openArchive, planNew, volumeBytes } from '..';

function noise(length: number, seed: string): Uint8Array {
  const parts: Buffer[] = [];
  for (let i = 0; i * 32 < length; i++) parts.push(createHash('sha256').update(`${seed} ${i}`).digest());
  return new Uint8Array(Buffer.concat(parts).subarray(0, length));
}

const recipe = (needs: string, steps: string) =>
  compileRecipe(`
recipe: shut
title: Shut
revision: 1
numbers: little
match: { at: 0, bytes: SHUT }
needs: { lock: ${needs} }
shapes:
  head: [{ field: mark, as: ascii(4), must: SHUT }, { field: iv, as: bytes(16), new: random(16) }, { field: count, as: u32, is: count(entries) }, { field: at, as: u32, is: start(rows) }, { field: size, as: u32, is: length(rows) }]
  rows: [{ field: mark, as: ascii(8), must: ROWSROWS }, { field: list, as: "row[head.count]" }, { field: rest, as: bytes((16 - (8 + 12 * head.count) % 16) % 16), new: zeros((16 - (8 + 12 * head.count) % 16) % 16) }]
  row: [{ field: name, as: ascii(4), is: entry.path }, { field: at, as: u32, is: entry.at }, { field: size, as: u32, is: entry.size }]
regions:
  - { region: head, at: 0, holds: head }
  - { region: data, holds: entries }
  - { region: rows, at: head.at, length: head.size, through: [${steps}], holds: rows }
presents: archive
entries: { each: row in rows.list, path: row.name, at: row.at, stored: row.size, size: row.size }
`);

async function shut(needs: string, steps: string, key: Uint8Array) {
  const made = recipe(needs, steps);
  const add = [{ path: 'abcd', bytes: bufferSource(Buffer.from('what lies inside'), 'abcd') }];
  const plan = await planNew(made, add, { scratch: memoryScratch(), keys: new Map([['lock', key]]) });
  const file = bufferSource(await collect(volumeBytes(plan.volumes[0]!)), 'shut.bin');
  return { made, file, probe: (await keyProbe(made, [file], 'lock'))! };
}

test.each([
  ['aes-128', 'aes-128-ecb(lock)'],
  ['aes-192', 'aes-192-cbc(lock, iv: head.iv)'],
  ['aes-256', 'aes-256-ctr(lock, iv: head.iv)'],
  ['aes-256', 'aes-256-cfb(lock, iv: head.iv)'],
  ['aes-256', 'aes-256-cbc(sha256(lock), iv: head.iv)'],
  ['bytes(12)', 'rc4(md5(lock))'],
  ['bytes(8)', 'xor(lock)'],
  ['text', 'rc4(lock)'],
])('a %s key of %s is known by the first bytes it unlocks', async (needs, steps) => {
  const length = { 'aes-128': 16, 'aes-192': 24, 'aes-256': 32, 'bytes(12)': 12, 'bytes(8)': 8, text: 9 }[needs]!;
  const key = noise(length, steps);
  const { made, file, probe } = await shut(needs, steps, key);
  expect(probe.bytes).toBe(needs === 'text' ? 0 : length);
  expect(probe.how).toBe('the field mark must be "ROWSROWS"');
  const hidden = Buffer.concat([Buffer.alloc(5, 7), key]);
  expect(probe.mayFit(hidden, 5)).toBe(true);
  expect(await probe.fits(key)).toBe(true);
  for (let i = 0; i < 300; i++) {
    const other = noise(length, `other ${i}`);
    expect(probe.mayFit(other, 0)).toBe(false);
  }
  expect(await probe.fits(noise(length, 'other'))).toBe(false);
  const opened = await openArchive(made, file, { keys: new Map([['lock', key]]) });
  expect(opened.entries.path(0)).toBe('abcd');
});

test('a repeating XOR is told with the bytes that are known; nothing else is', async () => {
  const key = noise(8, 'xor');
  const { probe } = await shut('bytes(8)', 'xor(lock)', key);
  const { stored, plain } = probe.known!;
  expect(Buffer.from(plain).toString()).toBe('ROWSROWS');
  expect(stored.map((byte, i) => byte ^ plain[i]!)).toEqual(key);
  expect((await shut('bytes(8)', 'rc4(lock)', key)).probe.known).toBeUndefined();
});
