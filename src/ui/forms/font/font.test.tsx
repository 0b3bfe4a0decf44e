import { act, fireEvent, screen } from '@testing-library/react';
import type { FormFacts } from '../../../server/shapes';
import { show } from '../../testing/show';
import { formView } from '../registry';

const FACTS = {
  ...{ form: 'font', packing: 'WOFF2', family: 'Plex', style: 'Bold', glyphs: 120, characters: 110 },
  ...{ fixedSize: null, lineHeight: 1.2, pages: [] },
  coverage: [
    { block: 'Basic Latin', has: 94, of: 94 },
    { block: 'Cyrillic', has: 3, of: 256 },
  ],
} as const satisfies FormFacts;
const { View, Compare = () => null } = formView('font')!;
const FILE = { name: 'a.woff2', mime: 'font/woff2', size: 9 };
const line = (name: string) => new URL(screen.getByRole('img', { name }).getAttribute('src')!, 'http://x');

beforeEach(() => localStorage.clear());

test('a font is shown with its facts and its letters by script, and draws what is typed once typing pauses', () => {
  jest.useFakeTimers();
  try {
    show(<View {...FILE} facts={FACTS} subject="/api/games/1/subjects/entry-2-3" large={false} />);
    expect(screen.getByText('Plex, Bold')).toBeTruthy();
    expect(screen.getByText(/WOFF2, 110 characters by 120 glyphs, lines 120 % of the size apart/)).toBeTruthy();
    expect(screen.getByRole('row', { name: /Basic Latin all 94/ })).toBeTruthy();
    expect(screen.getByRole('row', { name: /Cyrillic 3 of 256/ })).toBeTruthy();
    expect(line('A sample of the font').search).toBe('?size=32');
    fireEvent.click(screen.getByRole('button', { name: '64 px' }));
    fireEvent.change(screen.getByLabelText('Text in this font'), { target: { value: 'Łódź & 1' } });
    expect(line('A sample of the font').searchParams.get('size')).toBe('64');
    act(() => void jest.advanceTimersByTime(400));
    expect(line('Łódź & 1').searchParams.get('text')).toBe('Łódź & 1');
  } finally {
    jest.useRealTimers();
  }
});

test('a font of pictures has one size; a line that cannot be drawn says so', () => {
  const facts = { ...FACTS, fixedSize: 21, pages: ['fonts/board.png'] };
  show(<View {...FILE} facts={facts} subject="/s" large />);
  expect(screen.queryByRole('button', { name: '64 px' })).toBeNull();
  expect(screen.getByText('fonts/board.png')).toBeTruthy();
  expect(line('A sample of the font').searchParams.get('size')).toBe('21');
  fireEvent.error(screen.getByRole('img', { name: 'A sample of the font' }));
  expect(screen.getByText(/This line cannot be drawn/)).toBeTruthy();
});

test('two fonts are compared by the same line', () => {
  show(
    <Compare
      before={{ subject: '/a', label: 'Before', size: 1, facts: null }}
      after={{ subject: '/b', label: 'After', size: 1, facts: null }}
      name="a.ttf"
    />,
  );
  expect(screen.getAllByRole('img').map((one) => one.getAttribute('src'))).toEqual([
    '/a/line?size=48',
    '/b/line?size=48',
  ]);
  expect(screen.getByText('Before')).toBeTruthy();
});
