/** A whole game against a real database and a real worker: scan, rescan, rows, names and keys, each against its bar. */
import { execFileSync, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { appendFileSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { gameKey } from '../../demo/make-game';
import { openFile } from '../../src/core/bytes/node';
import { compileRecipe, openArchive } from '../../src/core/recipe';
import { ArchiveModel, database, migrate, RunModel } from '../../src/server/database';
import { addGame, addPattern, searchGameFile } from '../../src/server/games';
import { writeEntries } from '../../src/server/games/entry-index';
import { programFile } from '../../src/server/programs';
import { saveRecipe } from '../../src/server/recipes';
import { startRun, stopRun } from '../../src/server/runs';
import { MILLION_RECIPE, millionRows } from './index-table';
import { say, type Row } from './table';

const CHECKOUT = join(__dirname, '..', '..');
/** Paths of the pattern: enough for some seconds. */
const PATTERN = 'world/{0..2999}/tile_{000..099}_{000..099}.png';
const HAYSTACK_MB = 64;

/** Nothing without a database, which `npm run bench` starts. */
export async function measureGame(work: string): Promise<Row[]> {
  if (process.env.DATABASE_URL === undefined) return [];
  await migrate();
  const worker = spawn(process.execPath, [programFile('worker')], {
    cwd: CHECKOUT,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((ready) =>
    worker.stdout.on('data', (text: Buffer) => String(text).includes('worker ready') && ready()),
  );
  try {
    return [...(await wholeGame(work, worker.pid!)), ...(await rows(work))];
  } finally {
    worker.kill('SIGTERM');
    await database().close();
  }
}

async function wholeGame(work: string, worker: number): Promise<Row[]> {
  const folder = join(work, 'large');
  execFileSync(join(CHECKOUT, 'bin/zero-latch'), ['demo', '--size', 'large', '--to', folder]);
  // Other locks than AES are tested a hundred times slower: they are not what is measured.
  for (const name of ['voices.cue', 'voices.de.cue', 'voices.fr.cue', 'scenes.reel']) rmSync(join(folder, name));
  const haystack = join(folder, 'dump.bin');
  const program = readFileSync(join(folder, 'gondola-post.bin'));
  const noisy = new Set([3, 7, 11]);
  for (let mb = 0; mb < HAYSTACK_MB; mb++) {
    // A program's code, with some stretches of packed data in it.
    const piece = noisy.has(mb % 16) ? randomBytes(1 << 20) : Buffer.alloc(1 << 20, program.subarray(64, 0x10000));
    if (mb === HAYSTACK_MB - 1) gameKey('1.4.1', 'content').copy(piece, piece.length - 77);
    appendFileSync(haystack, piece);
  }
  const { game, run } = await addGame({ folder });
  const scan = await took(run.id);
  await stopBehind(game.id);
  const search = await took((await searchGameFile(game.id, 'dump.bin')).id);
  const unlock = await took((await RunModel.findOne({ where: { gameId: game.id, kind: 'unlock' } }))!.id);
  await stopBehind(game.id);
  const rescans: number[] = [];
  for (let i = 0; i < 3; i++) {
    rescans.push(await took((await startRun('scan', { title: 'Scan', gameId: game.id, input: {} })).id));
    await stopBehind(game.id);
  }
  const names = await took((await addPattern(game.id, { pattern: PATTERN, words: {} })).id);
  const peak = Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${worker}/status`, 'utf8'))![1]) / 1024;
  const bar = (what: string, on: string, ours: number, most: number, extra = ''): Row => ({
    what,
    on,
    ours: `${say(ours)}${extra}`,
    tool: 'the bar',
    theirs: say(most),
    ratio: most / ours,
    bar: say(most),
  });
  const tested = 3000 * 100 * 100;
  return [
    bar(
      'scan a game and unlock it',
      'the large demo game: 200,000 entries, 4.1 GB',
      scan + unlock,
      60,
      `, ${peak.toFixed(0)} MB worker`,
    ),
    bar('scan again, nothing changed', '97 files', rescans.sort((a, b) => a - b)[1]!, 2),
    bar('look for an AES-256 key', '64 MiB: a program’s code, a fifth of it noise; the key at its end', search, 60),
    {
      what: 'test names of a pattern',
      on: `${tested.toLocaleString('en')} paths, FNV-1a of 64 bits`,
      ours: `${(tested / names / 1e6).toFixed(1)} M a second`,
      tool: 'the bar',
      theirs: '2 M a second',
      ratio: tested / names / 2e6,
      bar: 'millions a second',
    },
  ];
}

/** Rows that enter the database, of an archive with a million. */
async function rows(work: string): Promise<Row[]> {
  const folder = join(work, 'million');
  mkdirSync(folder);
  const path = join(folder, 'million.tbl');
  writeFileSync(path, millionRows());
  await saveRecipe(MILLION_RECIPE);
  const { game, run } = await addGame({ folder });
  const scan = await took(run.id);
  await stopBehind(game.id);
  const row = (await ArchiveModel.findOne({ where: { gameId: game.id } }))!;
  const source = await openFile(path);
  const archive = await openArchive(compileRecipe(MILLION_RECIPE), source);
  const times: number[] = [];
  for (let i = 0; i < 3; i++) {
    const from = performance.now();
    await writeEntries(row, archive, new AbortController().signal);
    times.push((performance.now() - from) / 1000);
  }
  await source.close();
  const median = times.sort((a, b) => a - b)[1]!;
  const count = archive.entries.count;
  return [
    {
      what: 'open an archive of a million',
      on: `${count.toLocaleString('en')} entries, from the file to the merged game`,
      ours: say(scan),
      tool: 'the bar',
      theirs: say(60),
      ratio: 60 / scan,
      bar: 'opens',
    },
    {
      what: 'entries into the database',
      on: `${count.toLocaleString('en')} rows, COPY with its indexes`,
      ours: `${Math.round(count / median).toLocaleString('en')} rows a second`,
      tool: 'the bar',
      theirs: '100,000 rows a second',
      ratio: count / median / 100_000,
      bar: '100,000 rows a second',
    },
  ];
}

/** Seconds a run worked. */
export async function took(id: number): Promise<number> {
  for (;;) {
    const run = (await RunModel.findByPk(id))!;
    if (run.state === 'failed') throw new Error(`${run.kind}: ${JSON.stringify(run.fault)}`);
    if (run.state === 'done') return (run.endedAt!.getTime() - run.startedAt!.getTime()) / 1000;
    await pause(100);
  }
}

/** Proofs and the like would take the cores from what is measured. */
export async function stopBehind(gameId: number): Promise<void> {
  for (;;) {
    const going = await RunModel.findAll({ where: { gameId, state: ['waiting', 'working', 'stopping'] } });
    if (going.length === 0) return;
    for (const run of going) if (run.state !== 'stopping') await stopRun(run.id);
    await pause(300);
  }
}
