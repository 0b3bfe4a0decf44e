/** What a search for names could not use, or is not sure of. */
import { z } from 'zod';
import { note, sayCount } from './note';

export const NAME_NOTES = {
  'names-same-hash': note(
    { name: z.string(), kept: z.string() },
    ({ name, kept }) => `${name} and ${kept} have the same hash: ${kept} is kept`,
  ),
  'names-line-skipped': note(
    { line: z.number(), reason: z.string() },
    ({ line, reason }) => `line ${line} was skipped: ${reason}`,
  ),
  'names-lines-skipped': note({ count: z.number() }, ({ count }) => `${sayCount(count, 'line')} in all were skipped`),
  'names-by-chance': note(
    { count: z.number(), recipe: z.string() },
    ({ count, recipe }) =>
      `about ${count.toLocaleString('en')} of these names fit by chance: the hash of ${recipe} is short`,
  ),
} as const;
