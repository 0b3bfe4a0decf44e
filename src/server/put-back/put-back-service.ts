import type { z } from 'zod';
import { FaultError } from '../../core/faults';
import { SafePaths } from '../../core/game';
import { BuildModel, InstallModel } from '../database';
import { proofAnswer, requireGame, installedFileStatus } from '../games';
import type { PutBackAnswer, sceneQuery } from '../shapes';
import { readBlob } from '../storage';
import { buildChanges, firstChanges } from './build-changes';
import type { TestReport } from './test-report';
import { waysOf } from './estimate-run';
import { howRead } from './how-read';

/** Builds and installs of a game, the newest first. */
export async function putBackAnswer(gameId: number): Promise<PutBackAnswer> {
  const game = await requireGame(gameId);
  const builds = await BuildModel.findAll({
    where: { gameId },
    order: [['number', 'DESC']],
    limit: 50,
  });
  const first = await firstChanges(builds.map((build) => build.id));
  const installs = await InstallModel.findAll({ where: { gameId }, order: [['id', 'DESC']], limit: 20 });
  const numbers = new Map(builds.map((build) => [build.id, build.number]));
  const before = builds
    .map((build) => (build.report as TestReport | null)?.before)
    .find((scene) => scene !== undefined);
  return {
    before: before ?? null,
    builds: builds.map((build) => ({
      id: build.id,
      number: build.number,
      how: build.how,
      archives: build.archives,
      files: build.files,
      changes: build.changeCount,
      first: first.get(build.id) ?? [],
      proof: proofAnswer(build.proof),
      report: build.report,
      createdAt: build.createdAt.toISOString(),
    })),
    ...(await waysOf(game)),
    reads: await howRead(game),
    installs: await Promise.all(
      installs.map(async (install) => ({
        id: install.id,
        build: numbers.get(install.buildId) ?? 0,
        state: install.state,
        files: install.files.length,
        kept: install.files.filter((file) => file.original !== null).length,
        putInAt: install.putInAt.toISOString(),
        takenOutAt: install.takenOutAt?.toISOString() ?? null,
        leftAlone: install.leftAlone,
        seen:
          install.state === 'in'
            ? await Promise.all(
                install.files.map(async (file) => ({
                  name: file.name,
                  is: await installedFileStatus(game.folder, file),
                })),
              )
            : null,
      })),
    ),
  };
}

/** All that is known of a build, to be kept as a file. @throws FaultError `not-found` */
export async function buildReport(gameId: number, id: number): Promise<{ name: string; report: object }> {
  const game = await requireGame(gameId);
  const build = await BuildModel.findOne({ where: { gameId, id } });
  if (build === null) throw new FaultError({ code: 'not-found', what: 'there is no such build' });
  const { number, how, archives, files, proof, report, createdAt } = build;
  const changes = await buildChanges(id);
  return {
    name: `${new SafePaths().clean(game.name).path}-build-${number}.json`,
    report: {
      ...{ game: game.name, gameBuild: game.build, build: number, how, archives, createdAt, files },
      changes: changes.filter(({ beside }) => beside !== true),
      ...{ proof: proofAnswer(proof), report },
    },
  };
}

/** A picture or sound that the stand-in game showed, with the build or before it: of the scene, or of a changed entry. */
export async function sceneBytes(
  gameId: number,
  buildId: number,
  { when, what }: z.output<typeof sceneQuery>,
): Promise<{ bytes: Uint8Array; mime: string; path: string }> {
  const build = await BuildModel.findOne({ where: { gameId, id: buildId } });
  const report = build?.report as TestReport | null | undefined;
  const scene = when === 'after' ? report?.scene : report?.before;
  const shown = typeof what === 'number' ? report?.shown?.[what] : undefined;
  if (what === 'film' || what === 'film-sound') {
    const film = when === 'after' ? report?.film : report?.beforeFilm;
    if (film == null) throw new FaultError({ code: 'not-found', what: 'there is no film of that build' });
    return what === 'film'
      ? { bytes: await readBlob(film.pictureBlob), mime: 'image/webp', path: 'film.webp' }
      : { bytes: await readBlob(film.soundBlob), mime: 'audio/wav', path: 'film.wav' };
  }
  const picture = what === 'picture' || shown?.kind === 'picture';
  const blob =
    typeof what === 'number'
      ? shown?.[when === 'after' ? 'blob' : 'before']
      : scene?.[picture ? 'pictureBlob' : 'soundBlob'];
  if (blob === undefined) throw new FaultError({ code: 'not-found', what: 'there is no such scene' });
  return {
    bytes: await readBlob(blob),
    mime: picture ? 'image/png' : 'audio/wav',
    path: picture ? 'scene.png' : 'scene.wav',
  };
}
