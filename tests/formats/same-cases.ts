/** `FUZZ_TIMES=50` runs so many times the usual cases, each time others. */
const TIMES = Number(process.env['FUZZ_TIMES'] ?? 0);

/** Of the usual cases, so many are enough for every landing. */
const SHARE = 0.6;

/** A landing must not depend on luck: without `FUZZ_TIMES` the cases are the same each time. */
export function sameCases(numRuns: number): { numRuns: number; seed?: number } {
  return TIMES > 0 ? { numRuns: numRuns * TIMES } : { numRuns: Math.ceil(numRuns * SHARE), seed: 20_261_124 };
}
