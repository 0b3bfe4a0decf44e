/** Own steps: shared code, the language's own steps within them, and how much they may work. */
import { deflateSync } from 'node:zlib';
import { prepareCodecs } from '../../codecs';
import { ownCodec, ownHash, prepareSandbox } from './own-step';
import { hashOf, hasherKey } from '../../codecs';

beforeAll(() => Promise.all([prepareCodecs(), prepareSandbox()]));

const context = (params = {}, plainSize?: number) => ({
  params,
  maxPlainBytes: 1 << 20,
  ...(plainSize === undefined ? {} : { plainSize }),
});
const step = (decode: string, encode?: string, shared?: string) =>
  ownCodec({ name: 'mine', takes: ['salt'], shared, decode, encode });

test('both directions use what is shared, and the parameters', () => {
  const codec = step(
    '(bytes, { salt }) => turned(bytes, -salt)',
    '(bytes, { salt }) => turned(bytes, salt)',
    'const turned = (bytes, by) => bytes.map((byte) => (byte + by) & 255);',
  );
  const stored = codec.encode(Uint8Array.of(1, 2, 250), context({ salt: 10 }));
  expect([...stored]).toEqual([11, 12, 4]);
  expect([...codec.decode(stored, context({ salt: 10 }))]).toEqual([1, 2, 250]);
});

test('steps of the language are there, with their parameters', () => {
  const codec = step(
    '(bytes) => unpack("zlib", unpack("xor", bytes.subarray(1), { key: bytes.subarray(0, 1) }))',
    '(bytes) => { const body = pack("xor", pack("zlib", bytes, { level: 9 }), { key: new Uint8Array([7]) }); const out = new Uint8Array(body.length + 1); out[0] = 7; out.set(body, 1); return out; }',
  );
  const plain = Buffer.from('lanterns '.repeat(40));
  const stored = codec.encode(plain, context({ salt: 0 }));
  expect(Buffer.from(stored.subarray(1).map((byte) => byte ^ 7))).toEqual(deflateSync(plain, { level: 9 }));
  expect(Buffer.from(codec.decode(stored, context({ salt: 0 }, plain.length)))).toEqual(plain);
});

test.each([
  ['a step that does not exist', '(bytes) => unpack("nope", bytes)', /there is no step nope/],
  ['a step without its key', '(bytes) => unpack("xor", bytes)', /xor needs key/],
  ['bytes that are not packed so', '(bytes) => unpack("zlib", bytes)', /zlib cannot unpack/],
  ['a bomb', '(bytes) => unpack("zlib", pack("zlib", new Uint8Array(1 << 22)))', /may be unpacked/],
  [
    'the host itself',
    '(bytes) => new Uint8Array(typeof builtIn === "undefined" && typeof require === "undefined" ? 1 : 99)',
    /gives another size/,
  ],
])('%s is told', (_, decode, says) => {
  expect(() => step(decode).decode(Uint8Array.of(1, 2, 3), context({ salt: 0 }, 2))).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ what: expect.stringMatching(says) }) }),
  );
});

test('work without end is given up, in less than 5 s of the processor', () => {
  const before = process.cpuUsage();
  expect(() => step('(bytes) => { for (;;); }').decode(Uint8Array.of(1), context({ salt: 0 }))).toThrow(
    expect.objectContaining({
      fault: expect.objectContaining({ code: 'limit-reached', limit: expect.stringMatching(/^work of one call/) }),
    }),
  );
  expect(process.cpuUsage(before).user).toBeLessThan(5_000_000);
});

test('a hash with parameters', async () => {
  // The engine before was given up.
  await prepareSandbox();
  const key = ownHash('fold', '(bytes, { seed }) => bytes.reduce((sum, byte) => (sum * 3 + byte) >>> 0, seed)');
  expect(hashOf(hasherKey(key, { seed: 5 }), Uint8Array.of(1, 2))).toBe((5 * 3 + 1) * 3 + 2);
});
