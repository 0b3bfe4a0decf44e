import { noteSchema, sayNote, type Note } from './index';

test.each<[note: Note, sentence: string]>([
  [{ code: 'picture-resized', from: [300, 200], to: [256, 128] }, 'yours was 300 × 200, resized to 256 × 128'],
  [
    { code: 'picture-resized', from: [9, 9], to: [8, 4], stretched: true },
    'yours was 9 × 9, resized to 8 × 4, which changes its proportions',
  ],
  [{ code: 'picture-converted', to: 'JPEG' }, 'converted to JPEG'],
  [{ code: 'picture-converted', from: 'GIF', to: 'PNG' }, 'converted from GIF to PNG'],
  [
    { code: 'picture-packing-chosen', format: 'BC3', reason: 'alpha', percent: 7 },
    'BC3, because alpha is used: 7 % of the pixels are transparent',
  ],
  [{ code: 'picture-packing-chosen', format: 'BC5', reason: 'normal-map' }, 'BC5, because it is a normal map'],
  [{ code: 'picture-packed', format: 'BC1', decibels: 41.26 }, 'packed as BC1, within 41.3 dB of yours'],
  [{ code: 'picture-packed', format: 'RGBA8', decibels: null }, 'packed as RGBA8, without loss'],
  [{ code: 'sound-gain', decibels: -3 }, 'made as loud as the original: −3.0 dB'],
  [
    { code: 'sound-loop-left-out', loop: [0.5, 2], kept: [0, 1] },
    'its loop from 0.50 to 2.00 s is left out: the game’s own is kept, from 0.00 to 1.00 s',
  ],
  [
    { code: 'sound-resampled', from: { rate: 48_000, channels: 2 }, to: { rate: 22_050, channels: 6 } },
    'yours was 48,000 Hz stereo, converted to 22,050 Hz 6 channels',
  ],
  [{ code: 'film-size', expected: 1_500_000, made: 1_240_000 }, '1.5 MB expected, 1.2 MB made'],
  [{ code: 'mesh-levels-made', triangles: [1200, 9] }, '2 levels of detail made: 1,200 and 9 triangles'],
  [{ code: 'mesh-levels-kept', count: 1 }, '1 level of detail kept from the original'],
  [{ code: 'mesh-material-unknown', material: null, into: null }, 'what has no material goes into the first part'],
  [{ code: 'mesh-clip-length', yours: 9, longer: false }, 'yours has 9 frames: the last is held'],
  [{ code: 'font-lacks', count: 4, letters: 'ą ć ę ł' }, 'it lacks 4 characters that the original has: ą ć ę ł'],
  [{ code: 'text-line-ends', lineEnds: '\r\n' }, 'lines end in CR LF, like the original'],
  [{ code: 'by-number', countedFrom: 1 }, 'by number, counted from 1'],
  [{ code: 'by-number' }, 'by its number'],
  [{ code: 'text', text: 'as it was written' }, 'as it was written'],
])('%j is said as %s', (note, sentence) => {
  expect(sayNote(note)).toBe(sentence);
  // What is stored comes back as it was.
  expect(noteSchema.parse(JSON.parse(JSON.stringify(note)))).toEqual(note);
});

test.each<[what: string, note: unknown]>([
  ['of an unknown code', { code: 'no-such-note' }],
  ['without a fact', { code: 'sound-gain' }],
  ['with a fact of another kind', { code: 'sound-gain', decibels: 'loud' }],
  ['that is a sentence', 'made as loud as the original'],
])('a note %s is refused', (_, note) => {
  expect(noteSchema.safeParse(note).success).toBe(false);
});
