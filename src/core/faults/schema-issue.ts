/** What a schema complains about, in words for the person who wrote the data. */
import type { z } from 'zod';

const KINDS: Readonly<Record<string, string>> = {
  string: 'text',
  number: 'a number',
  int: 'a whole number',
  nan: 'a number',
  boolean: 'true or false',
  array: 'a list',
  object: 'a map',
  record: 'a map',
  null: 'nothing',
};

const ORIGINS: Readonly<Record<string, string>> = { string: 'characters', array: 'items', record: 'keys' };

/**
 * A clause such as "wants text, not a list", to follow the path of the part.
 *
 * @param issue of a parse with `reportInput` to include what was found
 */
export function sayIssue(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case 'invalid_type': {
      const wanted = KINDS[issue.expected] ?? issue.expected;
      if (!('input' in issue)) return `wants ${wanted}`;
      return issue.input === undefined
        ? `is missing, and wants ${wanted}`
        : `wants ${wanted}, not ${kindOf(issue.input)}`;
    }
    case 'invalid_value':
      return `wants ${issue.values.length === 1 ? '' : 'one of '}${issue.values.map(String).join(', ')}`;
    case 'too_small':
      return `wants at least ${amount(issue.minimum, issue.origin)}`;
    case 'too_big':
      return `wants at most ${amount(issue.maximum, issue.origin)}`;
    case 'not_multiple_of':
      return `wants a multiple of ${issue.divisor}`;
    case 'unrecognized_keys':
      return `has an unknown word: ${issue.keys.join(', ')}`;
    case 'invalid_key':
      return 'has a key that is not allowed here';
    case 'invalid_element':
      return 'has a part that is not allowed here';
    case 'invalid_union':
      return 'fits none of the ways in which it may be written';
    // A schema words these itself, as "is no …".
    case 'invalid_format':
    case 'custom':
      return issue.message.startsWith('Invalid') ? 'is not written as it has to be' : issue.message;
  }
}

function amount(limit: number | bigint, origin: string): string {
  const unit = ORIGINS[origin];
  return `${limit.toLocaleString('en')}${unit === undefined ? '' : ` ${unit}`}`;
}

function kindOf(value: unknown): string {
  if (value === null) return 'nothing';
  if (Array.isArray(value)) return 'a list';
  return KINDS[typeof value] ?? typeof value;
}
