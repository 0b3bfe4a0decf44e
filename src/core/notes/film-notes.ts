import { z } from 'zod';
import { note, pixelSize, sayChannels, sayHertz, sayPixels } from './note';

const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

export const FILM_NOTES = {
  'film-length': note(
    { yours: z.number(), original: z.number() },
    ({ yours, original }) => `yours lasts ${yours.toFixed(1)} s, the original ${original.toFixed(1)} s`,
  ),
  'film-only-sound': note({}, () => 'there are no pictures in your film: only its sound was taken'),
  'film-no-sound': note({}, () => 'there is no sound in your film: that of the game is kept'),
  'film-pictures': note(
    { count: z.number().optional(), size: pixelSize, rate: z.number(), codec: z.string() },
    ({ count, size, rate, codec }) =>
      `${count === undefined ? 'pictures' : `${count} pictures`} of ${sayPixels(size)}, ${Number(rate.toFixed(2))} a second, ${codec.toUpperCase()}`,
  ),
  'film-sound': note(
    { seconds: z.number().optional(), rate: z.number(), channels: z.number(), codec: z.string().optional() },
    ({ seconds, rate, channels, codec }) =>
      `${seconds === undefined ? 'sound' : `${seconds.toFixed(1)} s of sound`} at ${sayHertz(rate)}, ${sayChannels(channels)}${codec === undefined ? '' : `, ${codec}`}`,
  ),
  'film-size': note(
    { expected: z.number(), made: z.number() },
    ({ expected, made }) => `${megabytes(expected)} expected, ${megabytes(made)} made`,
  ),
  'film-subtitles': note(
    { count: z.number().optional(), locale: z.string().optional(), before: z.number().optional() },
    ({ count, locale, before }) =>
      count === undefined ? 'subtitles put in' : `${count} subtitles in ${locale ?? '?'}, ${before ?? 0} before`,
  ),
  'film-subtitles-late': note({ count: z.number() }, ({ count }) => `${count} of them begin after the film has ended`),
  'film-subtitles-fixed-length': note(
    { milliseconds: z.number() },
    ({ milliseconds }) =>
      `the game shows each for ${(milliseconds / 1000).toFixed(1)} s at most: it stores no end times of its own`,
  ),
  'film-command': note({ args: z.array(z.string()).readonly() }, ({ args }) => `by ffmpeg ${args.join(' ')}`),
} as const;
