import { pairCompanions } from './pair-companions';

const main = { path: 'models/cabin/cabin.mesh', from: 'models/crane/crane.mesh' };

test('what belongs to one goes for what belongs to the other, by name', () => {
  expect(
    pairCompanions(
      main,
      ['models/cabin/cabin_colour.tex', 'models/cabin/cabin_normal.tex', 'models/cabin/cabin_paint.tex', main.path],
      ['models/crane/crane_normal.tex', 'models/crane/crane_colour.tex', 'models/crane/crane_swing.clip'],
    ),
  ).toEqual({
    pairs: [
      { path: 'models/cabin/cabin_colour.tex', from: 'models/crane/crane_colour.tex' },
      { path: 'models/cabin/cabin_normal.tex', from: 'models/crane/crane_normal.tex' },
    ],
    stays: ['models/cabin/cabin_paint.tex'],
  });
});

test('the only one of its ending on both sides goes for the other; what both use stays', () => {
  expect(pairCompanions(main, ['a/door.wav', 'shared/white.tex'], ['b/winch.wav', 'shared/white.tex'])).toEqual({
    pairs: [{ path: 'a/door.wav', from: 'b/winch.wav' }],
    stays: [],
  });
  expect(pairCompanions(main, ['a/1.wav', 'a/2.wav'], ['b/3.wav'])).toEqual({
    pairs: [],
    stays: ['a/1.wav', 'a/2.wav'],
  });
});
