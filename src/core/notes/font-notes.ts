import { z } from 'zod';
import { note } from './note';

const percent = (of: number): string => `${Math.round(of * 100)} %`;

export const FONT_NOTES = {
  'font-converted': note({ to: z.string() }, ({ to }) => `converted to ${to}`),
  'font-lacks': note(
    { count: z.number(), letters: z.string() },
    ({ count, letters }) => `it lacks ${count.toLocaleString('en')} characters that the original has: ${letters}`,
  ),
  'font-outlines': note(
    { yours: z.string(), original: z.string() },
    ({ yours, original }) =>
      `its outlines are ${yours}, those of the original ${original}: some games read only one kind`,
  ),
  'font-line-height': note(
    { yours: z.number(), original: z.number() },
    ({ yours, original }) =>
      `its lines are ${percent(yours)} of its size apart, those of the original ${percent(original)}`,
  ),
  'font-original-unreadable': note({}, () => 'the original cannot be read, so yours was not compared with it'),
} as const;
