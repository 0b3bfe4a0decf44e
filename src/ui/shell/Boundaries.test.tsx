import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { show } from '../testing/show';
import { BrokenPage, MissingPage, PageOnItsWay } from './Boundaries';

const push = jest.fn();
jest.mock('next/navigation', () => ({ useRouter: () => ({ push }) }));

test('a page that broke says what was wrong, is tried again, or left', async () => {
  const retry = jest.fn();
  show(<BrokenPage error={new Error('rows is undefined')} retry={retry} />);
  expect(screen.getByRole('alert').textContent).toBe('rows is undefined');
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }));
  expect(retry).toHaveBeenCalledTimes(1);
  await userEvent.click(screen.getByRole('button', { name: 'All games' }));
  expect(push).toHaveBeenCalledWith('/');
});

test('a page that is not there leads to the games; one on its way says so to who cannot see it', async () => {
  show(<MissingPage />);
  await userEvent.click(screen.getByRole('button', { name: 'All games' }));
  expect(push).toHaveBeenLastCalledWith('/');
  show(<PageOnItsWay />);
  expect(screen.getByRole('status', { name: 'Loading' })).toBeTruthy();
});
