/** The mods of a game, what they change, and which of several holds. */
import { readFile } from 'node:fs/promises';
import { QueryTypes } from 'sequelize';
import sharp from 'sharp';
import { FaultError, sayFault } from '../../core/faults';
import { ChangeModel, database, ModModel } from '../database';
import { settleNewFiles } from '../games';
import { resultOf } from '../runs';
import type { ChangeAction, ChangeStatus, ModEdit, ModsAnswer } from '../shapes';
import { blobPath, keepBlob } from '../storage';

/** Who a person's own changes are by, where mods change the same. */
const OWN = 'you';
/** Changes of a mod that are listed. */
const LISTED = 200;
const PICTURE = { width: 960, height: 600 } as const;
const MOST_PICTURE_BYTES = 32 << 20;

interface Row {
  readonly mod_id: number | null;
  readonly path: string;
  readonly action: ChangeAction;
  readonly status: ChangeStatus;
  readonly undone: boolean;
}

export async function listMods(gameId: number): Promise<ModsAnswer> {
  const mods = await ModModel.findAll({ where: { gameId }, order: [['position', 'ASC']] });
  if (mods.length === 0) return { mods: [], conflicts: [] };
  const rows = await database().query<Row>(
    `select mod_id, path, action, status, undone from changes
     where game_id = :gameId and (mod_id is not null or not undone) order by path`,
    { replacements: { gameId }, type: QueryTypes.SELECT },
  );
  const names = new Map(mods.map(({ id, name }) => [id, name]));
  const places = new Map(mods.map(({ id, position }) => [id, position]));
  const byPath = new Map<string, Row[]>();
  for (const row of rows) if (!row.undone) byPath.set(row.path, [...(byPath.get(row.path) ?? []), row]);
  const place = ({ mod_id: id }: Row) => (id === null ? Infinity : places.get(id)!);
  const conflicts = [...byPath].flatMap(([path, of]) => {
    if (of.length < 2) return [];
    const by = of.toSorted((a, b) => place(a) - place(b)).map(({ mod_id: id }) => (id === null ? OWN : names.get(id)!));
    return [{ path, by, holds: by.at(-1)! }];
  });
  return {
    mods: mods.map(({ id, name, version, author, notes, licence, picture, madeFor, enabled, leftOut }) => {
      const own = rows.filter((row) => row.mod_id === id);
      return {
        ...{ id, name, version, author, notes, licence, enabled, leftOut: leftOut.map((fault) => sayFault(fault)) },
        hasPicture: picture !== null,
        madeFor: madeFor ?? null,
        total: own.length,
        changes: own.slice(0, LISTED).map(({ path, action, status }) => ({ path, action, status })),
      };
    }),
    conflicts,
  };
}

/** Turns a mod on or off, or moves it among the others. @throws FaultError `not-found` */
export async function editMod(gameId: number, id: number, { enabled, move }: ModEdit): Promise<ModsAnswer> {
  await database().transaction(async (transaction) => {
    const mods = await ModModel.findAll({ where: { gameId }, order: [['position', 'ASC']], transaction });
    const at = mods.findIndex((mod) => mod.id === id);
    if (at < 0) throw new FaultError({ code: 'not-found', what: 'there is no such mod' });
    if (enabled !== undefined) {
      await mods[at]!.update({ enabled }, { transaction });
      await ChangeModel.update({ undone: !enabled }, { where: { gameId, modId: id }, transaction });
    }
    const other = mods[at + (move === 'later' ? 1 : -1)];
    if (move !== undefined && other !== undefined) {
      const [mine, theirs] = [mods[at]!.position, other.position];
      await mods[at]!.update({ position: theirs }, { transaction });
      await other.update({ position: mine }, { transaction });
    }
  });
  await settleNewFiles(gameId);
  return listMods(gameId);
}

export async function removeMod(gameId: number, id: number): Promise<ModsAnswer> {
  await ModModel.destroy({ where: { gameId, id } });
  await settleNewFiles(gameId);
  return listMods(gameId);
}

export async function modPicture(
  gameId: number,
  id: number,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const mod = await ModModel.findOne({ where: { gameId, id } });
  if (mod?.picture == null) throw new FaultError({ code: 'not-found', what: 'the mod has no picture' });
  return { bytes: await readFile(blobPath(mod.picture)), mime: 'image/png', path: 'picture.png' };
}

/** Keeps a picture for a mod file as PNG. @throws FaultError `wrong-kind` */
export async function keepPicture(bytes: AsyncIterable<Uint8Array>): Promise<{ picture: string }> {
  const given = await keepBlob(bytes, { maxBytes: MOST_PICTURE_BYTES });
  const png = await sharp(blobPath(given.sha256))
    .resize(PICTURE.width, PICTURE.height, { fit: 'inside', withoutEnlargement: true })
    .png()
    .toBuffer()
    .catch((error: unknown) => {
      throw new FaultError({ code: 'wrong-kind', what: 'the picture cannot be read', found: (error as Error).message });
    });
  const { sha256 } = await keepBlob(
    (async function* () {
      yield png;
    })(),
  );
  return { picture: sha256 };
}

/** The mod file that a run made. @throws FaultError `not-found` */
export async function sharedFile(gameId: number, runId: number): Promise<{ file: string; name: string }> {
  const { file, name } = await resultOf('share', gameId, runId);
  return { file: blobPath(file), name };
}
