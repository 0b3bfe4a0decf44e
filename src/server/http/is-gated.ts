/** Routes answer only behind the gate of `src/server/web`: started in another way, anybody would reach them. */
export const GATE = 'ZERO_LATCH_GATE';

/** @throws Error when the pages were not started by the application's own web server */
export function requireGate(): void {
  const isServing = process.env['NEXT_RUNTIME'] === 'nodejs' && process.env['NEXT_PHASE'] !== 'phase-production-build';
  if (isServing && process.env[GATE] !== String(process.pid))
    throw new Error('The pages are started by npm run demo, whose web server says who may talk to them.');
}
