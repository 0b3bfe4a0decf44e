/** What a person has the worker do, of every kind. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import {
  addIncomingFile,
  listIncomingFiles,
  newDrop,
  startBringIn,
  startRenew,
  undoDrop,
} from '../../../src/server/changes';
import { ArchiveModel, BuildModel, ChangeModel, database, InstallModel, ModModel } from '../../../src/server/database';
import { listEntries } from '../../../src/server/entries';
import { entryBytes } from '../../../src/server/content';
import { filmFile } from '../../../src/server/forms/film';
import { findInside, gameAnswer } from '../../../src/server/games';
import { startMeasure, startTidy } from '../../../src/server/home';
import { listHits, startInside, startLinks } from '../../../src/server/inside';
import { removeMod, sharedFile, startBringMod, startShare } from '../../../src/server/mods';
import { startBuild, startPutIn, startTakeBack, startEstimate } from '../../../src/server/put-back';
import { buildChanges } from '../../../src/server/put-back/build-changes';
import { listRecordTables, startRecords } from '../../../src/server/records';
import { saveRoutine, startRoutine } from '../../../src/server/routines';
import { startRun } from '../../../src/server/runs';
import { entryQuery, insideOrder, wordsQuery } from '../../../src/server/shapes';
import { downloadZip, editTray, startTakeOut } from '../../../src/server/take-out';
import { listTables, listWords, startWordsIn } from '../../../src/server/words';
import { games, once } from '../support';
import { changed, fingerprint, LIST_ZIP, must, ORDER, painted, place, sharedMod } from './game-facts';
import { keyJobs } from './key-jobs';
import type { Job } from './kill-worker';

const LIVERY = 'cabins/livery/cabin_07_red.png';
const WORDS = 'words/en/captions.txt';

/**
 * @param game an opened game with changes that are not touched by the jobs: `LIVERY` is not among them
 * @param other a copy of it without any changes, that mods are brought into
 */
