import type { GameAnswer } from '../../server/shapes';
import { count, counted } from '../shared/format';
import type { StationPath } from './stations';

/** The live line of a station, and whether it needs nothing from the person. */
export function stationLine(path: StationPath, game: GameAnswer): { line: string; done: boolean } {
  const locked = game.archives.filter((archive) => archive.state === 'locked').length;
  const damaged = game.archives.filter((archive) => archive.state === 'damaged').length;
  const archives = game.archives.filter((archive) => archive.state !== 'unknown').length;
  switch (path) {
    case 'open': {
      const unsure = game.archives.filter((archive) => archive.state === 'unsure').length;
      const more = [
        unsure > 0 ? `${unsure} to choose` : '',
        locked > 0 ? `${locked} locked` : '',
        damaged > 0 ? `${damaged} damaged` : '',
      ].filter((part) => part !== '');
      const { files } = game.loose;
      const first = archives === 0 && files > 0 ? counted(files, 'loose file') : counted(archives, 'archive');
      return { line: [first, ...more].join(' · '), done: archives + files > 0 && more.length === 0 };
    }
    case 'find':
      return { line: counted(game.entryCount, 'entry', 'entries'), done: game.entryCount > 0 };
    case 'take-out':
      return { line: game.trayCount === 0 ? 'the tray is empty' : `${count(game.trayCount)} in the tray`, done: true };
    case 'change':
      return {
        line: [
          game.changeCount === 0 ? 'nothing changed' : `${count(game.changeCount)} changed`,
          ...(game.waitingFiles === 0 ? [] : [counted(game.waitingFiles, 'file waits', 'files wait')]),
        ].join(' · '),
        done: game.waitingFiles === 0,
      };
    case 'put-back':
      if (game.changeCount === 0 && game.lastBuild === null) return { line: 'nothing to put back', done: true };
      if (game.behind > 0)
        return {
          line: game.lastBuild === null ? 'not built yet' : `build is ${counted(game.behind, 'change')} behind`,
          done: false,
        };
      return { line: game.installed ? 'in the game folder' : `build #${game.lastBuild} is ready`, done: true };
    default:
      return path satisfies never;
  }
}
