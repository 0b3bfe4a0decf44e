/** The environment, checked once. Only this file reads `process.env` for settings. */
import { homedir } from 'node:os';
import { delimiter, join, resolve } from 'node:path';
import { z } from 'zod';
import { sayIssue } from '../core/faults';

const schema = z.object({
  DATABASE_URL: z.url({ protocol: /^postgres(ql)?$/ }),
  ZERO_LATCH_HOME: z.string().min(1).optional(),
  ZERO_LATCH_ROOTS: z.string().optional(),
  ZERO_LATCH_PORT: z.coerce.number().int().min(1).max(65535).optional(),
  ZERO_LATCH_CHECKOUT: z.string().optional(),
});

export interface Env {
  readonly databaseUrl: string;
  /** Big bytes, the secret file, keepings. */
  readonly home: string;
  /** Folders under which files may be reached. */
  readonly roots: readonly string[];
  readonly port: number;
  /** The checkout the program runs from: recipes and the stand-in game are found there. */
  readonly checkout: string;
}

let known: Env | undefined;

/** @throws Error that names the setting that is missing or wrong */
export function env(): Env {
  if (known !== undefined) return known;
  const parsed = schema.safeParse(process.env, { reportInput: true });
  if (!parsed.success) {
    const issue = parsed.error.issues[0]!;
    throw new Error(`The setting ${issue.path.join('.')} ${sayIssue(issue)}. Start with npm run demo, which sets it.`);
  }
  const { data } = parsed;
  const checkout = resolve(/* turbopackIgnore: true */ data.ZERO_LATCH_CHECKOUT ?? process.cwd());
  const home = resolve(checkout, data.ZERO_LATCH_HOME ?? '.zero-latch');
  const roots = data.ZERO_LATCH_ROOTS?.split(delimiter).filter((root) => root !== '') ?? [
    homedir(),
    join(home, 'demo'),
    join(home, 'out'),
  ];
  known = {
    databaseUrl: data.DATABASE_URL,
    home,
    // Games that are sent through the browser lie there, whatever the roots say.
    roots: [...new Set([...roots, join(home, 'games')].map((root) => resolve(root)))],
    port: data.ZERO_LATCH_PORT ?? 4310,
    checkout,
  };
  return known;
}

/** True while Next builds the pages: there is no database then. */
export function isBuilding(): boolean {
  return process.env['NEXT_PHASE'] === 'phase-production-build';
}
