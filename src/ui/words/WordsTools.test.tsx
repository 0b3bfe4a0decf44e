import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { WordsAnswer, WordTablesAnswer } from '../../server/shapes';
import { serve, show } from '../testing/show';
import { WordsHead } from './WordsHead';
import { WordsTools, type WordsSetting } from './WordsTools';

const TABLES = [
  { archive: 5, path: 'en.lex', locale: 'en', texts: 1200, spells: false },
  { archive: 6, path: 'de.lex', locale: 'de', texts: 1100, spells: true },
] as unknown as WordTablesAnswer;
const COUNTS = { all: 1200, done: 900, changed: 100, left: 200, wrong: 3 } as WordsAnswer['counts'];
const pair = { from: 5, to: 6 };
const SETTING: WordsSetting = { typed: '', show: 'all', grouped: false, spells: true };

function tools(data: WordsAnswer | undefined, setting = SETTING) {
  const onSetting = jest.fn();
  show(
    <WordsTools
      gameId={1}
      pair={pair}
      target={TABLES[1]}
      data={data}
      setting={setting}
      onSetting={onSetting}
      onReplace={() => {}}
    />,
  );
  return onSetting;
}
const answer = (counts: WordsAnswer['counts']) => ({ counts, groups: [{}, {}] }) as unknown as WordsAnswer;

test('filters show how many texts each has, and change only what was clicked', async () => {
  serve({});
  const onSetting = tools(answer(COUNTS));
  await userEvent.click(screen.getByRole('button', { name: 'Left to do 200' }));
  await userEvent.click(screen.getByRole('button', { name: 'How much is done by group' }));
  await userEvent.click(screen.getByRole('button', { name: 'Spell out what the game cannot show' }));
  expect(onSetting.mock.calls).toEqual([[{ show: 'left' }], [{ grouped: true }], [{ spells: false }]]);
});

test('repeats are filled in for the two tables, spelled out where that is on', async () => {
  const asked = serve({ 'POST games/1/words/twins': () => ({ taken: 2 }) });
  tools(answer(COUNTS));
  await userEvent.click(screen.getByRole('button', { name: 'Fill in repeats' }));
  expect(asked.map(({ body }) => body)).toEqual([{ from: 5, to: 6, spell: true }]);
});

test('where nothing is left, there are no repeats to fill in', () => {
  serve({});
  tools(answer({ ...COUNTS, left: 0 }));
  expect(screen.queryByRole('button', { name: 'Fill in repeats' })).toBeNull();
});

test('the head says how much is done, and which languages the game offers', () => {
  serve({});
  show(
    <WordsHead
      tables={TABLES}
      languages={[
        { code: 'en', path: 'a', about: 'English', state: 'there' },
        { code: 'pl', path: 'b', about: 'Polski', state: 'new' },
      ]}
      pair={pair}
      counts={COUNTS}
      onPair={() => {}}
      onNewLanguage={() => {}}
    />,
  );
  expect(screen.getByText('1,200 texts: 1,000 done, 200 left to do')).toBeTruthy();
  expect(screen.getByRole('img', { name: '900 done, 100 changed by you, 200 left to do' })).toBeTruthy();
  expect(screen.getByText(/The game’s menu shows/).textContent).toMatch(/English, Polish\s+\(new\)/);
});
