import { act, screen, waitFor } from '@testing-library/react';
import { serve, show } from '../testing/show';
import { FontGaps } from './FontGaps';

const font = (path: string, missing: readonly string[], trouble: string | null = null) => ({
  ...{ archive: 3, n: 0, path, characters: 90, count: missing.length, trouble },
  missing: missing.map((letter) => ({ letter, texts: 1, first: 'menu.start' })),
});
const gaps = (fonts: readonly object[], unchecked = 0) => {
  serve({ 'GET games/1/words/fonts?from=5&to=6': () => ({ fonts, unchecked }) });
  return show(<FontGaps gameId={1} pair={{ from: 5, to: 6 }} />);
};

test('names the fonts that lack letters, which ones, and where the first is', async () => {
  gaps([font('fonts/a.ttf', ['ą', 'ł']), font('fonts/b.ttf', [])]);
  expect(await screen.findByText(/lacks 2 letters of these texts: ą ł \(first in menu.start\)/)).toBeTruthy();
  expect(screen.getByRole('link', { name: 'a.ttf' }).getAttribute('href')).toContain('3.0');
  expect(screen.queryByText(/b\.ttf/)).toBeNull();
});

test('of many letters it names the first dozen, and a font that cannot be read says why', async () => {
  gaps([font('many.ttf', [...'абвгдежзийклмноп']), font('broken.ttf', [], 'It is cut short.')]);
  expect(await screen.findByText(/lacks 16 letters of these texts: а б в г д е ж з и й к л …/)).toBeTruthy();
  expect(screen.getByText(/It is cut short\./)).toBeTruthy();
});

test('says how many fonts were not checked', async () => {
  gaps([font('a.ttf', [])], 3);
  expect(await screen.findByText('3 more fonts of the game were not checked.')).toBeTruthy();
});

test('says nothing where no font lacks any', async () => {
  const { container } = gaps([font('a.ttf', [])]);
  await waitFor(() => expect(globalThis.fetch).toHaveBeenCalled());
  await act(async () => {});
  expect(container.textContent).toBe('');
});
