import type { ArchiveAnswer, GameAnswer } from '../../server/shapes';
import { stationLine } from './station-line';

const archive = (state: ArchiveAnswer['state']) => ({ state }) as ArchiveAnswer;
const game = (facts: Partial<GameAnswer> = {}): GameAnswer =>
  ({
    archives: [],
    loose: { files: 0, bytes: 0 },
    entryCount: 0,
    trayCount: 0,
    changeCount: 0,
    waitingFiles: 0,
    lastBuild: null,
    behind: 0,
    installed: false,
    ...facts,
  }) as GameAnswer;

test.each<[path: Parameters<typeof stationLine>[0], facts: Partial<GameAnswer>, line: string, done: boolean]>([
  ['open', { archives: [archive('open'), archive('open')] }, '2 archives', true],
  [
    'open',
    { archives: [archive('locked'), archive('damaged'), archive('unsure'), archive('unknown')] },
    '3 archives · 1 to choose · 1 locked · 1 damaged',
    false,
  ],
  ['open', { loose: { files: 1200, bytes: 1 } as GameAnswer['loose'] }, '1,200 loose files', true],
  ['open', {}, '0 archives', false],
  ['find', { entryCount: 1 }, '1 entry', true],
  ['find', {}, '0 entries', false],
  ['take-out', {}, 'the tray is empty', true],
  ['take-out', { trayCount: 1500 }, '1,500 in the tray', true],
  ['change', {}, 'nothing changed', true],
  ['change', { changeCount: 3, waitingFiles: 1 }, '3 changed · 1 file waits', false],
  ['put-back', {}, 'nothing to put back', true],
  ['put-back', { changeCount: 1, behind: 1 }, 'not built yet', false],
  ['put-back', { changeCount: 3, behind: 2, lastBuild: 4 }, 'build is 2 changes behind', false],
  ['put-back', { changeCount: 3, lastBuild: 4 }, 'build #4 is ready', true],
  ['put-back', { changeCount: 3, lastBuild: 4, installed: true }, 'in the game folder', true],
])('%s with %j says %s', (path, facts, line, done) => {
  expect(stationLine(path, game(facts))).toEqual({ line, done });
});
