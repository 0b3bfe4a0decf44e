/** The server's own configuration file, which no page can write: `config.json` under `ZERO_LATCH_HOME`. */
import { readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { z } from 'zod';
import { FaultError, sayIssue } from '../core/faults';
import { env } from './env';

const configFile = z.strictObject({
  /** Programs that test builds of a game, by its folder. */
  testCommands: z
    .array(
      z.strictObject({
        game: z.string().min(1),
        /** The program and what is behind it; nothing of it ever comes from a game or a page. */
        command: z.array(z.string()).min(1),
        seconds: z.number().int().min(1).max(3600).default(120),
      }),
    )
    .default([]),
});
export type TestCommand = z.output<typeof configFile>['testCommands'][number];

/** The command that tests builds of the game in a folder, as whoever runs the server wrote it down; none without that. */
export async function testCommandFor(folder: string): Promise<TestCommand | undefined> {
  const { testCommands } = await readConfig();
  return testCommands.find(({ game }) => resolve(env().home, '..', game) === folder);
}

/** @throws FaultError `invalid-request` that names what is wrong in the file */
async function readConfig(): Promise<z.output<typeof configFile>> {
  const path = join(env().home, 'config.json');
  const text = await readFile(path, 'utf8').catch(() => '{}');
  const wrong = (what: string) => new FaultError({ code: 'invalid-request', file: path, what });
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    throw wrong(`the configuration is no JSON: ${(error as Error).message}`);
  }
  const parsed = configFile.safeParse(data, { reportInput: true });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0]!;
  throw wrong(`the configuration is wrong at ${issue.path.join('.') || 'its top'}: it ${sayIssue(issue)}`);
}
