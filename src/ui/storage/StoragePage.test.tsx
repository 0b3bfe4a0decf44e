import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { HomeAnswer, RunAnswer } from '../../server/shapes';
import { RoleProvider } from '../access/session';
import { Refusal, serve, show } from '../testing/show';
import { StoragePage } from './StoragePage';

const home: HomeAnswer = {
  ...{ home: '/srv/zero-latch', free: 5_000_000_000 },
  parts: [{ id: 'thumbnails', name: 'Thumbnails', bytes: 2_000_000, files: 12, frees: 2_000_000 }],
  builds: [build(2, { isIn: true }), build(1, { isIn: false })],
};

function build(number: number, more: { isIn: boolean }): HomeAnswer['builds'][number] {
  const game = { id: 7, name: 'Gondola Post' };
  return { id: number, number, game, createdAt: '2026-11-30T06:00:00.000Z', bytes: 10, frees: 10, ...more };
}

const run = (kind: 'measure' | 'tidy', state: RunAnswer['state']): RunAnswer<'measure' | 'tidy'> => ({
  ...{ id: 3, gameId: null, kind, title: kind, state, done: 12, total: 0, unit: 'files', lines: 0, lastLine: null },
  ...{ result: null, fault: null, createdAt: '', startedAt: null, endedAt: '2026-11-30T06:00:00.000Z' },
});

const answers = {
  'GET home': () => ({ home, at: '2026-11-30T06:00:00.000Z' }),
  'POST home/measure': () => run('measure', 'waiting'),
  'GET runs/3': () => run('measure', 'done'),
};

test('it is added up when somebody looks, and a build that is in the game cannot be deleted', async () => {
  const asked = serve(answers);
  show(<StoragePage />);
  await waitFor(() => expect(screen.getByText('Thumbnails')).toBeTruthy());
  expect(asked.filter(({ path }) => path === 'home/measure')).toHaveLength(1);
  expect(within(screen.getByTestId('build 2 of Gondola Post')).queryByRole('button')).toBeNull();
  expect(screen.getByRole('button', { name: /Free 2/ })).toBeTruthy();
});

test('a build goes after a second click, its row at once; a refusal is said and the row stays', async () => {
  let refuses = true;
  const asked = serve({
    ...answers,
    'DELETE games/7/builds/1': () => (refuses ? new Refusal(409, 'conflict', 'It is on its way into the game.') : null),
  });
  const user = userEvent.setup();
  show(<StoragePage />);
  const row = () => screen.queryByTestId('build 1 of Gondola Post');
  await waitFor(() => expect(row()).not.toBeNull());
  for (const isRefused of [true, false]) {
    refuses = isRefused;
    await user.click(within(row()!).getByRole('button', { name: 'Delete…' }));
    expect(asked.some(({ method }) => method === 'DELETE')).toBe(!isRefused);
    await user.click(within(row()!).getByRole('button', { name: 'Delete' }));
    if (isRefused) await waitFor(() => expect(screen.getByText('It is on its way into the game.')).toBeTruthy());
  }
  await waitFor(() => expect(row()).toBeNull());
});

test('who only looks starts nothing', async () => {
  const asked = serve(answers);
  show(
    <RoleProvider value="look">
      <StoragePage />
    </RoleProvider>,
  );
  await waitFor(() => expect(screen.getByText('Thumbnails')).toBeTruthy());
  expect(asked.every(({ method }) => method === 'GET')).toBe(true);
});
