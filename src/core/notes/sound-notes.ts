import { z } from 'zod';
import { note, sayChannels, sayHertz } from './note';

const layout = z.object({ rate: z.number(), channels: z.number() });
/** Start and end in seconds. */
const span = z.tuple([z.number(), z.number()]).readonly();

export const SOUND_NOTES = {
  'sound-resampled': note(
    { from: layout, to: layout },
    ({ from, to }) =>
      `yours was ${sayHertz(from.rate)} ${sayChannels(from.channels)}, converted to ${sayHertz(to.rate)} ${sayChannels(to.channels)}`,
  ),
  'sound-converted': note(
    { from: z.string().optional(), to: layout, codec: z.string().optional() },
    ({ from, to, codec }) =>
      `converted${from === undefined ? '' : ` from ${from}`} to ${codec === undefined ? '' : `${codec}, `}${sayHertz(to.rate)} ${sayChannels(to.channels)}`,
  ),
  'sound-cut': note(
    { seconds: z.number(), yours: z.number() },
    ({ seconds, yours }) =>
      `cut to ${seconds.toFixed(2)} s, the longest the game takes: yours lasts ${yours.toFixed(2)} s`,
  ),
  'sound-gain': note(
    { decibels: z.number() },
    ({ decibels }) => `made as loud as the original: ${decibels >= 0 ? '+' : '−'}${Math.abs(decibels).toFixed(1)} dB`,
  ),
  'sound-written': note({ format: z.string() }, ({ format }) => `written as ${format}`),
  'sound-packed': note({ format: z.string() }, ({ format }) => `packed as ${format}`),
  'sound-loop-taken': note({ loop: span }, ({ loop }) => `loops from ${saySpan(loop)}, as your file says`),
  'sound-loop-left-out': note(
    { loop: span, kept: span.optional() },
    ({ loop, kept }) =>
      `its loop from ${saySpan(loop)} is left out: ${kept === undefined ? 'the game plays this sound once' : `the game’s own is kept, from ${saySpan(kept)}`}`,
  ),
  'sound-original-unknown': note({}, () => 'the codec of the original is unknown: yours goes in unchanged'),
} as const;

const saySpan = ([from, to]: readonly [number, number]) => `${from.toFixed(2)} to ${to.toFixed(2)} s`;
