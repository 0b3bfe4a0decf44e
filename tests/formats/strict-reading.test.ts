/** What a strict reader would not take is reported by the proof, and does not prevent taking things out. */
import { bufferSource, memoryScratch } from '../../src/core/bytes';
import type { Fault } from '../../src/core/faults';
import { compileRecipe, isProven, openArchive, prove } from '../../src/core/recipe';
import { contentsOf, refused, recipeOf } from './writing/edit-file';

interface Parts {
  readonly name?: string;
  readonly tail?: string;
  readonly rows?: string;
  readonly entries?: string;
  readonly top?: string;
}

const recipeWith = ({ name = 'ascii(4)', tail = '', rows = '', entries = '', top = '' }: Parts) =>
  recipeOf(`
match: { at: 0, bytes: STRI }
${top}
shapes:
  head: [{ field: magic, as: ascii(4), must: STRI }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: '${name}', is: entry.path }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }${tail}]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]'${rows} }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: row.name, at: row.at, stored: row.size, size: row.size${entries} }
`);

async function proofOf(recipe: string, file: string) {
  const archive = await openArchive(compileRecipe(recipe), [bufferSource(Buffer.from(file, 'latin1'), 'sample.bin')]);
  return prove(archive, { scratch: memoryScratch() });
}

const row = (name: string, at: number, size: number, more = '') =>
  `${name.padEnd(4, '\0')}${String.fromCharCode(at, size)}${more}`;
const GOOD = `STRI\x02${row('fox', 17, 3)}${row('owl', 20, 2)}FFFOO`;

/** Sound files prove whole; unsound ones are read, told with this fault, and refused where the recipe is strict. */
async function told(parts: Parts, good: string, bad: string, fault: Partial<Fault>): Promise<void> {
  const sound = await proofOf(recipeWith(parts), good);
  expect(isProven(sound)).toBe(true);
  const unsound = await proofOf(recipeWith(parts), bad);
  expect(isProven(unsound)).toBe(false);
  expect(unsound.formulas.first).toMatchObject({ file: 'sample.bin', recipe: 'small', ...fault });
  expect(Object.keys(await contentsOf(recipeWith(parts), bad))).not.toHaveLength(0);
  const strict = recipeWith({ ...parts, top: 'strict: true' });
  await expect(contentsOf(strict, bad)).rejects.toMatchObject({ fault });
  expect(Object.keys(await contentsOf(strict, good))).toHaveLength(2);
}

test('rows that are not in their order', () =>
  told({ rows: ', sort: name' }, GOOD, GOOD.replace('fox', 'pug'), {
    what: 'rows are not in the order the recipe says',
    region: 'rows',
    field: 'row[1]',
    offset: 11,
    found: '"owl"',
  }));

test('an entry without a path', () =>
  told({}, GOOD, GOOD.replace('owl', '\0\0\0'), {
    what: 'an entry has no path',
    offset: 11,
    entry: 'nameless/000001',
    found: '""',
  }));

test('a path that is there twice', () =>
  told({ entries: ', unique: path' }, GOOD, GOOD.replace('owl', 'fox'), {
    what: 'two entries share what no two may share',
    entry: 'fox',
    region: 'rows',
    offset: 11,
  }));

test('bytes behind the end of a text, unless they may stand there', async () => {
  const bad = GOOD.replace('fox\0', 'f\0x\0');
  await told({}, GOOD, bad, {
    what: 'there are other bytes after the end of a text',
    field: 'row[0].name',
    offset: 5,
    found: '00 78 00',
  });
  expect(isProven(await proofOf(recipeWith({ name: 'text(4, ascii, rest: any)' }), bad))).toBe(true);
});

test('padding that holds other bytes, unless it may', async () => {
  const file = (pad: string) => `STRI\x02${row('fox', 20, 3, pad)}${row('owl', 23, 2, '\0\0')}FFFOO`;
  const loose = recipeWith({ tail: ", { field: fill, as: 'pad(4, rest: any)' }" });
  expect(isProven(await proofOf(loose, file('\x07')))).toBe(true);
  await told({ tail: ', { field: fill, as: pad(4) }' }, file('\0'), file('\x07'), {
    what: 'the padding holds other bytes',
    field: 'row[0].fill',
    offset: 11,
    found: '07',
  });
});

test('a number of varying length that is longer than it needs to be', () => {
  const file = (number: string, at: number) =>
    `STRI\x02${row('fox', at, 3, number)}${row('owl', at + 3, 2, '\x05')}FFFOO`;
  return told({ tail: ', { field: flags, as: varint }' }, file('\x05', 19), file('\x85\0', 20), {
    what: 'a varint is longer than its value needs',
    field: 'row[0].flags',
    expected: '05',
    found: '85 00',
  });
});

