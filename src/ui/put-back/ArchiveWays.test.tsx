import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { HOWS, type BuildWays, type WaysAnswer } from '../../server/shapes';
import { show } from '../testing/show';
import { ArchiveWays } from './ArchiveWays';
import { refusalsOf, refusedFor, suitingWays } from './suiting-ways';

const FAULT = { code: 'cannot-add', what: 'a loose file cannot remove an entry' } as const;
/** One archive with a removal, which loose files cannot say, and one without. */
const answer: WaysAnswer = {
  archives: ['core.hold', 'voices.cue'],
  ways: HOWS.map((how) => ({
    ...{ how, bytes: 1, files: [], refused: null },
    refusals: how === 'loose' ? [{ archive: 'core.hold', entry: 'a.png', fault: FAULT }] : [],
  })),
};
const loose: BuildWays = { how: 'loose', archives: {} };

test('what stands in the way is said with the ways that suit, and one click chooses', async () => {
  const onChoose = jest.fn();
  show(<ArchiveWays answer={answer} chosen={loose} onChoose={onChoose} />);
  expect(screen.getByText(/a loose file cannot remove an entry/)).toBeTruthy();
  await userEvent.setup().click(screen.getByRole('button', { name: 'A small archive for core.hold' }));
  expect(onChoose).toHaveBeenCalledWith({ 'core.hold': 'patch' });
});

test('an archive goes back to the way of all', async () => {
  const onChoose = jest.fn();
  show(
    <ArchiveWays answer={answer} chosen={{ how: 'patch', archives: { 'core.hold': 'keep' } }} onChoose={onChoose} />,
  );
  const user = userEvent.setup();
  await user.click(screen.getByLabelText('How core.hold is built'));
  expect(screen.getByRole('option', { name: 'loose files beside the game' }).getAttribute('aria-disabled')).toBe(
    'true',
  );
  await user.click(screen.getByRole('option', { name: 'as chosen above' }));
  expect(onChoose).toHaveBeenCalledWith({});
});

test('refusals follow what is chosen for each archive', () => {
  expect(refusalsOf(answer, loose)).toHaveLength(1);
  expect(refusalsOf(answer, { how: 'loose', archives: { 'core.hold': 'patch' } })).toEqual([]);
  expect(refusalsOf(answer, { how: 'patch', archives: { 'voices.cue': 'loose' } })).toEqual([]);
  expect(suitingWays(answer, 'core.hold')).toEqual(['patch', 'keep', 'append', 'afresh']);
  expect(suitingWays(answer, 'voices.cue')).toEqual([...HOWS]);
  expect(refusedFor(answer, 'a.png')).toEqual([{ how: 'loose', fault: FAULT }]);
  expect(refusedFor(answer, 'b.png')).toEqual([]);
});
