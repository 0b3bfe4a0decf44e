/** Why a change is for its entry. Each follows the date of the change, or the name of the entry, after a comma. */
import { z } from 'zod';
import { note } from './note';

export const MATCH_NOTES = {
  'by-path': note({}, () => 'by path'),
  'by-name': note({}, () => 'by name'),
  'by-label': note({ label: z.string() }, ({ label }) => `by the label “${label}”`),
  'by-number': note({ countedFrom: z.union([z.literal(0), z.literal(1)]).optional() }, ({ countedFrom }) =>
    countedFrom === undefined ? 'by its number' : `by number, counted from ${countedFrom}`,
  ),
  'by-part': note({ part: z.string() }, ({ part }) => `the ${part} of the picture, by name`),
  'by-film': note({}, () => 'by the name of the film'),
  'by-hand': note({}, () => 'chosen by you'),
  'also-matched': note({ files: z.array(z.string()).readonly() }, ({ files }) => `like ${files.join(' and ')}`),
  'from-entry': note({}, () => 'from another entry'),
  'from-file': note({ file: z.string() }, ({ file }) => `from ${file}`),
  'from-mod': note({ mod: z.string() }, ({ mod }) => `from the mod ${mod}`),
  'every-language': note({}, () => 'in every language'),
  typed: note({ in: z.enum(['words', 'records']) }, ({ in: where }) =>
    where === 'words' ? 'typed in Words' : 'typed in Records',
  ),
  'new-entry': note({}, () => 'new'),
  removed: note({}, () => 'will be removed'),
  'new-language': note({ locale: z.string(), from: z.string() }, ({ locale, from }) => `${locale}, made from ${from}`),
} as const;
