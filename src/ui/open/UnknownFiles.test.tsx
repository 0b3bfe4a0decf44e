import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { serve, show } from '../testing/show';
import { archive } from '../testing/samples';
import { UnknownFiles } from './UnknownFiles';

const unknown = (more: Parameters<typeof archive>[0]) =>
  archive({ state: 'unknown', recipe: null, title: null, entryCount: 0, ...more });

test('a file that was searched says what is in it, and leads there', () => {
  serve({});
  const found = { kinds: { picture: 24, sound: 1, bytes: 2 }, randomness: [1, 7.9] };
  show(<UnknownFiles gameId={1} files={[unknown({ path: 'data.bin', found, entryCount: 27 })]} onXor={() => {}} />);
  expect(screen.getByText(/24 pictures, 1 sound, 2 streams found inside · 4\.1 kB/)).toBeTruthy();
  expect(screen.getByRole('link', { name: 'Show what was found' }).getAttribute('href')).toBe(
    '/games/1/find?archive=7',
  );
  expect(screen.getByRole('img', { name: 'Randomness along the file' })).toBeTruthy();
  expect(screen.queryByRole('button', { name: 'Find hidden files' })).toBeNull();
});

test('one that was not can be searched, and every one gets a recipe or a key', async () => {
  const asked = serve({ 'POST games/1/archives/7/find-inside': () => null });
  const onXor = jest.fn();
  const file = unknown({ path: 'data.bin' });
  show(<UnknownFiles gameId={1} files={[file]} onXor={onXor} />);
  await userEvent.click(screen.getByRole('button', { name: 'Solve XOR…' }));
  expect(onXor).toHaveBeenCalledWith(file);
  expect(screen.getByRole('link', { name: 'Write a recipe…' }).getAttribute('href')).toBe('/games/1/recipes?archive=7');
  await userEvent.click(screen.getByRole('button', { name: 'Find hidden files' }));
  await waitFor(() => expect(asked.map(({ path }) => path)).toEqual(['games/1/archives/7/find-inside']));
});

test('of many files the first are shown, and the others one click away', async () => {
  serve({});
  const files = Array.from({ length: 11 }, (_, i) => unknown({ id: i, path: `data-${i}.bin` }));
  show(<UnknownFiles gameId={1} files={files} onXor={() => {}} />);
  const shown = () => screen.getAllByTestId(/^unknown /).length;
  expect(shown()).toBe(8);
  await userEvent.click(screen.getByRole('button', { name: '3 more' }));
  expect(shown()).toBe(11);
  await userEvent.click(screen.getByRole('button', { name: 'Fewer' }));
  expect(shown()).toBe(8);
});

test('a name that turns its line round is shown with its codes', () => {
  serve({});
  show(<UnknownFiles gameId={1} files={[unknown({ path: 'a\u202egnp.bin' })]} onXor={() => {}} />);
  expect(within(screen.getByTestId(/^unknown /)).getByText('a\\u{202E}gnp.bin')).toBeTruthy();
});
