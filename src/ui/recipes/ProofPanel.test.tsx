import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ComponentProps } from 'react';
import type { HintsAnswer, PlacedFault, TryAnswer } from '../../server/shapes';
import { show } from '../testing/show';
import { ProofPanel } from './ProofPanel';

const fault = (more: Partial<PlacedFault> = {}): PlacedFault => ({
  ...{ code: 'must-differs', sentence: 'The field count is 9 and must be 3.', line: 12, at: 8 },
  ...more,
});

const PROVEN: NonNullable<TryAnswer['proof']> = {
  bytes: { explained: 4_096, total: 4_096, first: null },
  formulas: { agree: 3, total: 3, first: null },
  identical: { same: true, first: null },
  changed: { equal: 12, tested: 12, total: 12, first: null },
  edits: { done: 8, total: 8, holds: true, refused: [] },
};

function panel(more: Partial<ComponentProps<typeof ProofPanel>> = {}) {
  const heard = { onPlace: jest.fn(), onByte: jest.fn(), onInsert: jest.fn() };
  show(
    <ProofPanel
      fileName="core.hold"
      check={{ fault: null }}
      answer={undefined}
      isTrying={false}
      error={null}
      hints={undefined}
      actions={null}
      {...heard}
      {...more}
    />,
  );
  return heard;
}

const answer = (more: Partial<TryAnswer> = {}): TryAnswer => ({ fault: null, entries: 12, proof: PROVEN, ...more });
const signs = () => screen.getAllByRole('listitem').map((item) => item.textContent);

test.each([
  [false, 'nothing tried yet'],
  [true, 'reading core.hold …'],
])('before there is an answer it says what is going on', (isTrying, said) => {
  panel({ isTrying });
  expect(signs()).toEqual([`·${said}`]);
});

test('what holds is ticked, each part of the proof by itself', () => {
  panel({ answer: answer() });
  expect(signs()).toEqual([
    '✓Reads core.hold: 12 entries',
    '✓Every byte explained',
    '✓All 3 computed fields agree',
    '✓Rebuilt without changes: identical',
    '✓Rebuilt with 12 entries changed: all read back',
    '✓8 edits done and read back'.replace('8 edits', '8 of 8 edits'),
  ]);
});

test('where there was nothing to judge, nothing is ticked', () => {
  const proof = {
    ...PROVEN,
    formulas: { agree: 0, total: 0, first: null },
    changed: { equal: 0, tested: 0, total: 0, first: null },
    edits: { done: 0, total: 0, holds: true, refused: [] },
  };
  panel({ answer: answer({ entries: 0, proof }) });
  expect(signs()).toEqual([
    '·Reads core.hold: 0 entries',
    '✓Every byte explained',
    '·No computed fields yet',
    '✓Rebuilt without changes: identical',
    '·No entries to change yet',
    '·No entries to edit yet',
  ]);
});

test('what does not hold comes with its first place, which leads there', async () => {
  const first = fault();
  const proof = { ...PROVEN, formulas: { agree: 2, total: 3, first }, identical: { same: false, first: null } };
  const { onPlace } = panel({ answer: answer({ proof }) });
  expect(signs()).toEqual(expect.arrayContaining(['!2 of 3 computed fields agree', '!Rebuilt without changes: differs']));
  await userEvent.click(screen.getByRole('button', { name: first.sentence }));
  expect(onPlace).toHaveBeenCalledWith(first);
});

test('an edit that the format forbids is no failure; another one is', () => {
  const refusal = (what: string, forbidden: boolean) => ({
    ...{ what, layout: 'keep', forbidden },
    fault: fault({ sentence: `${what} is not possible.`, line: null, at: null }),
  });
  const edits = { done: 6, total: 8, holds: false, refused: [refusal('add', true), refusal('remove', false)] };
  panel({ answer: answer({ proof: { ...PROVEN, edits } }) });
  expect(signs().slice(-3)).toEqual([
    '!6 of 8 edits done and read back',
    '·Cannot add (keep), because: add is not possible.',
    '!Cannot remove (keep), because: remove is not possible.',
  ]);
});

test('a text that is not right is said before anything else; a fault without a place leads nowhere', () => {
  panel({ check: { fault: fault({ line: null, at: null }) }, answer: answer() });
  expect(signs()).toEqual(['!The field count is 9 and must be 3.']);
  expect(screen.queryByTitle('Show where')).toBeNull();
});

test('a file that is too large to be rebuilt names the command', () => {
  panel({ answer: answer({ proof: null }) });
  expect(screen.getByText(/bin\/zero-latch prove FILE --recipe FILE/)).toBeTruthy();
});

test('hints lead to their bytes and write their lines', async () => {
  const lines = [{ part: 'header' as const, text: '- { field: count, as: u32 }' }];
  const hints: HintsAnswer = {
    ...{ size: 4_096, randomness: [] },
    hints: [
      { what: 'u32 at 0x10 is the size of the file', at: 16, length: 4, lines },
      { what: 'PNG picture begins at 0x40', at: 64, length: 8, lines: [] },
    ],
  };
  const { onByte, onInsert } = panel({ hints });
  await userEvent.click(screen.getByRole('button', { name: /PNG picture/ }));
  await userEvent.click(screen.getByRole('button', { name: 'Write 1 line' }));
  expect(onByte).toHaveBeenCalledWith(64);
  expect(onInsert).toHaveBeenCalledWith(lines);
  expect(screen.getAllByRole('button', { name: /^Write/ })).toHaveLength(1);
});

test('where nothing is found, it says so', () => {
  panel({ hints: { size: 1, randomness: [], hints: [] } });
  expect(screen.getByText('none: it may be locked as a whole')).toBeTruthy();
});
