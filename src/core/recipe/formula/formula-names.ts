import { FILE_FUNCTIONS } from './calls';
import { PLAIN_FUNCTIONS } from './functions';

/** Names of all functions besides hashes, for completion and the reference. */
export function formulaNames(): string[] {
  return [...Object.keys(FILE_FUNCTIONS), ...Object.keys(PLAIN_FUNCTIONS)].sort();
}
