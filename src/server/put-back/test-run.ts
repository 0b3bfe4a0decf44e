/** The stand-in game, in a process of its own: it shares nothing with the program that made the build. */
import { execFile } from 'node:child_process';
import { createReadStream } from 'node:fs';
import { mkdir, mkdtemp, rm, stat, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { z } from 'zod';
import { CancelledError, FaultError } from '../../core/faults';
import { env } from '../env';
import type { BuildFile, JudgeReport } from '../shapes';
import { blobPath, keepBlob } from '../storage';

/** A game that hangs is a finding, not a reason to wait. */
const LIMIT_MS = 120_000;
const PROGRAM = 'gondola-post.bin';

const named = z.object({ path: z.string(), from: z.string() });
const reportSchema = z.object({
  started: z.boolean(),
  steps: z.array(z.object({ what: z.string(), count: z.number(), milliseconds: z.number() })),
  findings: z.array(
    z.object({
      severity: z.enum(['stop', 'note']),
      code: z.string(),
      file: z.string(),
      entry: z.string().optional(),
      offset: z.number(),
      rule: z.string(),
      found: z.string(),
    }),
  ),
  files: z.array(z.object({ file: z.string(), folder: z.number(), entries: z.number(), bytes: z.number() })),
  scene: z.object({ caption: z.string(), language: z.string(), livery: named, tannoy: named }).nullable(),
  shown: z.array(named.extend({ file: z.string().regex(/^shown-\d+\.(png|wav)$/) })),
});

/** A report with the scene as it was before the build. */
export interface TestReport extends JudgeReport {
  readonly before?: JudgeReport['scene'];
}

/**
 * Lays the built files over the game folder, without copying it, and lets the stand-in game load both.
 *
 * @returns null when there is no stand-in for this game
 */
export async function testRun(
  gameFolder: string,
  files: readonly BuildFile[],
  options: { signal: AbortSignal; includeBefore: boolean; show: readonly string[] },
): Promise<TestReport | null> {
  if ((await stat(join(gameFolder, PROGRAM)).catch(() => undefined)) === undefined) return null;
  const work = await mkdtemp(join(tmpdir(), 'zero-latch-test-run-'));
  try {
    const overlay = join(work, 'build');
    for (const file of files) {
      await mkdir(dirname(join(overlay, file.name)), { recursive: true });
      await symlink(blobPath(file.sha256), join(overlay, file.name));
    }
    // The game before and after share nothing but what they read: they load side by side.
    const [report, before] = await Promise.all([
      judge([gameFolder, overlay], join(work, 'after'), options),
      options.includeBefore ? judge([gameFolder], join(work, 'before'), options) : undefined,
    ]);
    if (before === undefined) return report;
    const shown = report.shown.map((one) => {
      const blob = before.shown.find(({ path }) => path === one.path)?.blob;
      return blob === undefined ? one : { ...one, before: blob };
    });
    return { ...report, shown, before: before.scene };
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

async function judge(
  folders: readonly string[],
  sceneFolder: string,
  { signal, show }: { readonly signal: AbortSignal; readonly show: readonly string[] },
): Promise<JudgeReport> {
  const { checkout } = env();
  const shows = show.flatMap((path) => ['--show', path]);
  const options = ['--json', '--scene', sceneFolder, ...shows];
  const { output, error } = await new Promise<{ output: string; error: (Error & { killed?: boolean }) | null }>(
    (resolve) => {
      execFile(
        process.execPath,
        ['--require', 'tsx/cjs', join(checkout, 'demo', 'judge.ts'), ...options, ...folders],
        { cwd: checkout, maxBuffer: 16 << 20, timeout: LIMIT_MS, signal },
        (failure, stdout) => resolve({ output: stdout, error: failure }),
      );
    },
  );
  if (signal.aborted) throw new CancelledError();
  if (error?.killed === true) {
    throw new FaultError({
      code: 'limit-reached',
      what: 'the stand-in game hangs',
      limit: `seconds of a test run, ${LIMIT_MS / 1000}`,
    });
  }
  const parsed = reportSchema.safeParse(output === '' ? undefined : JSON.parse(output));
  if (!parsed.success)
    throw new FaultError({
      code: 'invalid-request',
      what: `the stand-in game gave no report (${error?.message.split('\n')[0] ?? 'no output'})`,
    });
  const { scene, shown: files, ...rest } = parsed.data;
  const findings = rest.findings.map(({ entry, ...finding }) =>
    entry === undefined ? finding : { ...finding, entry },
  );
  const shown = await Promise.all(
    files.map(async ({ path, from, file }) => {
      const { sha256 } = await keepBlob(createReadStream(join(sceneFolder, file)));
      return { path, from, kind: file.endsWith('.png') ? ('picture' as const) : ('sound' as const), blob: sha256 };
    }),
  );
  if (scene === null) return { ...rest, findings, scene, shown };
  const picture = await keepBlob(createReadStream(join(sceneFolder, 'livery.png')));
  const sound = await keepBlob(createReadStream(join(sceneFolder, 'tannoy.wav')));
  return { ...rest, findings, shown, scene: { ...scene, pictureBlob: picture.sha256, soundBlob: sound.sha256 } };
}
