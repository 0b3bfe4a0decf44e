import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { FolderRow } from '../../server/shapes';
import { withLayout } from '../testing/layout';
import { serve, show } from '../testing/show';
import { FolderTree } from './FolderTree';

const folder = (path: string, folders: boolean, count: number): FolderRow => ({
  ...{ path, name: path.split('/').at(-1)!, count },
  folders,
});

withLayout(400);

function tree(selected: string) {
  const asked = serve({
    'GET games/1/folders?under=': () => [folder('cabins', true, 12), folder('words', false, 1_234)],
    'GET games/1/folders?under=cabins': () => [folder('cabins/frames', false, 9)],
  });
  const onSelect = jest.fn();
  show(<FolderTree gameId={1} archive={undefined} selected={selected} onSelect={onSelect} />);
  return { asked, onSelect };
}

const rows = () => screen.getAllByRole('treeitem').map((item) => item.textContent);

test('folders are shown with their counts, and what is in one is fetched once it is opened', async () => {
  const { asked } = tree('cabins');
  await waitFor(() => expect(rows()).toEqual(['▸cabins12', 'words1,234']));
  expect(asked).toHaveLength(1);
  screen.getByRole('tree').focus();
  await userEvent.keyboard('{ArrowRight}');
  await waitFor(() => expect(rows()).toEqual(['▾cabins12', 'frames9', 'words1,234']));
  expect(screen.getAllByRole('treeitem').map((item) => item.getAttribute('aria-level'))).toEqual(['1', '2', '1']);
  await userEvent.keyboard('{ArrowLeft}');
  await waitFor(() => expect(rows()).toEqual(['▸cabins12', 'words1,234']));
});

test('the folders around the one that is selected are open', async () => {
  tree('cabins/frames');
  await waitFor(() => expect(rows()).toEqual(['▾cabins12', 'frames9', 'words1,234']));
  expect(screen.getByRole('treeitem', { selected: true }).textContent).toBe('frames9');
});

test('arrows walk, left goes to the folder around, and a click on the selected one selects none', async () => {
  const { onSelect } = tree('cabins/frames');
  await waitFor(() => expect(rows()).toHaveLength(3));
  screen.getByRole('tree').focus();
  await userEvent.keyboard('{ArrowDown}{ArrowUp}{ArrowLeft}');
  await userEvent.click(screen.getByText('frames'));
  expect(onSelect.mock.calls).toEqual([['words'], ['cabins'], ['cabins'], ['']]);
});
