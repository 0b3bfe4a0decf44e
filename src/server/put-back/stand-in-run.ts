/** The stand-in game, in a process of its own: it shares nothing with the program that made the build. */
import { execFile } from 'node:child_process';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';
import { CancelledError, FaultError } from '../../core/faults';
import { programFile } from '../programs';
import { judgeFilm, judgeReport, judgeScene, type JudgeReport } from '../shapes';
import { keepBlob } from '../storage';
import type { TestOptions, TestReport } from './test-report';

/** A game that hangs is a finding, not a reason to wait. */
const LIMIT_MS = 120_000;
/** The program of the game there is a stand-in for. */
export const PROGRAM = 'gondola-post.bin';

const { livery, tannoy, caption, language } = judgeScene.shape;
/** As the stand-in game writes it: pictures and sounds are files next to it, which are put into storage. */
const reportSchema = judgeReport.pick({ started: true, steps: true, findings: true, files: true }).extend({
  scene: z.object({ caption, language, livery, tannoy }).nullable(),
  film: judgeFilm.omit({ pictureBlob: true, soundBlob: true }).nullable(),
  shown: z.array(livery.extend({ file: z.string().regex(/^shown-\d+\.(png|wav)$/) })),
});

/**
 * Lets the stand-in game load the folders, the later over the earlier.
 *
 * @param room a folder to write into
 * @throws CancelledError when the run is stopped
 */
export async function standInRun(
  [game, build]: readonly [game: string, build: string],
  room: string,
  options: TestOptions,
): Promise<TestReport> {
  // The game before and after share nothing but what they read: they load side by side.
  const [report, before] = await Promise.all([
    judge([game, build], join(room, 'after'), options),
    options.includeBefore ? judge([game], join(room, 'before'), options) : undefined,
  ]);
  if (before === undefined) return report;
  const shown = report.shown.map((one) => {
    const blob = before.shown.find(({ path }) => path === one.path)?.blob;
    return blob === undefined ? one : { ...one, before: blob };
  });
  return { ...report, shown, before: before.scene, beforeFilm: before.film ?? null };
}

const HANGS: JudgeReport = {
  by: 'stand-in',
  started: false,
  steps: [],
  findings: [
    {
      severity: 'stop',
      code: 'HANG',
      file: PROGRAM,
      offset: 0,
      rule: `The game has loaded within ${LIMIT_MS / 1000} seconds.`,
      found: 'it hangs on its loading screen',
    },
  ],
  files: [],
  scene: null,
  shown: [],
};

async function judge(
  folders: readonly string[],
  sceneFolder: string,
  { signal, show }: TestOptions,
): Promise<JudgeReport> {
  const shows = show.flatMap((path) => ['--show', path]);
  const options = ['--json', '--scene', sceneFolder, ...shows];
  const { output, error } = await new Promise<{ output: string; error: (Error & { killed?: boolean }) | null }>(
    (resolve) => {
      execFile(
        process.execPath,
        [programFile('demo-judge'), ...options, ...folders],
        { maxBuffer: 16 << 20, timeout: LIMIT_MS, signal },
        (failure, stdout) => resolve({ output: stdout, error: failure }),
      );
    },
  );
  if (signal.aborted) throw new CancelledError();
  if (error?.killed === true) return HANGS;
  const parsed = reportSchema.safeParse(output === '' ? undefined : JSON.parse(output));
  if (!parsed.success)
    throw new FaultError({
      code: 'invalid-request',
      what: `the stand-in game gave no report (${error?.message.split('\n')[0] ?? 'no output'})`,
    });
  const { scene, film: played, shown: files, ...said } = parsed.data;
  const rest = { by: 'stand-in' as const, ...said };
  const findings = rest.findings.map(({ entry, ...finding }) =>
    entry === undefined ? finding : { ...finding, entry },
  );
  const shown = await Promise.all(
    files.map(async ({ path, from, file }) => {
      const { sha256 } = await keepBlob(createReadStream(join(sceneFolder, file)));
      return { path, from, kind: file.endsWith('.png') ? ('picture' as const) : ('sound' as const), blob: sha256 };
    }),
  );
  const kept = async (file: string) => (await keepBlob(createReadStream(join(sceneFolder, file)))).sha256;
  const film =
    played === null ? null : { ...played, pictureBlob: await kept('film.webp'), soundBlob: await kept('film.wav') };
  if (scene === null) return { ...rest, findings, scene, film, shown };
  const [pictureBlob, soundBlob] = [await kept('livery.png'), await kept('tannoy.wav')];
  return { ...rest, findings, film, shown, scene: { ...scene, pictureBlob, soundBlob } };
}
