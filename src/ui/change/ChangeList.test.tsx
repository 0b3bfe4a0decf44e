import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ComponentProps } from 'react';
import { withLayout } from '../testing/layout';
import { show } from '../testing/show';
import { change, incoming } from '../testing/samples';
import { ChangeList } from './ChangeList';

withLayout(600);

function list(more: Partial<ComponentProps<typeof ChangeList>> = {}) {
  const heard = { onChoose: jest.fn(), onBack: jest.fn(), onSkipAll: jest.fn() };
  show(
    <ChangeList
      changes={[]}
      incomingFiles={{ total: 0, rows: [] }}
      chosen={undefined}
      follow={false}
      more={0}
      {...heard}
      {...more}
    />,
  );
  return heard;
}

const rows = () => screen.getAllByRole('listitem').map((item) => item.textContent);

test('files that wait for somebody come first, each with what it waits for', async () => {
  const { onSkipAll } = list({
    changes: [change()],
    incomingFiles: { total: 30, rows: [incoming(), incoming({ id: 10, name: 'intro.mp4', state: 'needsOptions' })] },
  });
  expect(rows()).toEqual([
    expect.stringContaining('several entries match'),
    expect.stringContaining('a film: choose how it is converted'),
    expect.stringContaining('from mine.png'),
  ]);
  expect(screen.getByText(/30 files need a decision; the first 2 are listed/)).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Skip all' }));
  expect(onSkipAll).toHaveBeenCalledTimes(1);
});

test.each([
  [change({ action: 'add' }), 'new, from mine.png'],
  [change({ action: 'remove' }), 'will be removed'],
  [change({ status: 'changed' }), 'game changed it'],
  [change({ status: 'gone' }), 'gone from the game'],
  [change({ label: 'The view from the top' }), 'The view from the top'],
])('a change says what it does and whether it still fits', (one, said) => {
  list({ changes: [one] });
  expect(rows()[0]).toContain(said);
});

test('an undone change is brought back with one click', async () => {
  const one = change({ undone: true });
  const { onBack } = list({ changes: [one] });
  await userEvent.click(screen.getByRole('button', { name: 'Bring it back' }));
  expect(onBack).toHaveBeenCalledWith(one);
});

test('arrows walk over what waits and what is changed alike, and end at both ends', async () => {
  const setting = { changes: [change()], incomingFiles: { total: 1, rows: [incoming()] } };
  const first = list({ ...setting, chosen: { incomingFile: 9 } });
  screen.getAllByRole('listitem')[0]!.querySelector('button')?.focus();
  await userEvent.keyboard('{ArrowUp}{ArrowDown}');
  expect(first.onChoose.mock.calls).toEqual([[{ change: 5 }]]);
});

test('what is too much to be listed is counted', () => {
  list({ changes: [change()], more: 1_200 });
  expect(screen.getByText('and 1,200 older changes; texts are all under Words')).toBeTruthy();
});
