import { join } from 'node:path';
import { env } from './env';

/** A program or thread that runs next to the pages, as `scripts/bootstrap/programs.mjs` has bundled it. */
export const programFile = (
  name: 'worker' | 'pool-thread' | 'mesh-thread' | 'font-thread' | 'recipe-thread' | 'catalogue-thread' | 'demo-judge',
): string => join(env().checkout, '.zero-latch', 'programs', `${name}.cjs`);
