import fc from 'fast-check';
import type { Note } from '../notes';
import type { Kind } from './kind-names';
import { matchFile, matchNumbers, type MatchCandidate } from './match-files';

const entry = (path: string, kind: Kind = 'picture'): MatchCandidate => ({ path, kind });
const file = (name: string, kind: Kind = 'picture') => ({ name, kind });
const one = (path: string, matchedBy: Note) => ({ is: 'one', choice: { path, matchedBy } });

test('a path that agrees goes before a name, and a name before one without its ending', () => {
  const all = [entry('a/cabin.png'), entry('b/cabin.png'), entry('b/cabin.tex')];
  expect(matchFile(file('mod/b/cabin.png'), all)).toEqual(one('b/cabin.png', { code: 'by-path' }));
  expect(matchFile(file('cabin.png'), [entry('a/cabin.tex'), entry('b/Cabin.PNG')])).toEqual(
    one('b/Cabin.PNG', { code: 'by-name' }),
  );
  expect(matchFile(file('out/b/cabin.tga'), [entry('b/cabin.tex'), entry('b/cabin.texfar', 'bytes')])).toEqual(
    one('b/cabin.tex', { code: 'by-path' }),
  );
});

test('what stands for several is asked about, and so is what is of another kind', () => {
  expect(matchFile(file('cabin.png'), [entry('a/cabin.png'), entry('b/cabin.png')])).toEqual({
    is: 'several',
    choices: [
      { path: 'a/cabin.png', matchedBy: { code: 'by-name' } },
      { path: 'b/cabin.png', matchedBy: { code: 'by-name' } },
    ],
  });
  expect(matchFile(file('cabin.png'), [entry('a/cabin.mesh', 'mesh')])).toMatchObject({ is: 'several' });
  expect(matchFile(file('cabin.bin', 'bytes'), [entry('a/cabin.texfar', 'bytes')])).toMatchObject({ is: 'several' });
});

test('labels come behind names, and numbers behind labels', () => {
  const labelled = { ...entry('voices/cue_0009.adpcm', 'sound'), label: 'doors closing' };
  expect(matchFile(file('doors closing.wav', 'sound'), [labelled])).toEqual(
    one('voices/cue_0009.adpcm', { code: 'by-label', label: 'doors closing' }),
  );
  const named = entry('tannoy/doors closing.wav', 'sound');
  expect(matchFile(file('doors closing.wav', 'sound'), [labelled, named])).toEqual(
    one('tannoy/doors closing.wav', { code: 'by-name' }),
  );
  expect(matchFile(file('take 2/009.wav', 'sound'), [])).toEqual({ is: 'number', number: 9 });
  expect(matchFile(file('2 of 3.wav', 'sound'), [])).toEqual({ is: 'none' });
});

test('numbers are those of the names, or places counted from 0 or 1', () => {
  const paths = ['v/cue_0100.a', 'v/cue_0105.a', 'v/cue_0110.a'];
  const found = matchNumbers([0, 1, 3, 105], paths);
  const pathsOf = (way: keyof typeof found) => found[way].map((choice) => choice?.path);
  expect(pathsOf('own')).toEqual([undefined, undefined, undefined, 'v/cue_0105.a']);
  expect(pathsOf('from 0')).toEqual(['v/cue_0100.a', 'v/cue_0105.a', undefined, undefined]);
  expect(pathsOf('from 1')).toEqual([undefined, 'v/cue_0100.a', 'v/cue_0110.a', undefined]);
  // The same number twice represents neither.
  expect(matchNumbers([7], ['a/7.pcm', 'a/7.wav']).own).toEqual([undefined]);
});

test('what goes out with its folders finds its way back, whatever they are dropped under', () => {
  const part = fc.stringMatching(/^[a-z0-9_]{1,6}$/);
  const paths = fc.uniqueArray(
    fc.tuple(fc.array(part, { maxLength: 3 }), part).map(([dirs, name]) => [...dirs, `${name}.tex`].join('/')),
    { minLength: 1, maxLength: 12 },
  );
  fc.assert(
    fc.property(paths, fc.nat(), part, (all, pick, root) => {
      const path = all[pick % all.length]!;
      const name = path.slice(path.lastIndexOf('/') + 1);
      const candidates = all.filter((other) => other.endsWith(`/${name}`) || other === name).map((p) => entry(p));
      // A folder above may itself be called as one of the game: only there the choice is a person's.
      fc.pre(!all.some((other) => other !== path && other.endsWith(`${root}/${path}`)));
      const found = matchFile(file(`${root}/${path.replace('.tex', '.png')}`), candidates);
      const several = found.is === 'several' ? found.choices.map((choice) => choice.path) : [];
      return (found.is === 'one' && found.choice.path === path) || several.includes(path);
    }),
  );
});
