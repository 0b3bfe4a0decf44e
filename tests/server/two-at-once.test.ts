/** Two workers, and two tabs that do this and that at random: what one does is not lost by what the other does. */
import { existsSync, readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import sharp from 'sharp';
import { addIncomingFile, editChange, listChanges, newDrop, startBringIn } from '../../src/server/changes';
import { BuildModel, ChangeModel, RunModel } from '../../src/server/database';
import { listEntries } from '../../src/server/entries';
import { setLabels } from '../../src/server/labels';
import { startBuild, startEstimate } from '../../src/server/put-back';
import { entryQuery } from '../../src/server/shapes';
import { readBlob } from '../../src/server/storage';
import { editTray, listTray, startTakeOut } from '../../src/server/take-out';
import { ended, games, once, openedGame, settled, startWorker, withWorker } from './support';

withWorker();
let second: Awaited<ReturnType<typeof startWorker>>;
beforeAll(async () => void (second = await startWorker()));
afterAll(() => void second.kill('SIGTERM'));

const painted = (red: number) =>
  sharp({ create: { width: 256, height: 256, channels: 4, background: { r: red, g: 40, b: 90, alpha: 1 } } })
    .png()
    .toBuffer();
const redOf = async (blob: string) => (await sharp(await readBlob(blob)).stats()).channels[0]!.mean;

type Step = {
  readonly do: 'bring' | 'undo' | 'note' | 'tray' | 'label' | 'build' | 'estimate' | 'take-out';
  readonly at: number;
};
const step: fc.Arbitrary<Step> = fc.record({
  do: fc.constantFrom('bring', 'bring', 'bring', 'undo', 'note', 'tray', 'label', 'build', 'estimate', 'take-out'),
  at: fc.nat(2),
});

/** What a tab did last: by path the red of its picture, and whether it is undone. */
interface Done {
  readonly red: Map<string, number>;
  readonly undone: Map<string, boolean>;
  readonly notes: Map<string, string>;
  readonly tray: Set<string>;
  readonly labels: Map<string, string>;
  readonly runs: number[];
}

/** @param paths entries of this tab alone, and behind them one that the other changes too */
async function tab(id: number, steps: readonly Step[], paths: readonly string[], first: number): Promise<Done> {
  const done: Done = {
    ...{ red: new Map(), undone: new Map(), notes: new Map(), tray: new Set(), labels: new Map(), runs: [] },
  };
  let red = first;
  const changeOf = async (path: string) => (await listChanges(id)).find((one) => one.path === path);
  for (const { do: what, at } of steps) {
    const path = paths[at]!;
    const own = paths[at % (paths.length - 1)]!;
    if (what === 'bring') {
      const { id: drop } = await newDrop(id);
      await addIncomingFile(id, drop, {
        name: path.slice(path.lastIndexOf('/') + 1),
        path,
        bytes: once(await painted(++red)),
      });
      expect((await ended((await startBringIn(id, drop)).id)).result).toMatchObject({ left: 0 });
      done.red.set(path, red);
      done.undone.set(path, false);
      done.notes.delete(path);
    } else if (what === 'undo' || what === 'note') {
      const change = await changeOf(own);
      if (change === undefined) continue;
      if (what === 'note') await editChange(id, change.id, { note: `note ${red}` });
      else await editChange(id, change.id, { undone: !change.undone });
      if (what === 'note') done.notes.set(own, `note ${red}`);
      else done.undone.set(own, !change.undone);
    } else if (what === 'tray') {
      await editTray(id, { add: [own], addFolder: '', remove: [], clear: false });
      done.tray.add(own);
    } else if (what === 'label') {
      await setLabels(id, [{ path: own, text: `label ${red}` }]);
      done.labels.set(own, `label ${red}`);
    } else if (what === 'build') {
      if ((await ChangeModel.count({ where: { gameId: id, undone: false } })) > 0)
        done.runs.push(
          await startBuild(id, 'patch').then(
            (run) => run.id,
            () => 0,
          ),
        );
    } else if (what === 'estimate') done.runs.push((await startEstimate(id)).id);
    else if (done.tray.size > 0)
      done.runs.push((await startTakeOut(id, { to: join(games, `two-out-${first}`), existing: 'replace' })).id);
  }
  return done;
}

test('two tabs at random, over two workers', async () => {
  const { id } = await openedGame('two');
  await settled(id);
  const { rows } = await listEntries(
    id,
    entryQuery.parse({ search: 'cabins/livery cabin_0 archive:core.hold', limit: '9' }),
  );
  const [a, b, c, d, shared] = rows.map(({ path }) => path) as [string, string, string, string, string];
  let from = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(step, { minLength: 4, maxLength: 9 }),
      fc.array(step, { minLength: 4, maxLength: 9 }),
      async (left, right) => {
        await ChangeModel.destroy({ where: { gameId: id } });
        await editTray(id, { add: [], addFolder: '', remove: [], clear: true });
        for (const tabAt of [0, 100]) rmSync(join(games, `two-out-${tabAt}`), { recursive: true, force: true });
        const newest = ((await BuildModel.max('number', { where: { gameId: id } })) as number | null) ?? 0;
        const both = await Promise.all([tab(id, left, [a, b, shared], 0), tab(id, right, [c, d, shared], 100)]);
        await settled(id);
        const changes = await ChangeModel.findAll({ where: { gameId: id } });
        for (const [tabAt, { red, undone, notes, tray, labels }] of both.entries()) {
          for (const path of tabAt === 0 ? [a, b] : [c, d]) {
            const active = changes.filter((one) => one.path === path && !one.undone);
            const wanted = red.get(path);
            expect(active).toHaveLength(wanted !== undefined && undone.get(path) === false ? 1 : 0);
            for (const { blob, note } of active) {
              expect(await redOf(blob)).toBeCloseTo(wanted!, 0);
              if (notes.has(path)) expect(note).toBe(notes.get(path));
            }
            if (labels.has(path)) {
              const [row] = (await listEntries(id, entryQuery.parse({ search: `"${path}"`, limit: '1' }))).rows;
              expect(row!.label).toBe(labels.get(path));
            }
          }
          const inTray = (await listTray(id)).rows.map((row) => row.path);
          expect(inTray).toEqual(expect.arrayContaining([...tray]));
          const out = join(games, `two-out-${tabAt * 100}`);
          const files = existsSync(out) ? readdirSync(out, { recursive: true, withFileTypes: true }) : [];
          for (const file of files.filter((one) => one.isFile()))
            expect(statSync(join(file.parentPath, file.name)).size).toBeGreaterThan(0);
        }
        // Of what both changed, one holds, whole.
        const wanted = both.flatMap(({ red }) => red.get(shared) ?? []);
        const active = changes.filter((one) => one.path === shared && !one.undone);
        expect(active).toHaveLength(wanted.length === 0 ? 0 : 1);
        for (const { blob } of active) expect(wanted).toContain(Math.round(await redOf(blob)));
        // Each build has a number of its own, and none is left out.
        const numbers = (await BuildModel.findAll({ where: { gameId: id }, order: [['number', 'ASC']] })).map(
          (one) => one.number,
        );
        expect(numbers).toEqual(numbers.map((_, i) => i + 1));
        expect(numbers.length).toBeGreaterThanOrEqual(newest);
        const runs = await RunModel.findAll({ where: { gameId: id, id: both.flatMap((one) => one.runs) } });
        for (const run of runs) expect(`${run.state} ${run.fault?.code ?? ''}`).toMatch(/^(done |failed conflict)$/);
        from++;
      },
    ),
    { numRuns: 2, seed: 7, endOnFailure: true },
  );
  expect(from).toBe(2);
});
