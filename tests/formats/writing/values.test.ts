/** Fields that are set: what is made of them follows, and nothing else changes. */
import { collect, memoryScratch } from '../../../src/core/bytes';
import type { FaultError } from '../../../src/core/faults';
import { fieldPlace, planRebuild, volumeBytes, type Archive } from '../../../src/core/recipe';
import { contentsOf, editArchive, openFiles, recipeOf } from './edit-file';

const recipe = recipeOf(`
match: { at: 0, bytes: TONG }
shapes:
  head: [{ field: magic, as: ascii(4), must: TONG }, { field: tongue, as: ascii(2) }, { field: count, as: u8, is: count(entries) }]
  row: [{ field: name, as: ascii(3), is: stem(entry.name) }, { field: at, as: u8, is: entry.at }, { field: size, as: u8, is: entry.size }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 7, holds: 'row[head.count]' }, { region: data, holds: entries }]
presents: archive
entries: { each: row in rows, path: 'row.name + "." + head.tongue', at: row.at, stored: row.size, size: row.size, words: { locale: head.tongue } }
`);
const file = 'TONGen\x02fox\x11\x02owl\x13\x03FFOOO';

async function withTongue(archive: Archive, value: string): Promise<Buffer> {
  const place = fieldPlace(archive, archive.recipe.entries.words!.locale!)!;
  const none = { replace: new Map(), add: [], remove: new Set<number>() };
  const plan = await planRebuild(archive, { ...none, values: [{ place, value }] }, { scratch: memoryScratch() });
  return Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
}

test('a field that stands in every path renames all entries and leaves their bytes', async () => {
  const made = await withTongue(await openFiles(recipe, file), 'de');
  expect(made.toString('latin1')).toBe(file.replace('en', 'de'));
  expect(await contentsOf(recipe, made)).toEqual({ 'fox.de': 'FF', 'owl.de': 'OOO' });
});

test('a value that does not fit its field is refused', async () => {
  const archive = await openFiles(recipe, file);
  const fault = await withTongue(archive, 'deu').catch((error: unknown) => (error as FaultError).fault);
  expect(fault).toMatchObject({ field: 'tongue' });
});

test('a name of a 64-bit number beyond 2^53 is written as the number it was read from', async () => {
  const wide = recipeOf(`
match: { at: 0, bytes: WIDE }
shapes:
  head: [{ field: magic, as: ascii(4), must: WIDE }, { field: mode, as: u64, values: { 0xFEDCBA9876543211: sealed, 0xFEDCBA9876543212: open } }]
  row: [{ field: name, as: ascii(1), is: entry.path }, { field: size, as: u8, is: entry.size }, { field: body, as: data(size) }]
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 12, holds: 'row[to end]' }]
presents: archive
entries: { each: row in rows, path: row.name, check: { that: head.mode == "sealed", say: open } }
`);
  const before = Buffer.concat([Buffer.from('WIDE'), Buffer.from('1132547698badcfe', 'hex'), Buffer.from('a\x02hi')]);
  expect(await contentsOf(wide, before)).toEqual({ a: 'hi' });
  const made = await editArchive(await openFiles(wide, before), { change: { a: 'longer' } });
  expect(made['sample.bin']).toEqual(Buffer.concat([before.subarray(0, 13), Buffer.from('\x06longer')]));
});
