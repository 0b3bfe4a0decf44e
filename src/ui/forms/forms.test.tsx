import { fireEvent, screen } from '@testing-library/react';
import { KINDS } from '../../core/game/kind-names';
import type {
  ChangeAnswer,
  EntryDetails,
  FilmFacts,
  FitOptions,
  FormFacts,
  MeshFacts,
  PictureFacts,
  SoundFacts,
} from '../../server/shapes';
import { show } from '../testing/show';
import { formView } from './registry';

const PICTURE: PictureFacts = {
  ...{
    form: 'picture',
    width: 256,
    height: 128,
    alpha: true,
    packing: 'BC3',
    mips: 9,
    layers: 1,
    faces: 1,
    srgb: true,
  },
  ...{ companions: ['a/far.tex'], direct: false, free: { format: true, size: true } },
};
const SOUND: SoundFacts = { form: 'sound', summary: 'IMA ADPCM, mono', seconds: 2.25, loop: [0.5, 2], direct: false };
const FILM: FilmFacts = {
  ...{ form: 'film', name: 'intro.avi', seconds: 3, rate: 25, packet: null, bits: 800_000, codec: 'h264' },
  ...{ direct: false, trouble: null },
  streams: [
    { number: 0, is: 'pictures', locale: '', summary: 'Pictures of 400 × 300' },
    { number: 1, is: 'sound', locale: 'de', summary: 'Sound, mp3' },
  ],
};
const MESH: MeshFacts = {
  form: 'mesh',
  levels: [200, 100].map((triangles, from) => ({ from, triangles, parts: 1, vertices: triangles })),
  inspection: {
    ...{ parts: 1, vertices: 200, triangles: 200, shells: 2, closed: 1, holes: 1, nonManifold: 0, flat: 0 },
    size: [1, 2, 3],
  },
  millimetres: [1000, 2000, 3000],
  joints: ['mast'],
  materials: [{ name: 'steel', textures: [{ path: 'a/steel.tex', there: true }] }],
  ...{ clips: [], clip: null },
};
const ENTRY = { archive: 2, n: 3, name: 'it.bin', trouble: null } as unknown as EntryDetails;
const CHANGE = { id: 4, kind: 'picture' } as unknown as ChangeAnswer;

const facts = (of: FormFacts, onGo = jest.fn()) => {
  const { Facts = () => null } = formView(of.form)!;
  show(<dl>{<Facts facts={of} onGo={onGo} />}</dl>);
  return onGo;
};

/** @returns what was chosen */
function choices(of: FormFacts, fitOptions: FitOptions, pick: string): FitOptions {
  const onFit = jest.fn<void, [FitOptions]>();
  const { FitChoices = () => null } = formView(of.form)!;
  show(<FitChoices change={CHANGE} facts={of} fitOptions={fitOptions} isBusy={false} onFit={onFit} />);
  fireEvent.click(screen.getByRole('button', { name: pick }));
  return onFit.mock.calls[0]![0];
}

const links = (of: FormFacts, more: Partial<EntryDetails> = {}) => {
  const { TakeOut = () => null } = formView(of.form)!;
  show(<TakeOut gameId={1} entry={{ ...ENTRY, facts: of, ...more }} />);
  return screen.queryAllByRole('link').map((link) => [link.textContent, link.getAttribute('href')]);
};

test('each kind but bytes is shown in its own way', () => {
  expect(KINDS.filter((kind) => formView(kind) === undefined)).toEqual(['bytes']);
});

test('a picture says its size and packing, and leads to the entry with its other half', () => {
  const onGo = facts(PICTURE);
  expect(screen.getByText(/256 × 128, BC3, with alpha, 9 mips/)).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'far.tex' }));
  expect(onGo).toHaveBeenCalledWith('a/far.tex');
});

test('a packed picture can be taken out as PNG; one that browsers show offers no conversion', () => {
  expect(links(PICTURE)).toEqual([['As PNG', '/api/games/1/entries/2/3/as/png']]);
  expect(links({ ...PICTURE, direct: true })).toHaveLength(1);
});

test.each([
  ['fast', { quality: 'fast' }],
  ['chosen by its pixels', { chosen: true }],
  ['in its own size', { ownSize: true }],
] as const)('a packed picture is packed again: %s', (pick, wanted) => {
  expect(choices(PICTURE, {}, pick)).toEqual(wanted);
});

