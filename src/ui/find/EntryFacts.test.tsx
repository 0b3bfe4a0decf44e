import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { EntryDetails } from '../../server/shapes';
import { show } from '../testing/show';
import { EntryFacts } from './EntryFacts';

const ENTRY = {
  ...{ archive: 3, n: 7, path: 'a/b.txt', kind: 'words', size: 6_000, stored: 2_000, at: 512, volume: 0 },
  ...{ archivePath: 'core.hold', file: 'core.hold', method: 'zlib', role: 'wins', facts: null, linkTo: null },
  ...{ covers: [], coveredBy: null, elsewhere: [], locked: { index: false, entry: false } },
} as unknown as EntryDetails;

const facts = (more: Partial<EntryDetails>, onCompare = jest.fn()) => {
  show(<EntryFacts entry={{ ...ENTRY, ...more }} onGo={() => {}} onCompare={onCompare} />);
  return onCompare;
};
const factAt = (name: string) => screen.getByText(name).nextElementSibling?.textContent;

test('an entry says how it is stored, and where', () => {
  facts({ locked: { index: true, entry: true } });
  expect(factAt('Stored')).toBe('2 kB of 6 kB, zlib');
  expect(factAt('Bytes at')).toBe('0x0200 – 0x09CF');
  expect(factAt('Locked')).toBe('the index and the entry, with a key');
});

test('a link says where it leads, and nothing of bytes that it does not have', () => {
  facts({ linkTo: 'a/deep/file.txt', stored: 0 });
  expect(factAt('Link to')).toMatch(/^a\/deep\/file\.txt/);
  expect(screen.queryByText('Stored')).toBeNull();
  expect(screen.queryByText('Bytes at')).toBeNull();
});

test('an entry over another can be compared with it', async () => {
  const onCompare = facts({ covers: [{ archive: 1, n: 2, path: 'base.hold' }] as EntryDetails['covers'] });
  expect(factAt('Comes from')).toBe('core.hold over base.hold Compare');
  await userEvent.click(screen.getByRole('button', { name: 'Compare' }));
  expect(onCompare).toHaveBeenCalledWith({ archive: 1, n: 2, path: 'base.hold' }, { archive: 3, n: 7 });
});

test.each([
  ['covered', { role: 'covered', coveredBy: 'patch.hold' }, 'patch.hold covers it.'],
  ['a removal', { role: 'removes' }, 'Marks the entry as removed.'],
] as const)('%s is said', (_, more, sentence) => {
  facts(more as Partial<EntryDetails>);
  expect(screen.getByText(sentence)).toBeTruthy();
});