export async function jobsFor(game: { id: number; folder: string }, other: { id: number }): Promise<Job[]> {
  const { id, folder } = game;
  const out = join(games, 'killed-out');
  const original = fingerprint(folder);
  const red = await painted('#902020');
  const captions = Buffer.from((await entryBytes(...(await place(id, WORDS)))).bytes);
  const lines = captions.toString().replace('Mind the gap', 'Mind the map');
  const { rows } = await listEntries(id, entryQuery.parse({ search: 'kind:picture', limit: '40' }));
  const wanted = [...rows.map(({ path }) => path), WORDS];
  const tables = await listTables(id);
  const locale = (one: string) => tables.find((table) => table.locale === one)!.archive;
  const pair = { from: locale('en'), to: locale('de') };
  const [film] = (await listEntries(id, entryQuery.parse({ search: 'kind:film', limit: '1' }))).rows;
  const [firstText] = (await listWords(id, wordsQuery.parse(pair))).rows;
  const mod = await sharedMod(id);

  let drop = 0;
  const undoLast = async () => void (await undoDrop(id, drop));
  const takeOut = async (to: string | null) => {
    rmSync(out, { recursive: true, force: true });
    await editTray(id, { add: wanted, remove: [], clear: true });
    return startTakeOut(id, { to, form: 'open', pictures: 'png' });
  };
  const lastBuild = () => BuildModel.findOne({ where: { gameId: id }, order: [['number', 'DESC']] });
  const newest = async () => (await lastBuild())!;
  /** How many builds there are more than before: one, however often the worker died. */
  let builds = 0;
  const build = async (how: 'keep' | 'patch') => {
    builds = await BuildModel.count({ where: { gameId: id } });
    return startBuild(id, how);
  };
  const buildFacts = async () => {
    const { id: last, files, report } = await newest();
    const more = (await BuildModel.count({ where: { gameId: id } })) - builds;
    return { more, files, started: report?.started, changes: (await buildChanges(last)).length };
  };
  const putIn = async () => {
    // Any of the jobs may be the first.
    if ((await lastBuild()) === null) await must(await build('patch'));
    return startPutIn(id, (await newest()).id);
  };
  const install = async () => (await InstallModel.findOne({ where: { gameId: id, state: 'in' } }))!;
  const takeBack = async () => {
    const { id: installed } = await install();
    await must(await startTakeBack(id, installed, false));
  };
  const edited = join(games, 'killed-routine');
  mkdirSync(join(edited, 'cabins/livery'), { recursive: true });
  writeFileSync(join(edited, LIVERY), red);
  const steps = [{ do: 'bring-in', folder: edited }, { do: 'build', how: 'patch' }, { do: 'put-in' }] as const;
  const routine = (await saveRoutine(id, { name: 'killed', steps: [...steps] })).find(({ name }) => name === 'killed')!;
  const unknown = await ArchiveModel.findOne({ where: { gameId: id, state: 'unknown' } });

  return [
    {
      name: 'scan',
      start: () => startRun('scan', { title: 'Scanning', gameId: id, input: {} }),
      facts: async () => {
        const { entryCount, archives } = await gameAnswer(id);
        return { entryCount, states: archives.map(({ path, state }) => `${path} ${state}`).sort() };
      },
    },
    {
      name: 'prove',
      start: async () => {
        await ArchiveModel.update({ proof: null }, { where: { gameId: id } });
        return startRun('prove', { title: 'Proving', gameId: id, input: {} });
      },
      facts: async () =>
        (await ArchiveModel.findAll({ where: { gameId: id, state: 'open' }, order: [['path', 'ASC']] })).map(
          ({ path, proof }) => `${path} ${proof?.identical}`,
        ),
    },
    {
      name: 'taking out to a folder',
      start: () => takeOut(out),
      // Nothing half written stays, hidden or not.
      facts: () => Promise.resolve(fingerprint(out)),
    },
    {
      name: 'taking out as one ZIP',
      start: () => takeOut(null),
      facts: async (run) => {
        const file = join(games, 'killed.zip');
        const stream = await downloadZip(id, run.id, new AbortController().signal);
        writeFileSync(file, Buffer.from(await new Response(stream).arrayBuffer()));
        return execFileSync('python3', ['-c', LIST_ZIP, file]).toString();
      },
    },
    {
      name: 'bringing files in',
      start: async () => {
        ({ id: drop } = await newDrop(id));
        await addIncomingFile(id, drop, { name: LIVERY, bytes: once(red) });
        await addIncomingFile(id, drop, { name: WORDS, bytes: once(lines) });
        await addIncomingFile(id, drop, { name: 'nobody/knows/this.dat', bytes: once('?') });
        return startBringIn(id, drop);
      },
      facts: async () => ({
        changes: await changed(id),
        waiting: (await listIncomingFiles(id)).rows
          .filter((row) => row.drop === drop)
          .map(({ name, state }) => `${name} ${state}`),
      }),
      undo: undoLast,
    },
    {
      name: 'bringing texts in',
      start: () => startWordsIn(id, pair, 'de.json', once(JSON.stringify({ [firstText!.key]: 'Etwas ganz anderes' }))),
      facts: async () => (await listWords(id, wordsQuery.parse({ ...pair, show: 'changed' }))).rows,
      undo: async () => {
        const last = await ChangeModel.findOne({ where: { gameId: id, undone: false }, order: [['id', 'DESC']] });
        if (last?.dropId != null) await undoDrop(id, last.dropId);
      },
    },
    { name: 'building a patch', start: () => build('patch'), facts: buildFacts },
    { name: 'rebuilding in place', start: () => build('keep'), facts: buildFacts },
    {
      name: 'putting in',
      start: putIn,
      facts: () => Promise.resolve(fingerprint(folder)),
      undo: takeBack,
    },
    {
      name: 'taking out of the game again',
      start: async () => {
        await must(await putIn());
        return startTakeBack(id, (await install()).id, false);
      },
      facts: () => {
        const now = fingerprint(folder);
        return Promise.resolve({ isAsItWas: JSON.stringify(now) === JSON.stringify(original) });
      },
    },
    {
      name: 'a routine',
      start: () => startRoutine(id, routine.id),
      facts: async () => ({ folder: fingerprint(folder), changes: await changed(id) }),
      undo: async () => {
        await takeBack();
        const last = await ChangeModel.findOne({ where: { gameId: id, path: LIVERY, undone: false } });
        if (last?.dropId != null) await undoDrop(id, last.dropId);
      },
    },
    {
      name: 'sharing',
      start: () => startShare(id, ORDER),
      facts: async (run) => {
        const { file, name } = await sharedFile(id, run.id);
        return { name, entries: execFileSync('python3', ['-c', LIST_ZIP, file]).toString() };
      },
    },
    {
      name: 'bringing a mod in',
      start: () => startBringMod(other.id, 'mod.zip', once(mod)),
      facts: async () => ({
        mods: (await ModModel.findAll({ where: { gameId: other.id } })).map(({ name, leftOut }) => ({ name, leftOut })),
        changes: await changed(other.id),
      }),
      undo: async () => {
        for (const one of await ModModel.findAll({ where: { gameId: other.id } })) await removeMod(other.id, one.id);
      },
    },
    {
      name: 'looking inside',
      start: () => startInside(id, insideOrder.parse({ place: {}, sought: { is: 'text', text: 'mind the doors' } })),
      facts: async (run) => (await listHits(id, run.id, 0)).rows.map(({ path, at }) => `${path} ${at}`),
    },
    {
      name: 'links',
      start: () => startLinks(id),
      facts: () =>
        database().query('select count(*) as count from links where game_id = $1', {
          bind: [id],
          type: QueryTypes.SELECT,
        }),
    },
    {
      name: 'records',
      start: () => startRecords(id),
      facts: async () => (await listRecordTables(id)).tables.map(({ name, rows: count }) => `${name} ${count}`),
    },
    {
      name: 'what each way would write',
      start: () => startEstimate(id),
      facts: async (run) => run.result,
    },
    { name: 'changes to the game as it is now', start: () => startRenew(id), facts: () => changed(id) },
    {
      name: 'freeing space',
      start: startTidy,
      // `changed` fails when a change has lost its bytes.
      facts: () => changed(id),
    },
    {
      name: 'adding up what is on disk',
      start: startMeasure,
      facts: (run) => Promise.resolve(Object.keys(run.result!).sort()),
    },
    ...(film === undefined
      ? []
      : [
          {
            name: 'a film',
            start: async () => {
              rmSync(join(process.env['ZERO_LATCH_HOME']!, 'films'), { recursive: true, force: true });
              const answer = await filmFile(id, film.archive, film.n, { as: 'mp4', changed: false });
              if (answer.ready) throw new Error('the film is there');
              return answer.run;
            },
            facts: async () => ({
              ready: (await filmFile(id, film.archive, film.n, { as: 'mp4', changed: false })).ready,
            }),
          } satisfies Job,
        ]),
    ...(unknown === null
      ? []
      : [
          {
            name: 'looking for hidden files',
            start: () => findInside(id, unknown.id),
            facts: async () => (await ArchiveModel.findByPk(unknown.id))!.found?.kinds,
          } satisfies Job,
        ]),
    {
      name: 'changes after an update',
      start: () => startRun('rebase', { title: 'Checking the changes', gameId: id, input: {} }),
      facts: () => changed(id),
    },
    ...keyJobs(other.id),
  ];
}
