/** Rows of several shapes in one table, each with flags of its own at another place. */
import { contentsOf, edited, recipeOf, isProvenWhole } from './edit-file';
const recipe = recipeOf(`
match: { at: 0, bytes: UNIO }
shapes:
  head: [{ field: magic, as: ascii(4), must: UNIO }, { field: count, as: u8, is: count(entries) }]
  row:
    - { field: kind, as: u8, values: { 1: short, 2: long }, new: 'if(entry.size > 200, 2, 1)' }
    - { field: body, by: kind, as: { short: small, long: large } }
  small:
    - { field: name, as: 'ascii(u8)', is: entry.path }
    - { field: flags, as: u8, parts: { inverted: { bits: 0, new: 1 }, rest: { bits: 1..7, must: 0 } } }
    - { field: size, as: u8, is: entry.size }
    - { field: at, as: u32, is: entry.at }
  large:
    - { field: flags, as: u16, parts: { inverted: { bits: 15, new: 0 }, rest: { bits: 0..14, must: 0 } } }
    - { field: size, as: u32, is: entry.size }
    - { field: at, as: u32, is: entry.at }
    - { field: name, as: 'text(zero, ascii)', is: entry.path }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 5, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries:
  each: row in rows
  path: row.body.name
  at: row.body.at
  stored: row.body.size
  size: row.body.size
  through: [{ use: invert, when: row.body.flags.inverted == 1 }]
`);

const inverted = (text: string) => [...text].map((char) => String.fromCharCode(char.charCodeAt(0) ^ 255)).join('');
const u16 = (value: number) => String.fromCharCode(value & 255, value >> 8);
const small = (name: string, flags: number, size: number, at: number) =>
  `\x01${String.fromCharCode(name.length)}${name}${String.fromCharCode(flags, size)}${u16(at)}\0\0`;
const large = (name: string, flags: number, size: number, at: number) =>
  `\x02${u16(flags)}${u16(size)}\0\0${u16(at)}\0\0${name}\0`;
const file = `UNIO\x02${small('fox', 1, 2, 31)}${large('owl', 0, 3, 33)}${inverted('FF')}OOO`;

test('the flags of each row are those of its own shape', async () => {
  expect(await contentsOf(recipe, file)).toEqual({ fox: 'FF', owl: 'OOO' });
  const odd = file.replace(large('owl', 0, 3, 33), large('owl', 0x8000, 3, 33)).replace('OOO', inverted('OOO'));
  expect(await contentsOf(recipe, odd)).toEqual({ fox: 'FF', owl: 'OOO' });
});

test('new rows take the shape and the flags that suit them', async () => {
  const long = 'b'.repeat(300);
  const made = await edited(recipe, file, { change: { owl: 'abcd' }, add: { yak: 'Y', big: long } });
  const data = 31 + small('yak', 1, 1, 0).length + large('big', 0, 300, 0).length;
  const rows = [small('fox', 1, 2, data), large('owl', 0, 4, data + 2), small('yak', 1, 1, data + 6)].join('');
  expect(made.toString('latin1')).toBe(
    `UNIO\x04${rows}${large('big', 0, 300, data + 7)}${inverted('FF')}abcd${inverted('Y')}${long}`,
  );
});

test('it is proven whole', async () => expect(await isProvenWhole(recipe, file)).toBe(true));
