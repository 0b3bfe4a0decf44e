import { fireEvent, screen, waitFor } from '@testing-library/react';
import { useState } from 'react';
import type { EntryRow } from '../../server/shapes';
import { formView, TRAY_VIEWS, type TrayChoices } from '../forms';
import { serve, show } from '../testing/show';
import { AT_FIRST, TakeOutForm } from './TakeOutForm';

const SERVER = {
  'GET games/1': () => null,
  'GET places': () => ({ folder: '/', out: '/out', folders: [], games: [] }),
  'GET games/1/splits': () => ['_n: rgb; _r: a'],
  'POST games/1/take-out/clashes': () => ({ count: 0, first: [] }),
};

function Form() {
  const [chosen, setChosen] = useState<TrayChoices>(AT_FIRST);
  return <TakeOutForm gameId={1} empty={false} chosen={chosen} choose={(part) => setChosen({ ...chosen, ...part })} />;
}

/** @returns the body of the order once "Take out" was pressed */
async function orderAfter(...picks: readonly string[]): Promise<unknown> {
  const asked = serve(SERVER);
  show(<Form />);
  for (const pick of picks) fireEvent.click(screen.getByRole('button', { name: pick }));
  fireEvent.change(screen.getByRole('textbox', { name: 'Where to' }), { target: { value: '/out/here' } });
  fireEvent.click(screen.getByRole('button', { name: 'Take out' }));
  await waitFor(() => expect(asked.some(({ path }) => path.endsWith('/clashes'))).toBe(true));
  return asked.find(({ path }) => path.endsWith('/clashes'))!.body;
}

const PLAIN = { to: '/out/here', form: 'open', layout: 'folders', onlyChanged: true };
const MESHES = { meshes: 'glb', clips: 'all', levels: false, scale: 1000, solid: false };

test('at first every form goes out in the format most programs read', async () => {
  expect(await orderAfter()).toEqual({
    ...{ ...PLAIN, ...MESHES, pictures: 'png', mip: 0, sounds: 'wav', trim: false, join: false, films: 'mp4' },
  });
});

test('each form has its own choices, and what does not go with a format is left out of the order', async () => {
  const picks = ['Pictures as DDS', 'Sounds as they are', 'Meshes as OBJ', 'Films as WebM', 'Fonts as WOFF2'];
  expect(await orderAfter(...picks)).toEqual({
    ...{ ...PLAIN, ...MESHES, meshes: 'obj', pictures: 'dds', mip: 0, trim: false, join: false },
    ...{ films: 'webm', fonts: 'woff2' },
  });
});

test('as stored nothing is converted, whatever was chosen before', async () => {
  expect(await orderAfter('Fonts as TTF', 'as stored')).toEqual({ ...PLAIN, form: 'stored' });
});

test('silence is cut off only of sounds that are converted', async () => {
  expect(await orderAfter('without silence at the ends')).toMatchObject({ sounds: 'wav', trim: true });
});

const entry = (path: string, kind: EntryRow['kind']) => ({ path, kind }) as EntryRow;
const TRAY = { parts: new Set(['a.far']), clips: new Set(['turn.clip']) };

test.each([
  ['a.tex', 'picture', {}, 'PNG'],
  ['a.png', 'picture', {}, undefined],
  ['a.png', 'picture', { mip: 1 }, 'PNG'],
  ['a.tex', 'picture', { split: '_a: r; _b: g' }, '2 PNGs'],
  ['a.tex', 'picture', { pictures: null }, undefined],
  ['a.cue', 'sound', { join: true }, 'in one file'],
  ['a.wav', 'sound', {}, undefined],
  ['a.mesh', 'mesh', {}, 'glTF'],
  ['turn.clip', 'mesh', {}, 'glTF, with its mesh'],
  ['turn.clip', 'mesh', { meshes: 'obj' }, undefined],
  ['a.avi', 'film', {}, 'MP4'],
  ['a.ttf', 'font', { fonts: 'woff2' }, 'WOFF2'],
  ['a.ttf', 'font', {}, undefined],
] as const)('%s, a %s, with %j goes out as %s', (path, kind, choices, words) => {
  expect(formView(kind)!.tray!.goesOutAs(entry(path, kind), { ...AT_FIRST, ...choices }, TRAY)).toBe(words);
});

test('what holds a part of a picture goes out in it, when pictures are converted', () => {
  const far = entry('a.far', 'bytes');
  const said = (chosen: TrayChoices) => TRAY_VIEWS.flatMap(({ within }) => within?.(far, chosen, TRAY) ?? []);
  expect(said(AT_FIRST)).toEqual(['in its picture']);
  expect(said({ ...AT_FIRST, pictures: null })).toEqual([]);
});
