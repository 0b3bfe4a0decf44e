import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { serve, show } from '../testing/show';
import { Ways } from './Ways';

const way = (chosen: Parameters<typeof Ways>[0]['chosen'], onChoose = jest.fn()) => {
  serve({});
  show(<Ways gameId={1} changed={false} putBack={{ ways: null, mark: '' }} chosen={chosen} onChoose={onChoose} />);
  return onChoose;
};
const checked = () => screen.getAllByRole('radio').filter((radio) => (radio as HTMLInputElement).checked);

test('what the game reads is asked where nothing says it, and no way is chosen for anybody', async () => {
  const onChoose = way(undefined);
  expect(screen.getByText(/Choose one; it is remembered/)).toBeTruthy();
  expect(checked()).toEqual([]);
  await userEvent.setup().click(screen.getByRole('radio', { name: /Rebuild the archives/ }));
  expect(onChoose).toHaveBeenCalledWith({ how: 'keep', archives: {} });
});

test('nothing is asked where a way is known', () => {
  way({ how: 'append', archives: {} });
  expect(screen.queryByText(/Choose one; it is remembered/)).toBeNull();
  expect(checked()).toEqual([screen.getByRole('radio', { name: /Rebuild the archives/ })]);
});
