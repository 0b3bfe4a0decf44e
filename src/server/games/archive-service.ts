/** Archives as the page sees them: those of the folder with the game, those inside them when they are asked for. */
import { Op, QueryTypes } from 'sequelize';
import { FOUND_RECIPE, LOOSE_RECIPE } from '../../core/carve';
import { FaultError } from '../../core/faults';
import { ArchiveModel, database } from '../database';
import { startRun } from '../runs';
import { faultAnswer } from '../runs/run-service';
import type { ArchiveAnswer, InsideAnswer, RunAnswer } from '../shapes';
import { bytesOf, requireArchive } from './archive-access';
import { proofAnswer } from './proof-answer';

/** Archives of the game's folder, in the order they load; loose files are none. */
export async function archivesOf(gameId: number): Promise<ArchiveAnswer[]> {
  const rows = await ArchiveModel.findAll({
    where: { gameId, parentId: null, recipe: { [Op.or]: [null, { [Op.ne]: LOOSE_RECIPE }] } },
    order: [
      ['position', 'ASC'],
      ['path', 'ASC'],
    ],
  });
  const inside = await database().query<{ id: number; count: number }>(
    'select parent_id as id, count(*)::int as count from archives where game_id = :gameId and parent_id is not null group by 1',
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  const counts = new Map(inside.map(({ id, count }) => [id, count]));
  return rows.map((row) => archiveAnswer(row, counts.get(row.id) ?? 0));
}

/** One archive, wherever it lies. */
export async function archiveOf(gameId: number, id: number): Promise<ArchiveAnswer> {
  const row = await requireArchive(gameId, id);
  return archiveAnswer(row, await ArchiveModel.count({ where: { parentId: id } }));
}

function archiveAnswer(archive: ArchiveModel, inside: number): ArchiveAnswer {
  return {
    id: archive.id,
    path: archive.path,
    title: archive.title,
    state: archive.state,
    slots: archive.slots,
    fault: faultAnswer(archive.fault),
    size: bytesOf(archive),
    volumes: archive.volumes.map(({ name, size }) => ({ name, size })),
    entryCount: archive.entryCount,
    proof: proofAnswer(archive.proof),
    bands: archive.bands,
    fits: archive.fits,
    // What was found is read with a recipe of ours, which is nothing a person could choose.
    recipe: archive.recipe === FOUND_RECIPE || archive.recipe === LOOSE_RECIPE ? null : archive.recipe,
    found:
      archive.found === null || archive.found === undefined
        ? null
        : { kinds: archive.found.kinds, randomness: archive.found.randomness },
    parent: archive.parentId ?? null,
    inside,
    hashed: archive.hashed,
    named: archive.namedCount,
    covers: archive.covers,
    removes: archive.removes,
    news: archive.news ?? null,
  };
}

/** @throws FaultError `conflict` when a recipe knows the file */
export async function findInside(gameId: number, id: number): Promise<RunAnswer> {
  const row = await requireArchive(gameId, id);
  if (row.state !== 'unknown')
    throw new FaultError({ code: 'conflict', file: row.path, what: 'a recipe knows this file' });
  return startRun('find-inside', { title: `Looking for hidden files in ${row.path}`, gameId, input: { archive: id } });
}

const MOST_INSIDE = 500;

/** The archives right inside another, each with a picture to know it by: one called a thumbnail, else its first. */
export async function archivesInside(gameId: number, id: number): Promise<InsideAnswer> {
  await requireArchive(gameId, id);
  const where = { gameId, parentId: id };
  const total = await ArchiveModel.count({ where });
  const rows = await ArchiveModel.findAll({ where, order: [['path', 'ASC']], limit: MOST_INSIDE });
  const pictures = await database().query<{ archive: number; n: number }>(
    `select distinct on (archive_id) archive_id as archive, n from entries
     where archive_id = any(array[:ids]::int[]) and kind = 'picture'
     order by archive_id, (name ~* 'thumb|icon|preview|cover') desc, n`,
    { replacements: { ids: rows.length === 0 ? [0] : rows.map((row) => row.id) }, type: QueryTypes.SELECT },
  );
  return {
    total,
    rows: rows.map((row) => ({
      id: row.id,
      path: row.path,
      name: row.path.slice(row.path.lastIndexOf('/') + 1),
      state: row.state,
      fault: faultAnswer(row.fault),
      size: row.size,
      entryCount: row.entryCount,
      picture: pictures.find(({ archive }) => archive === row.id) ?? null,
    })),
  };
}