test('entries whose bytes overlap, and not those that share all of them', async () => {
  await told({}, GOOD, GOOD.replace('owl\0\x14', 'owl\0\x13'), {
    what: 'the bytes of two entries overlap',
    entry: 'owl',
    offset: 19,
  });
  const shared = `STRI\x02${row('fox', 17, 3)}${row('owl', 17, 3)}FFF`;
  expect(isProven(await proofOf(recipeWith({}), shared))).toBe(true);
});

test('a condition holds for rows that are no entries as well', async () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: ROWS }
shapes:
  head: [{ field: magic, as: ascii(4), must: ROWS }, { field: rows, as: 'row[to end]' }]
  row:
    - { field: kind, as: u8, new: 1, check: { that: kind < 3, say: there is no such kind } }
    - { field: size, as: u8, is: length(body) }
    - { field: body, as: data(size) }
regions: [{ region: all, at: 0, holds: head }]
presents: archive
entries: { each: row in all.rows, only: row.kind == 1, data: row.body }
`);
  const file = (kind: string) => `ROWS\x01\x02OK${kind}\x01x\x01\x01y`;
  expect((await proofOf(recipe, file('\x02'))).formulas).toMatchObject({ agree: 6, total: 6 });
  expect((await proofOf(recipe, file('\x07'))).formulas.first).toMatchObject({
    what: 'there is no such kind',
    field: 'kind',
    offset: 8,
  });
});

test('a condition of the recipe’s own, at a field and for every entry', async () => {
  const atField =
    ", { field: most, as: u8, new: 9, check: { that: size <= most, say: 'an item is larger than its page' } }";
  const file = (most: string) => `STRI\x02${row('fox', 19, 3, most)}${row('owl', 22, 2, '\x09')}FFFOO`;
  await told({ tail: atField }, file('\x09'), file('\x02'), {
    what: 'an item is larger than its page',
    field: 'most',
    offset: 11,
    expected: 'size <= most',
  });
  const forAll = ', check: [{ that: entry.path != "pug", say: no pugs }]';
  await told({ entries: forAll }, GOOD, GOOD.replace('fox', 'pug'), { what: 'no pugs', entry: 'pug', offset: 5 });
  const fault = await refused(recipeWith({ entries: forAll }), GOOD, { add: { pug: 'P' } });
  expect(fault).toMatchObject({ code: 'check-failed', what: 'no pugs', entry: 'pug' });
});

describe('the content of entries', () => {
  const shapes = `
  list: [{ field: count, as: u8 }, { field: items, as: 'item[count]' }]
  item: [{ field: kind, as: u8, must: 1..9 }, { field: from, as: u8 }, { field: to, as: u8, check: { that: from <= to, say: an item ends before it begins } }]
`;
  const content = ', content: [{ when: row.name == "fox", holds: list }]';
  const withShapes = (parts: Parts) => recipeWith(parts).replace('regions:', `${shapes.slice(1)}regions:`);
  const file = (fox: string) => `STRI\x02${row('fox', 17, fox.length)}${row('owl', 17 + fox.length, 2)}${fox}OO`;
  const good = file('\x02\x01\x03\x04\x09\x05\x05');

  test.each([
    ['an item ends before it begins', file('\x02\x01\x03\x04\x09\x05\x04'), { field: 'item[1].to', offset: 4 }],
    ['its length', file('\x02\x01\x03\x04'), { code: 'cut-short' }],
    ['bytes left over', file('\x01\x01\x03\x04\x09'), { found: '1 bytes left over', offset: 4 }],
    ['a value', file('\x01\x0a\x03\x04'), { field: 'kind', expected: '1 to 9', offset: 1 }],
  ])('%s', async (what, bad, fault) => {
    const recipe = withShapes({ entries: content });
    expect(isProven(await proofOf(recipe, good))).toBe(true);
    const { formulas } = await proofOf(recipe, bad);
    expect(formulas.agree).toBe(formulas.total - 1);
    expect(formulas.first).toMatchObject({ entry: 'fox', within: 'fox', ...fault });
    if (what.startsWith('an item')) expect(formulas.first).toMatchObject({ what });
    await expect(contentsOf(withShapes({ entries: content, top: 'strict: true' }), bad)).rejects.toMatchObject({
      fault,
    });
  });

  test('is compared only where the condition holds', async () => {
    const recipe = withShapes({ entries: content.replace('fox', 'owl') });
    expect((await proofOf(recipe, file('\x02'))).formulas.first).toMatchObject({ entry: 'owl' });
  });

  test('needs a shape that holds no entries', () => {
    expect(() => compileRecipe(withShapes({ entries: content.replace('holds: list', 'holds: lost') }))).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ what: 'there is no shape lost' }) }),
    );
  });
});
