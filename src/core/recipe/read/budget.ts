import { LimitError } from '../../faults';
import type { Limits } from '../limits';
import type { Budget } from '../model';

/** A row seldom takes less than a byte of its file; pointers that lead in circles make many out of few. */
const FREE_ROWS = 100_000;
const LOOK_AT_CLOCK = 4096;

/** Counts rows over all regions of one archive, and looks at the clock now and then. */
export function readingBudget(limits: Limits, fileBytes: number, now: () => number = () => performance.now()): Budget {
  const most = Math.min(limits.maxRows, FREE_ROWS + fileBytes);
  const end = now() + limits.maxSeconds * 1000;
  let rows = 0;
  return {
    get rows() {
      return rows;
    },
    set rows(count) {
      rows = count;
    },
    row: (offset) => {
      if (++rows > most)
        throw new LimitError({
          code: 'limit-reached',
          what: 'the file has too many rows',
          offset,
          found: rows.toLocaleString('en'),
          limit: `maxRows, ${most.toLocaleString('en')}`,
          hint: 'Pointers may lead in circles, or a count may be wrong.',
        });
      if (rows % LOOK_AT_CLOCK === 0 && now() > end)
        throw new LimitError({
          code: 'limit-reached',
          what: 'reading takes too long',
          offset,
          limit: `maxSeconds, ${limits.maxSeconds}`,
        });
    },
  };
}
