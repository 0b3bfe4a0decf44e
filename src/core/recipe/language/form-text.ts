/** Recipes that present a form, such as a picture: they have fields and no entries. */

import { FORM_WORDS } from './form-parts';

type Plain = Record<string, unknown>;

const FORMS: readonly unknown[] = FORM_WORDS;

function isPlain(value: unknown): value is Plain {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/**
 * The recipe of a form with a table of no entries, so that it is read, proven and written as an archive is. Anything else
 * comes back as it is.
 *
 * @param plain the recipe's YAML, not checked yet
 */
export function withoutEntries(plain: unknown): unknown {
  if (!isPlain(plain) || !FORMS.includes(plain['presents']) || plain['entries'] !== undefined) return plain;
  const regions: unknown[] = Array.isArray(plain['regions']) ? plain['regions'] : [];
  return {
    ...plain,
    shapes: { ...(isPlain(plain['shapes']) ? plain['shapes'] : {}), 'no-entry': [{ field: 'nothing', as: 'u8' }] },
    regions: [
      ...regions,
      { region: 'no-entries', at: 0, holds: 'no-entry[0]' },
      { region: 'no-bytes', holds: 'entries' },
    ],
    entries: { each: 'entry in no-entries', path: '""', at: 0, stored: 0 },
  };
}
