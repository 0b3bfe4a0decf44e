/** What a search for names could not use, or is not sure of. */
import { z } from 'zod';
import { note, sayCount } from './note';

export const NAME_NOTES = {
  'names-same-hash': note(
    { name: z.string(), kept: z.string() },
    ({ name, kept }) => `${name} and ${kept} have the same hash: ${kept} is kept`,
  ),
  'names-line-skipped': note(
    { line: z.number(), reason: z.enum(['empty', 'too-long', 'control-characters', 'not-utf-8']) },
    ({ line, reason }) => `line ${line} was skipped: ${REASONS[reason]}`,
  ),
  'names-lines-skipped': note({ count: z.number() }, ({ count }) => `${sayCount(count, 'line')} in all were skipped`),
  'names-by-chance': note(
    { count: z.number(), recipe: z.string() },
    ({ count, recipe }) =>
      `about ${count.toLocaleString('en')} of these names fit by chance: the hash of ${recipe} is short`,
  ),
} as const;

const REASONS = {
  empty: 'it has no path',
  'too-long': 'it is too long for a path',
  'control-characters': 'it has control characters',
  'not-utf-8': 'it is not in UTF-8',
} as const;
