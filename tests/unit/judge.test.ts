/** The stand-in game: strict, and right by itself. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeLz4Block } from '../../demo/stand-in/lz4';
import { checkContent } from '../../demo/stand-in/content-rules';
import { readHold } from '../../demo/stand-in/hold-reader';
import { LoadStop } from '../../demo/stand-in/report';
import { hold, KEY } from '../support/hold';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-judge-'));
afterAll(() => rmSync(folder, { recursive: true }));

const codeOf = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    if (error instanceof LoadStop) return error.finding.code;
    throw error;
  }
  return 'none';
};

const DAMAGE: readonly [what: string, code: string, change: (bytes: Buffer) => Buffer][] = [
  ['nothing', 'none', (bytes) => bytes],
  ['another magic', 'HOLD-MAGIC', (bytes) => set(bytes, 0, 0x4a)],
  ['version 2', 'HOLD-VERSION', (bytes) => set(bytes, 4, 2)],
  ['another flag', 'HOLD-FLAGS', (bytes) => set(bytes, 6, 0)],
  ['one entry too many', 'HOLD-ROWS-SHORT', (bytes) => set(bytes, 8, bytes[8]! + 1)],
  ['one entry too few', 'HOLD-ROWS-LONG', (bytes) => set(bytes, 8, bytes[8]! - 1)],
  ['bytes behind the index', 'HOLD-END', (bytes) => Buffer.concat([bytes, Buffer.alloc(16)])],
  ['a wrong index checksum', 'HOLD-INDEX-CRC', (bytes) => set(bytes, 28, bytes[28]! ^ 1)],
  ['a fill that is not zero', 'HOLD-FILL', (bytes) => set(bytes, bytes.readUInt32LE(16) - 1, 1)],
  ['half a head', 'HOLD-SHORT', (bytes) => bytes.subarray(0, 40)],
];

function set(bytes: Buffer, at: number, value: number): Buffer {
  const changed = Buffer.from(bytes);
  changed[at] = value;
  return changed;
}

test.each(DAMAGE)('%s gives %s', (_, code, change) => {
  expect(codeOf(() => readHold('test.hold', change(hold()), Buffer.from(KEY)))).toBe(code);
});

test('another key is refused', () => {
  expect(['HOLD-KEY', 'HOLD-INDEX-CRC']).toContain(codeOf(() => readHold('test.hold', hold(), Buffer.alloc(32, 3))));
});

test('its LZ4 reader agrees with the lz4 tool', () => {
  const plain = Buffer.concat([
    Buffer.from('cabin '.repeat(500)),
    Buffer.from(Uint8Array.from({ length: 700 }, (_, i) => (i * 31) % 256)),
  ]);
  writeFileSync(join(folder, 'plain'), plain);
  execFileSync('lz4', ['-f', '-q', '--no-frame-crc', join(folder, 'plain'), join(folder, 'frame')]);
  const frame = readFileSync(join(folder, 'frame'));
  const block = frame.subarray(11, 11 + frame.readUInt32LE(7));
  expect(decodeLz4Block(block, plain.length)?.equals(plain)).toBe(true);
  expect(decodeLz4Block(block.subarray(0, block.length - 3), plain.length)).toBeUndefined();
  expect(decodeLz4Block(block, plain.length - 1)).toBeUndefined();
});

test.each([
  ['cabins/livery/x.png', 'text', 'PNG-SIGNATURE'],
  ['tannoy/x.wav', 'text', 'WAV-RIFF'],
  ['parcels/x.json', '{', 'JSON'],
  ['words/en/captions.txt', 'a line without an equals sign', 'WORDS-LINE'],
  ['words/en/captions.txt', 'a.b = one\na.b = two', 'WORDS-TWICE'],
  ['letters/x.txt', 'anything', 'none'],
])('%s with %j gives %s', (path, text, code) => {
  expect(codeOf(() => checkContent('core.hold', path, Buffer.from(text)))).toBe(code);
});
