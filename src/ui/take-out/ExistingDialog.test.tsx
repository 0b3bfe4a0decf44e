import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ClashesAnswer } from '../../server/shapes';
import { show } from '../testing/show';
import { ExistingDialog } from './ExistingDialog';

beforeAll(() => {
  globalThis.ResizeObserver = class {
    observe() {}
    unobserve() {}
    disconnect() {}
  };
});

const clash = (path: string) => ({ path, size: 1_200, modified: '2026-11-30T06:00:00.000Z' });
const clashes: ClashesAnswer = { count: 3, first: [clash('a/one.png'), clash('a/two\u202e.png')] };

function shown(onChoose = jest.fn()) {
  show(<ExistingDialog clashes={clashes} onClose={() => {}} onChoose={onChoose} />);
  return { onChoose, user: userEvent.setup() };
}

test('what is there stays when nothing is chosen', async () => {
  const { onChoose, user } = shown();
  expect(screen.getByText(/3 files in this folder were not taken out from here/)).toBeTruthy();
  expect(screen.getByText('a/two\\u{202E}.png')).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Take out' }));
  expect(onChoose).toHaveBeenCalledWith({ existing: 'keep', decisions: {} });
});

test('one way for all is handed on', async () => {
  const { onChoose, user } = shown();
  await user.click(screen.getByRole('radio', { name: /move mine aside/ }));
  await user.click(screen.getByRole('button', { name: 'Take out' }));
  expect(onChoose).toHaveBeenCalledWith({ existing: 'aside', decisions: {} });
});

test('each file can be decided on, and those that are not listed stay', async () => {
  const { onChoose, user } = shown();
  await user.click(screen.getByRole('radio', { name: 'Decide for each file' }));
  const list = screen.getByRole('list', { name: 'Files that are there' });
  expect(within(list).getAllByRole('listitem')).toHaveLength(2);
  expect(screen.getByText('1 further file stays as it is.')).toBeTruthy();
  await user.click(within(list).getByLabelText('What happens to a/one.png'));
  await user.click(screen.getByRole('option', { name: 'Replace' }));
  await user.click(screen.getByRole('button', { name: 'Take out' }));
  expect(onChoose).toHaveBeenCalledWith({ existing: 'keep', decisions: { 'a/one.png': 'replace' } });
});
