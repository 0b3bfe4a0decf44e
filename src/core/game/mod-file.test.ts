import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { modFile } from './mod-file';

const page = readFileSync(join(__dirname, '../../../docs/mod-files.md'), 'utf8');
const example: unknown = JSON.parse(/```json\n([\s\S]*?)```/.exec(page)![1]!);

test('the example of the page is a mod file, and the page explains every word of it', () => {
  const { changes, ...rest } = modFile.parse(example);
  for (const word of Object.keys(rest)) expect(page).toContain(`\`${word}\``);
  for (const word of ['action', 'path', 'replaces', 'becomes', 'file', 'difference', 'into', 'loop', 'note'])
    expect(page).toContain(`\`changes[].${word}\``);
  expect(changes).toHaveLength(1);
});

test.each([
  ['another version', { version: 2 }],
  ['a word nobody knows', { more: 1 }],
  ['no change', { changes: [] }],
  [
    'a path that is named twice',
    { changes: [...(example as { changes: object[] }).changes, ...(example as { changes: object[] }).changes] },
  ],
  ['a change of no kind', { changes: [{ action: 'move', path: 'a' }] }],
])('%s is refused', (_, more) => {
  expect(modFile.safeParse({ ...(example as object), ...more }).success).toBe(false);
});
