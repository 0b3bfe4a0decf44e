/** Changes by the archive they go into. */
import { QueryTypes } from 'sequelize';
import { FaultError } from '../../core/faults';
import { SafePaths } from '../../core/game';
import { ArchiveModel, database } from '../database';
import { findWinner, findWinners } from '../content';
import { BESIDE_THE_GAME, isOfTheGame } from '../games';
import type { BuildFile, BuildWays, BuiltChange, How } from '../shapes';
import type { Addition, Replacement } from './replacement';

/** What becomes of one archive. */
export interface Group {
  readonly archive: ArchiveModel;
  /** How many archives this one lies in. */
  readonly depth: number;
  readonly replace: Replacement[];
  readonly add: Addition[];
  readonly remove: Set<number>;
  /** The archive is itself new in the game: it is written whole, whatever changes in it. */
  readonly isNew: boolean;
  /** The path of the outermost archive: the file in the game's folder. */
  readonly file: string;
}

/** The way an archive is built. */
export const wayOf = ({ how, archives }: BuildWays, file: string): How => archives[file] ?? how;

export class Groups {
  private readonly groups = new Map<number, Group>();
  /** Files that are new in the game and are no archives. */
  readonly files: BuildFile[] = [];

  get all(): readonly Group[] {
    return [...this.groups.values()];
  }

  async of(id: number, { isNew = false } = {}): Promise<Group> {
    const known = this.groups.get(id);
    if (known !== undefined) return known;
    const archive = (await ArchiveModel.findByPk(id))!;
    let depth = 0;
    let outermost = archive;
    for (; outermost.parentId !== null; depth++) outermost = (await ArchiveModel.findByPk(outermost.parentId))!;
    const { path: file } = outermost;
    const group: Group = { archive, depth, replace: [], add: [], remove: new Set(), isNew, file };
    this.groups.set(id, group);
    return group;
  }

  /** The next to be built: what lies inside another comes before that. */
  takeDeepest(): Group | undefined {
    const [deepest] = this.all.toSorted((a, b) => b.depth - a.depth);
    if (deepest !== undefined) this.groups.delete(deepest.archive.id);
    return deepest;
  }
}

/**
 * @throws FaultError `no-such-entry` when an entry that is to change has gone, `conflict` when what is to be added is there
 *   already, or has no archive to go into
 */
export async function groupChanges(gameId: number, changes: readonly BuiltChange[], ways: BuildWays): Promise<Groups> {
  const groups = new Groups();
  const isNewFile = ({ action, into }: BuiltChange) => action === 'add' && into === BESIDE_THE_GAME;
  for (const change of changes.filter(isNewFile)) await newFile(gameId, change, groups);
  const winners = await findWinners(
    gameId,
    changes.map(({ path }) => path),
  );
  const archives = new Map<string | undefined, number>();
  for (const { path, blob, size = 0, fileName = path, loop, action, into } of changes.filter(
    (change) => !isNewFile(change),
  )) {
    if (action === 'add') {
      if (winners.has(path)) throw thereAlready(path);
      const archive = archives.get(into) ?? (await archiveFor(gameId, path, into));
      archives.set(into, archive);
      (await groups.of(archive)).add.push({ path, blob, size, fileName });
    } else if (action === 'remove')
      for (const { archive, n } of await holdersOf(gameId, path, groups, ways))
        (await groups.of(archive)).remove.add(n);
    else {
      const { archive, n } = winners.get(path) ?? (await findWinner(gameId, path));
      (await groups.of(archive)).replace.push({ n, blob, size, fileName, loop });
    }
  }
  return groups;
}

/** A file of its own next to the game; one that is an archive is built with what changes in it. */
async function newFile(gameId: number, { path, blob, size = 0 }: BuiltChange, groups: Groups): Promise<void> {
  const { renamed } = new SafePaths().clean(path);
  if (renamed !== undefined)
    throw new FaultError({ code: 'not-allowed', entry: path, what: `no file is written there: ${renamed}` });
  if (await isOfTheGame(gameId, path))
    throw new FaultError({
      code: 'conflict',
      entry: path,
      what: 'the game has a file of that name by now',
      hint: 'Undo the new file, and change the one that is there.',
    });
  const archive = await ArchiveModel.findOne({ where: { gameId, path, state: 'open', parentId: null } });
  if (archive === null) groups.files.push({ name: path, size, sha256: blob });
  else await groups.of(archive.id, { isNew: true });
}

const thereAlready = (path: string) =>
  new FaultError({
    code: 'conflict',
    entry: path,
    what: 'the game has an entry of that name by now',
    hint: 'Undo the new entry, and replace the one that is there.',
  });

async function archiveFor(gameId: number, path: string, into: string | undefined): Promise<number> {
  const archive = await ArchiveModel.findOne({ where: { gameId, path: into ?? '', state: 'open' } });
  if (archive !== null) return archive.id;
  throw new FaultError({
    code: 'conflict',
    entry: path,
    ...(into === undefined ? {} : { file: into }),
    what: 'the archive a new entry is to go into is not open',
    hint: 'Scan the folder again, or choose another archive.',
  });
}

/** A patch says of the one that wins that it is gone; otherwise what it covers would be seen again. */
async function holdersOf(
  gameId: number,
  path: string,
  groups: Groups,
  ways: BuildWays,
): Promise<{ archive: number; n: number }[]> {
  const winner = await findWinner(gameId, path);
  const { file } = await groups.of(winner.archive);
  if (wayOf(ways, file) === 'patch') return [winner];
  const rows = await database().query<{ archive: number; n: number }>(
    `select archive_id as archive, n from entries where game_id = :gameId and path = :path and not deleted`,
    { replacements: { gameId, path }, type: QueryTypes.SELECT },
  );
  return rows.length > 0 ? rows : [winner];
}
