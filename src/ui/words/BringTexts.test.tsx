import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Refusal, serve, show } from '../testing/show';
import { BringTexts } from './BringTexts';

const file = new File(['msgid ""'], 'texts.po', { type: 'text/plain' });
const ask = (anyway: boolean) => `POST games/1/words?from=5&to=6&name=texts.po&spell=false&anyway=${anyway}`;
const bring = async () => {
  show(<BringTexts gameId={1} pair={{ from: 5, to: 6 }} spell={false} />);
  const user = userEvent.setup();
  await user.upload(screen.getByTestId('words-file'), file);
  return user;
};

test('texts of another language are imported only after a confirmation', async () => {
  const sentence = 'The file says de, and fr is open.';
  const asked = serve({
    [ask(false)]: () => new Refusal(409, 'other-language', sentence),
    [ask(true)]: () => new Refusal(422, 'bad-text', 'Line 3 is no text.'),
  });
  const user = await bring();
  expect(await screen.findByText(sentence)).toBeTruthy();
  await user.click(screen.getByRole('button', { name: 'Import them anyway' }));
  expect(await screen.findByText('Line 3 is no text.')).toBeTruthy();
  expect(asked.map(({ path }) => path.endsWith('true'))).toEqual([false, true]);
});

test('leaving the question imports nothing', async () => {
  const asked = serve({ [ask(false)]: () => new Refusal(409, 'other-language', 'Which?') });
  const user = await bring();
  await screen.findByText('Which?');
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByText('Which?')).toBeNull());
  expect(asked).toHaveLength(1);
});
