import type { OutPlan } from '../../src/server/forms';
import { takeOutOrder, type KindName, type OutgoingEntry } from '../../src/server/shapes';
import { nameFor, planFor, wholeEntries, withSuffix, type Conversion } from '../../src/server/take-out/conversion';

const entry = (path: string, kind: KindName = 'picture', label: string | null = null): OutgoingEntry => ({
  ...{ archive: 1, n: 2, path, size: 3, kind, label, mark: 'm' },
});
const plan = (more: Partial<OutPlan> = {}): OutPlan => ({
  as: 'png',
  converts: ({ path }) => !path.endsWith('.png'),
  suffixes: [''],
  async *files() {},
  ...more,
});
const conversion = (
  plans: readonly (readonly [KindName, OutPlan])[],
  layout: Conversion['order']['layout'] = 'folders',
) => ({
  order: takeOutOrder.parse({ to: null, layout }),
  plans: new Map(plans),
});

test('an entry is converted by the plan of its kind, unless it is in that format already', () => {
  const one = plan();
  const made = conversion([['picture', one]]);
  expect(planFor(entry('a/b.tex'), made)).toBe(one);
  expect(planFor(entry('a/b.png'), made)).toBeUndefined();
  expect(planFor(entry('a/b.tex', 'bytes'), made)).toBeUndefined();
});

test('what goes out in the file of another has no file of its own, but when bytes go out as they are stored', () => {
  const entries = [entry('a.tex'), entry('a.far', 'bytes')];
  const made = conversion([['picture', plan({ isWithin: ({ path }) => path === 'a.far' })]]);
  expect(wholeEntries('open', entries, made).map(({ path }) => path)).toEqual(['a.tex']);
  expect(wholeEntries('stored', entries, made)).toEqual(entries);
});

test.each([
  ['folders', 'a/b.c/d.tex', 'png', null, 'a/b.c/d.png'],
  ['folders', 'a/b.c/d', 'png', null, 'a/b.c/d.png'],
  ['folders', 'a/d.tex', undefined, null, 'a/d.tex'],
  ['flat', 'a/d.tex', 'png', null, 'd.png'],
  ['labels', 'a/d.tex', 'png', 'red cabin', 'a/red cabin.png'],
  ['labels', 'a/d.tex', undefined, null, 'a/d.tex'],
] as const)('laid out by %s, %s as %s with the label %s goes to %s', (layout, path, as, label, to) => {
  expect(nameFor(entry(path, 'picture', label), conversion([], layout), as)).toBe(to);
});

test('a film of packets is called as the film, and not as a packet of it', () => {
  const made = conversion([['film', plan({ as: 'mp4', pathOf: () => 'films/intro.reel' })]]);
  expect(nameFor(entry('films/intro/0001.png', 'film'), made, 'mp4')).toBe('films/intro.mp4');
});

test('what an entry is split into is told by suffixes before the ending', () => {
  expect(withSuffix('a/b.png', { suffix: '_normal' })).toBe('a/b_normal.png');
  expect(withSuffix('a/b.mp4', { suffix: '.de', ending: '.srt' })).toBe('a/b.de.srt');
});
