/** Keys and names, which open what is locked and call entries by their paths. */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { gameKey } from '../../../demo/make-game';
import { ArchiveModel, KeyModel, NameListModel } from '../../../src/server/database';
import { addKey, addNameList, removeKey, removeNameList, searchSentFile } from '../../../src/server/games';
import { once } from '../support';
import { must } from './game-facts';
import { stopOthers, type Job } from './kill-worker';

/** @param id a game whose voices are locked */
export function keyJobs(id: number): Job[] {
  const voices = gameKey('1.4.1', 'voices');
  const program = Buffer.concat([Buffer.alloc(40_000, 0x90), voices, Buffer.alloc(20_000, 0xcc)]);
  const names = ['words/en/captions.txt', 'places/valley.json', 'not/there.txt'].join('\n');

  const states = async () =>
    (await ArchiveModel.findAll({ where: { gameId: id }, order: [['path', 'ASC']] })).map(
      ({ path, state, entryCount }) => `${path} ${state} ${entryCount}`,
    );
  /** All but the first key, which the game was opened with; what they open is locked again. */
  const lockAgain = async () => {
    // A run that a search has started behind it may have died with the worker too.
    await stopOthers([id]);
    const keys = await KeyModel.findAll({ where: { gameId: id }, order: [['id', 'ASC']] });
    for (const key of keys.slice(1)) await removeKey(id, key.id);
  };

  return [
    { name: 'unlocking', start: () => addKey(id, voices.toString('hex')), facts: states, undo: lockAgain },
    {
      name: 'looking for keys',
      start: () => searchSentFile(id, 'game.exe', once(program)),
      facts: async (run) => {
        const { found } = run.result as { found: { archive: string; slot: string; at: number }[] };
        // The file was sent for the search alone; it goes when the end of the run is recorded.
        let left = Infinity;
        for (let tries = 0; left > 0 && tries < 50; tries++) {
          left = readdirSync(join(process.env['ZERO_LATCH_HOME']!, 'uploads')).length;
          if (left > 0) await new Promise((resolve) => setTimeout(resolve, 100));
        }
        return { found: found.map(({ archive, slot, at }) => `${archive} ${slot} ${at}`), left };
      },
      undo: lockAgain,
    },
    {
      name: 'names',
      start: () => addNameList(id, 'killed.txt', once(names)),
      facts: async () =>
        (await NameListModel.findAll({ where: { gameId: id } })).map(
          ({ name, tested, matched }) => `${name} ${tested} ${matched}`,
        ),
      undo: async () => {
        for (const list of await NameListModel.findAll({ where: { gameId: id } }))
          await must(await removeNameList(id, list.id));
      },
    },
  ];
}
