import { z } from 'zod';
import { MESH_OUT, type MeshOut } from '../../../../../../../../../src/core/forms/mesh/out-formats';
import { PICTURE_OUT } from '../../../../../../../../../src/core/forms/picture/out-formats';
import { entryMeshAs } from '../../../../../../../../../src/server/entries';
import { pictureFileAs } from '../../../../../../../../../src/server/forms';
import { requireArchive } from '../../../../../../../../../src/server/games';
import { answerBytes, numberParam } from '../../../../../../../../../src/server/http';

type Context = { params: Promise<{ game: string; archive: string; n: string; format: string }> };

const format = z.enum([...PICTURE_OUT, ...MESH_OUT]);

const isMeshOut = (as: string): as is MeshOut => (MESH_OUT as readonly string[]).includes(as);

export const GET = (request: Request, { params }: Context) =>
  answerBytes(request, async () => {
    const given = await params;
    const gameId = numberParam(given.game, 'game');
    const row = await requireArchive(gameId, numberParam(given.archive, 'archive'));
    const n = numberParam(given.n, 'entry');
    const as = format.parse(given.format);
    return isMeshOut(as)
      ? entryMeshAs(gameId, row.id, n, { as, clips: true, textures: 'inside' }, request.signal)
      : pictureFileAs(row.id, n, as, request.signal);
  });
