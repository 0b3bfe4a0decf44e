import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { hashOf } from '../codecs';
import { compileRecipe } from '../recipe';
import { harvestPaths, HashTargets, namesInList, parsePattern, quickHash, searchPattern } from '.';
import { hashRule } from './hash-rule';
import { pathAt } from './pattern';

/** The hashing rule of a recipe, compiled. */
function ruleOf(hashing: string) {
  const recipe = compileRecipe(`
recipe: hashed
title: Hashed
revision: 1
numbers: little
shapes:
  row: [{ field: hash, as: u64, is: entry.hash }, { field: at, as: u32, is: entry.at }, { field: size, as: u32, is: entry.size }]
regions:
  - { region: rows, at: 0, holds: 'row[2]' }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in rows, hash: row.hash, hashing: '${hashing}', at: row.at, stored: row.size }
`);
  return recipe.entries.hashing!;
}

const HASHERS = ['fnv1a-64', 'fnv1-64', 'fnv1a-32', 'fnv1-32', 'djb2', 'djb2x', 'sdbm', 'times31', 'crc32', 'jenkins'];

async function found(text: string, hashing: string, wanted: readonly string[], range?: [number, number]) {
  const rule = ruleOf(hashing);
  const pattern = parsePattern(text, { colours: ['red', 'moss', 'slate'] });
  const matches: string[] = [];
  await searchPattern(
    pattern,
    rule,
    new HashTargets(wanted.map(quickHash(rule))),
    { from: range?.[0] ?? 0, to: range?.[1] ?? pattern.count },
    (path) => matches.push(path),
  );
  return matches;
}

test.each(HASHERS)('%s finds the same paths quickly as by its formula', async (hasher) => {
  const wanted = ['Cabins/Red_b07.png', 'Cabins/moss_z99.png', 'Cabins/elsewhere.png'];
  const hashing = `${hasher}(replace(lower(entry.path), "/", "\\\\"))`;
  expect(hashRule(ruleOf(hashing).text)?.hasher).toBe(hasher);
  expect(await found('Cabins/{colours}_{a-z}{00..99}.png', hashing, wanted)).toEqual([
    'Cabins/red_b07.png',
    'Cabins/moss_z99.png',
  ]);
});

test('the kernel of each hash agrees with the catalogue, over constants before and behind too', async () => {
  for (const hasher of HASHERS) {
    const rule = ruleOf(`${hasher}("data/" + entry.path + ".bin")`);
    expect(quickHash(rule)('x')).toEqual(hashOf(hasher, Buffer.from('data/x.bin')));
    expect(await found('{a-z}{0-9}', `${hasher}("data/" + entry.path + ".bin")`, ['q4'])).toEqual(['q4']);
  }
});

test('hashes without a kernel and patterns beyond ASCII are tested all the same', async () => {
  expect(await found('{a-c}/x', 'md5(entry.path)', ['b/x'])).toEqual(['b/x']);
  expect(await found('tür_{1..9}', 'fnv1a-64(entry.path)', ['tür_7'])).toEqual(['tür_7']);
  expect(await found('{a-c}', 'fnv1a-64(upper(entry.path) + part(entry.path, 0, 1))', ['b'])).toEqual(['b']);
});

test('a range is tested, no more and no less, and all of them together find everything', async () => {
  const shape = fc.tuple(
    fc.integer({ min: 1, max: 5 }),
    fc.integer({ min: 1, max: 12 }),
    fc.integer({ min: 1, max: 30 }),
  );
  await fc.assert(
    fc.asyncProperty(shape, fc.nat(), async ([a, b, step], seed) => {
      const text = `x{0..${a}}/{a-c}_{0..${b}}.t`;
      const pattern = parsePattern(text);
      const wanted = pathAt(pattern, seed % pattern.count);
      const matches: string[] = [];
      for (let from = 0; from < pattern.count; from += step)
        matches.push(
          ...(await found(text, 'fnv1a-64(entry.path)', [wanted], [from, Math.min(pattern.count, from + step)])),
        );
      expect(matches).toEqual([wanted]);
    }),
    { numRuns: 30 },
  );
});

test.each([
  ['', 'empty'],
  ['a{1..', 'not closed'],
  ['a}', 'closes nothing'],
  ['{9..1}', 'backwards'],
  ['{z-a}', 'backwards'],
  ['{nobody}', 'no meaning for {nobody}'],
  ['{0..9999999}', 'too many'],
])('the pattern %j is refused: %s', (text, why) => {
  expect(() => parsePattern(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ what: expect.stringContaining(why) }) }),
  );
});

test('a list gives its names, with what is odd told by line', () => {
  const odd: string[] = [];
  const text =
    '\ufeff# names\r\nui/a.png\r\n\n0xdeadbeef;ui/b.png\n"ui/c, d.png"\nbad\u0001line\n' + 'x'.repeat(2000) + '\n';
  const names = [...namesInList(text, ({ line, reason }) => odd.push(`${line}: ${reason}`))];
  expect(names.map(({ path }) => path)).toEqual(['ui/a.png', 'ui/b.png', 'ui/c, d.png']);
  expect(names[1]!.hash).toBe('0xdeadbeef');
  expect(odd).toEqual(['6: control-characters', '7: too-long']);
  expect([...namesInList('hash,name,size\n1f,models/x,12\n')].map(({ path }) => path)).toEqual(['models/x']);
});

test('paths are found in texts, tables and programs, over the border of two pieces', async () => {
  const text = `{"icon":"ui\\\\icons\\\\a.png"}\0\0see ./maps/valley.lvl, and /snd/x.wav.\0${'z'.repeat(10)}\0\0`;
  const bytes = Buffer.concat([Buffer.from(text, 'latin1'), Buffer.from('wide/path.txt', 'utf16le')]);
  const paths = new Set<string>();
  const pieces = async function* () {
    yield bytes.subarray(0, 20);
    yield bytes.subarray(20);
  };
  for await (const path of harvestPaths(pieces())) paths.add(path);
  for (const path of ['ui/icons/a.png', 'maps/valley.lvl', 'snd/x.wav', 'wide/path.txt']) expect(paths).toContain(path);
});

test('a set of hashes says no to what it does not hold', () => {
  const targets = new HashTargets([1, 0xffffffff, 2n ** 63n, createHash('md5').update('a').digest()]);
  expect(targets.size).toBe(4);
  expect([
    targets.has32(1),
    targets.has32(2),
    targets.has64(0x80000000, 0),
    targets.has64(0, 1),
    targets.has64(1, 1),
  ]).toEqual([true, false, true, true, false]);
});
