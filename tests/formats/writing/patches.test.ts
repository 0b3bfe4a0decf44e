/** Small archives that load over the one they were made for, judged by their bytes. */
import { compileRecipe, planNew, volumeBytes } from '../../../src/core/recipe';
import { bufferSource, collect, memoryScratch } from '../../../src/core/bytes';
import { edited, isProvenWhole, recipeOf } from './edit-file';

describe('a patch with a head of its own', () => {
  const recipe = recipeOf(`
match: { at: 0, bytes: HEAD }
shapes:
  head:
    - { field: magic, as: ascii(4), must: HEAD }
    - { field: kind, as: u8, must: [0, 1], patch: 1, new: 0 }
    - { field: order, as: u8, patch: order + 1, new: 1 }
    - { field: released, as: u8, new: 7 }
    - { field: count, as: u8, is: count(entries) }
  row:
    - { field: name, as: 'ascii(u8)', is: entry.path }
    - { field: size, as: u8, is: if(entry.deleted, 255, entry.size) }
    - { field: body, as: 'data(if(size == 255, 0, size))' }
regions: [{ region: head, at: 0, holds: head }, { region: rows, at: 8, holds: 'row[head.count]' }]
presents: archive
entries: { each: row in rows, path: row.name, deleted: row.size == 255 }
`);
  const base = 'HEAD\x00\x05\x09\x02\x03fox\x02FF\x03owl\x01O';

  test('says that it is one, and keeps of the archive what it does not say otherwise', async () => {
    const made = await edited(recipe, base, { change: { owl: 'OOO' }, add: { yak: 'Y' }, remove: ['fox'] }, 'patch');
    expect(made.toString('latin1')).toBe('HEAD\x01\x06\x09\x03\x03fox\xff\x03owl\x03OOO\x03yak\x01Y');
  });
  test('does not change the archive itself, nor a patch that is there', async () => {
    expect((await edited(recipe, base, { change: { owl: 'X' } })).toString('latin1', 4, 8)).toBe('\x00\x05\x09\x02');
    const patch = await edited(recipe, base, { change: { owl: 'OOO' } }, 'patch');
    expect((await edited(recipe, patch, { add: { yak: 'Y' } })).toString('latin1', 4, 8)).toBe('\x01\x06\x09\x02');
    expect(await isProvenWhole(recipe, base)).toBe(true);
  });
  test('is none in an archive made from nothing', async () => {
    const plan = await planNew(compileRecipe(recipe), [{ path: 'fox', bytes: bufferSource(Buffer.from('F')) }], {
      scratch: memoryScratch(),
    });
    const [volume] = plan.volumes;
    expect(Buffer.from(await collect(volumeBytes(volume!)))).toEqual(
      Buffer.from('HEAD\x00\x01\x07\x01\x03fox\x01F', 'latin1'),
    );
  });
});
