import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Refusal, serve, show } from '../testing/show';
import { RulesDialog } from './RulesDialog';

const answer = (rules: readonly object[]) => ({
  looseFolder: '',
  rules: rules.map((rule) => ({ rule, title: 'Packings: bc1' })),
});

test('rules are listed, added as they are typed, and removed', async () => {
  const rule = { rule: 'packing', paths: '*', one: ['bc1'] };
  const asked = serve({
    'GET games/1/test-rules': () => answer([rule]),
    'PUT games/1/test-rules': () => new Refusal(400, 'invalid-request', 'There is no packing bc99.'),
  });
  show(<RulesDialog gameId={1} onClose={() => {}} />);
  const user = userEvent.setup();
  const dialog = within(screen.getByRole('dialog'));
  await dialog.findByText('Packings: bc1');
  await user.type(dialog.getByLabelText('Value'), 'bc99, bc3');
  await user.keyboard('{Enter}');
  expect(await dialog.findByText('There is no packing bc99.')).toBeTruthy();
  const put = () => asked.filter(({ method }) => method === 'PUT').at(-1)!.body;
  expect(put()).toEqual({ rules: [rule, { rule: 'packing', paths: '*', one: ['bc99', 'bc3'] }] });
  await user.click(dialog.getByRole('button', { name: 'Remove: Packings: bc1' }));
  expect(put()).toEqual({ rules: [] });
});

test('a game without rules says what is checked all the same', async () => {
  serve({ 'GET games/1/test-rules': () => answer([]) });
  show(<RulesDialog gameId={1} onClose={() => {}} />);
  expect(await screen.findByText(/There are none yet: only the load order is checked/)).toBeTruthy();
});
