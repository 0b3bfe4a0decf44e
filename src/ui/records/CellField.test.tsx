import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { RecordLine } from '../../server/shapes';
import { Refusal, serve, show } from '../testing/show';
import { CellField } from './CellField';

const row = {
  path: 'a.json',
  pointer: ['rows', 1],
  values: { grams: 250, none: null, list: [1, 2] },
} as unknown as RecordLine;
const field = (column: string, onFollow?: (value: string) => void) =>
  show(<CellField gameId={1} table={0} row={row} column={column} isNumber onFollow={onFollow} back={[]} />);

test('Enter opens a value, Escape leaves it as it was, and the same value asks nothing of the server', async () => {
  const asked = serve({});
  field('grams');
  const user = userEvent.setup();
  screen.getByRole('button', { name: 'grams: 250' }).focus();
  await user.keyboard('{Enter}');
  await user.keyboard('9{Escape}');
  expect(screen.getByRole('button', { name: 'grams: 250' })).toBeTruthy();
  screen.getByRole('button', { name: 'grams: 250' }).focus();
  await user.keyboard('{Enter}{Enter}');
  expect(screen.getByRole('button', { name: 'grams: 250' })).toBeTruthy();
  expect(asked).toEqual([]);
});

test('a reference that would lead nowhere is saved only after a confirmation; another refusal stays on the screen', async () => {
  let refusal = new Refusal(409, 'conflict', 'No row has the number 9.');
  const asked = serve({ 'PATCH games/1/records': () => refusal });
  field('grams');
  const user = userEvent.setup();
  await user.dblClick(screen.getByRole('button', { name: 'grams: 250' }));
  await user.keyboard('{Control>}a{/Control}9{Enter}');
  expect((await screen.findByRole('alert')).textContent).toContain('No row has the number 9.');
  refusal = new Refusal(422, 'wrong-kind', 'It has to be a number.');
  await user.click(screen.getByRole('button', { name: 'Save it anyway' }));
  expect((await screen.findByText('It has to be a number.')).textContent).toBeTruthy();
  expect(asked.map(({ body }) => (body as { anyway: boolean }).anyway)).toEqual([false, true]);
});

test('lists and empty values are shown, and what a value names is followed', async () => {
  field('list');
  expect(screen.getByRole('button', { name: 'list: [1, 2]' })).toBeTruthy();
  field('none');
  const onFollow = jest.fn();
  field('grams', onFollow);
  await userEvent.setup().click(screen.getByRole('button', { name: 'To the row that 250 names' }));
  expect(onFollow).toHaveBeenCalledWith('250');
});
