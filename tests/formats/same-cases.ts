/** `FUZZ_TIMES=50` runs so many times the usual cases, each time others. */
const TIMES = Number(process.env['FUZZ_TIMES'] ?? 0);

/** A landing must not depend on luck: without `FUZZ_TIMES` the cases are the same each time. */
export function sameCases(numRuns: number): { numRuns: number; seed?: number } {
  return TIMES > 0 ? { numRuns: numRuns * TIMES } : { numRuns, seed: 20_261_124 };
}
