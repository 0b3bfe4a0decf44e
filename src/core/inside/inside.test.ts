import fc from 'fast-check';
import iconv from 'iconv-lite';
import { findInside, KnownNumbers, needlesFor, type Hit, type Sought } from './index';

async function* pieces(bytes: Uint8Array, size: number): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}

async function hits(bytes: Uint8Array, sought: Sought, size = 7, most?: number): Promise<Hit[]> {
  const found: Hit[] = [];
  for await (const hit of findInside(pieces(bytes, size), needlesFor(sought), most)) found.push(hit);
  return found;
}
const text = (what: string, exact = false): Sought => ({ is: 'text', text: what, exact });

test.each(['utf-8', 'utf-16le', 'utf-16be', 'windows-1252', 'shift-jis'])('a text in %s is found', async (encoding) => {
  const word = encoding === 'shift-jis' ? '扉が閉まる' : 'Türen';
  const bytes = Buffer.concat([Buffer.alloc(41, 0xee), iconv.encode(word, encoding), Buffer.alloc(9)]);
  const found = await hits(bytes, text(word));
  expect(found.map(({ at, as }) => [at, as])).toContainEqual([41, encoding.toUpperCase()]);
});

test('capital letters count as small ones, unless it is to be exact', async () => {
  const bytes = Buffer.from('Mind the DOORS, doors');
  expect((await hits(bytes, text('Doors'))).map(({ at }) => at)).toEqual([9, 16]);
  expect((await hits(bytes, text('doors', true))).map(({ at }) => at)).toEqual([16]);
});

test.each<[number, string, Buffer]>([
  [120, 'u8', Buffer.from([120])],
  [-2, 'u16, little end first', Buffer.from([0xfe, 0xff])],
  [70_000, 'u32, big end first', Buffer.from([0, 1, 0x11, 0x70])],
  [1.5, 'f32, little end first', Buffer.from([0, 0, 0xc0, 0x3f])],
])('the number %d as %s', async (number, as, wanted) => {
  const bytes = Buffer.concat([Buffer.alloc(20, 0xaa), wanted, Buffer.alloc(20, 0xaa)]);
  const sought: Sought = { is: 'number', number, forms: ['u8', 'u16', 'u32', 'u64', 'f32', 'f64'] };
  expect((await hits(bytes, sought)).map((hit) => [hit.at, hit.as])).toContainEqual([20, as]);
});

test('bytes with some that do not matter', async () => {
  const bytes = Buffer.from('..RIFF1234WAVE..RIFF56WAVE');
  const found = await hits(bytes, { is: 'bytes', bytes: '52 49 46 46 ?? ?? ?? ?? 57 41' });
  expect(found.map(({ at, length }) => [at, length])).toEqual([[2, 10]]);
  expect((await hits(bytes, { is: 'bytes', bytes: '?? 57 41' })).map(({ at }) => at)).toEqual([9, 21]);
});

test.each<Sought>([
  { is: 'bytes', bytes: '5' },
  { is: 'bytes', bytes: '?? ??' },
  { is: 'bytes', bytes: 'xyz!' },
  { is: 'number', number: 300, forms: ['u8'] },
])('%j stands for no bytes', (sought) => {
  expect(() => needlesFor(sought)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'invalid-request' }) }),
  );
});

test('a hit shows what stands around it', async () => {
  const bytes = Buffer.from(`${'a'.repeat(50)}needle${'b'.repeat(50)}`);
  const [hit] = await hits(bytes, text('needle'));
  expect(Buffer.from(hit!.around).toString()).toBe(`${'a'.repeat(32)}needle${'b'.repeat(32)}`);
  expect(hit!.lead).toBe(32);
});

test('every place is found once, however the bytes are cut, and no more than asked for', async () => {
  const letters = fc.string({ unit: fc.constantFrom('a', 'b'), maxLength: 300 });
  const needle = fc.string({ unit: fc.constantFrom('a', 'b'), minLength: 1, maxLength: 4 });
  await fc.assert(
    fc.asyncProperty(letters, needle, fc.integer({ min: 1, max: 90 }), fc.nat(9), async (all, sought, size, most) => {
      const bytes = Buffer.from(all);
      const wanted: number[] = [];
      for (let at = all.indexOf(sought); at >= 0; at = all.indexOf(sought, at + 1)) wanted.push(at);
      expect((await hits(bytes, text(sought, true), size)).map(({ at }) => at)).toEqual(wanted);
      expect(await hits(bytes, text(sought, true), size, most)).toHaveLength(Math.min(most, wanted.length));
    }),
  );
});

describe('numbers that stand for entries', () => {
  const known = new KnownNumbers<string>();
  known.add(0xcbf2_9ce4_8422_2325n, 'hashed');
  known.add(-5n, 'negative');
  known.add(4001n, 'short');
  known.add('text', 'no number');

  test('are found in either byte order where games put them, and as hex digits', () => {
    expect(known.size).toBe(2);
    const bytes = Buffer.alloc(32, 0x11);
    bytes.writeBigUInt64LE(0xcbf2_9ce4_8422_2325n, 4);
    bytes.writeBigInt64BE(-5n, 16);
    expect([...known.in(bytes)]).toEqual(['hashed', 'negative']);
    expect([...known.in(Buffer.from('{"cell": "0xCBF29CE484222325"}'))]).toEqual(['hashed']);
  });

  test('are no longer digits, no other places and no short ones', () => {
    const odd = Buffer.alloc(32, 0x11);
    odd.writeBigUInt64LE(0xcbf2_9ce4_8422_2325n, 5);
    odd.writeBigUInt64LE(4001n, 16);
    expect([...known.in(odd)]).toEqual([]);
    expect([...known.in(Buffer.from('acbf29ce484222325'))]).toEqual([]);
  });
});