test('where the file leaves nothing free there is nothing to choose but care', () => {
  const { FitChoices = () => null } = formView('picture')!;
  const fixed = { ...PICTURE, free: { format: false, size: false } };
  show(<FitChoices change={CHANGE} facts={fixed} fitOptions={{}} isBusy={false} onFit={jest.fn()} />);
  expect(screen.getAllByRole('button').map(({ textContent }) => textContent)).toEqual(['as near as can be', 'fast']);
});

test('a sound says its codec, length and loop, and goes out as WAV unless it cannot be heard', () => {
  facts(SOUND);
  expect(screen.getByText(/IMA ADPCM, mono, 2.3 s/)).toBeTruthy();
  expect(screen.getByText('loop from 0.50 to 2.00 s')).toBeTruthy();
  expect(links(SOUND)).toEqual([['As WAV', '/api/games/1/entries/2/3/as/wav']]);
});

test('a sound that cannot be heard is not offered as WAV', () => {
  expect(links(SOUND, { trouble: 'The codec is not known.' })).toEqual([]);
});

test('a sound is made as loud as the original when that is asked', () => {
  expect(choices(SOUND, { quality: 'fast' }, 'as loud as the original')).toEqual({ quality: 'fast', loudness: true });
});

test('a mesh says what it is made of, and leads to what it wears', () => {
  const onGo = facts(MESH);
  expect(screen.getByText(/200 triangles, 200 vertices in 1 part/)).toBeTruthy();
  expect(screen.getByText(/2 shells, 1 closed, 1 hole/)).toBeTruthy();
  expect(screen.getByText('1,000 × 2,000 × 3,000 mm')).toBeTruthy();
  fireEvent.click(screen.getByRole('button', { name: 'steel.tex' }));
  expect(onGo).toHaveBeenCalledWith('a/steel.tex');
});

test('a mesh goes out in every open format, a clip as glTF alone', () => {
  expect(links(MESH).map(([words]) => words)).toEqual(['As glTF', 'As OBJ', 'As STL']);
});

test('a clip goes out as glTF alone', () => {
  const clip = { mesh: null, there: false, rate: 12, frames: 36, loops: true, joints: 4 };
  expect(links({ ...MESH, levels: [], clip }).map(([words]) => words)).toEqual(['As glTF']);
});

test('levels of detail are chosen where the game has several', () => {
  expect(choices(MESH, {}, 'kept from the original')).toEqual({ levels: 'kept' });
});

test('a film says its streams, and offers each of them to be taken out', () => {
  facts(FILM);
  expect(screen.getByText('Pictures of 400 × 300')).toBeTruthy();
  links(FILM);
  fireEvent.click(screen.getByRole('button', { name: 'The film as…' }));
  expect(screen.getAllByRole('menuitem').map(({ textContent }) => textContent)).toEqual([
    'The film as WebM',
    'The film as MP4',
    'The sound in de as WAV',
  ]);
});

test('a film that a browser plays is played as it is, one of packets is converted first', () => {
  const { View } = formView('film')!;
  const file = {
    subject: '/api/games/1/subjects/entry-2-3',
    name: 'intro.mp4',
    mime: 'video/mp4',
    size: 9,
    large: false,
  };
  const { unmount } = show(<View {...file} facts={{ ...FILM, direct: true }} />);
  expect(screen.getByLabelText('The film intro.avi').getAttribute('src')).toBe(`${file.subject}/bytes`);
  unmount();
  show(<View {...file} facts={{ ...FILM, packet: { stream: 1, at: 1.5, picture: null } }} />);
  expect(screen.getByRole('button', { name: 'Play the film' })).toBeTruthy();
  expect(screen.getByText('This packet of it, at 1.50 s')).toBeTruthy();
});

test('a film of a change that no browser plays says so', () => {
  const { View } = formView('film')!;
  const file = { subject: '/api/games/1/subjects/change-4', name: 'intro.avi', mime: '', size: 9, large: false };
  show(<View {...file} facts={FILM} />);
  expect(screen.getByText(/This browser cannot play it/)).toBeTruthy();
});
