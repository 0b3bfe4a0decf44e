/** Entries whose bytes lie in their rows, next to others whose bytes lie elsewhere. */
import { contentsOf, edited, recipeOf } from './edit-file';

/** Small entries lie in their rows, up to `most` bytes; what is larger lies behind all rows. */
const mixed = (more = '') =>
  recipeOf(`
match: { at: 0, bytes: MIXD }
shapes:
  head:
    - { field: magic, as: ascii(4), must: MIXD }
    - { field: count, as: u8, is: count(entries) }
    - { field: rows, as: row[count] }
  row:
    - { field: name, as: text(u8, ascii), is: entry.path }
    - { field: fixed, as: u8, new: 0 }
    - { field: far, as: u8, is: 'if(entry.at == start(body), 0, entry.at)' }
    - { field: size, as: u8, is: entry.size }
    - { field: body, as: 'data(if(far > 0, 0, if(fixed > 0, fixed - 1, size)))' }
    - { field: dot, as: ascii(1), must: . }
regions:
  - { region: head, at: 0, holds: head }
  ${more}
presents: archive
entries: { each: row in head.rows, path: row.name, at: 'if(row.far > 0, row.far, start(row.body))', stored: row.size, size: row.size }
`);
const WITH_DATA = mixed('- { region: data, holds: entries }');

describe('a row that holds so many bytes and no more', () => {
  // fixed is one more than what the row holds: owl holds nothing, and never will.
  const file = 'MIXD\x02\x03fox\x00\x00\x02FF.\x03owl\x01\x00\x00.';

  test.each(['keep', 'append', 'afresh'] as const)('gives the bytes of its entry away (%s)', async (layout) => {
    const made = await edited(WITH_DATA, file, { change: { owl: 'OOOO' } }, layout);
    expect(made.toString('latin1')).toBe('MIXD\x02\x03fox\x00\x00\x02FF.\x03owl\x01\x17\x04.OOOO');
  });

  test('is told where bytes can lie nowhere else', async () => {
    await expect(edited(mixed(), file, { change: { owl: 'OOOO' } })).rejects.toMatchObject({
      fault: { code: 'layout-impossible', field: 'body', expected: '0 bytes', found: '4 bytes' },
    });
  });

  test('grows where it follows its entry', async () => {
    const made = await edited(WITH_DATA, file, { change: { fox: 'FFFFF' } });
    expect(await contentsOf(WITH_DATA, made)).toEqual({ fox: 'FFFFF', owl: '' });
    expect(made.toString('latin1')).toBe('MIXD\x02\x03fox\x00\x00\x05FFFFF.\x03owl\x01\x00\x00.');
  });
});
