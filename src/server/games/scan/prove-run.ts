/** Proving the recipes on the archives of a game, after a scan and behind everything else. */
import { Op } from 'sequelize';
import { LOOSE_RECIPE } from '../../../core/carve';
import type { ByteSource } from '../../../core/bytes';
import { fileScratch } from '../../../core/bytes/node';
import { faultOf, sayFault, throwIfStopped } from '../../../core/faults';
import { prove, type Archive } from '../../../core/recipe';
import { ArchiveModel } from '../../database';
import type { RunContext } from '../../runs/run-context';
import { backgroundSource } from '../../runs';
import type { RunResult } from '../../shapes';
import { bytesOf, withArchive } from '../archive-access';

/** Plain bytes that are changed and read again for the fourth number, in each archive. */
const CHANGED_BYTES = 256 << 20;

/** The archive over {@link backgroundSource}. Equal sources stay equal: the proof compares pieces by their source. */
function withBackgroundReads(archive: Archive): Archive {
  const known = new Map<ByteSource, ByteSource>();
  const slow = (source: ByteSource): ByteSource => {
    const made = known.get(source) ?? backgroundSource(source);
    known.set(source, made);
    return made;
  };
  return {
    ...archive,
    source: slow(archive.source),
    outer: slow(archive.outer),
    volumes: archive.volumes.map((volume) => ({ ...volume, source: slow(volume.source) })),
    dataSpace: archive.dataSpace && slow(archive.dataSpace),
  };
}

export async function proveRun({ gameId, signal, progress, log }: RunContext<'prove'>): Promise<RunResult<'prove'>> {
  const rows = await ArchiveModel.findAll({
    where: { gameId, state: ['open', 'damaged'], proof: null, recipe: { [Op.ne]: LOOSE_RECIPE } },
    order: [['position', 'ASC']],
  });
  const open = rows.filter((row) => row.recipe !== null && row.entryCount > 0);
  const total = open.reduce((sum, row) => sum + bytesOf(row), 0);
  let done = 0;
  let proven = 0;
  for (const row of open) {
    throwIfStopped(signal);
    const own = bytesOf(row);
    const scratch = fileScratch();
    try {
      const proof = await withArchive(row.id, (archive) =>
        prove(withBackgroundReads(archive), {
          scratch,
          signal,
          maxChangedBytes: CHANGED_BYTES,
          progress: (part, of) => progress(done + Math.floor((own * part) / Math.max(1, of)), total, 'bytes'),
        }),
      );
      // An archive that has changed meanwhile is not what was proven.
      const { id, fingerprint, recipe } = row;
      await ArchiveModel.update({ proof }, { where: { id, fingerprint: fingerprint ?? null, recipe } });
      proven++;
    } catch (error) {
      if (signal.aborted) throw error;
      log(sayFault(faultOf(error, row.path)));
    } finally {
      await scratch.release();
    }
    done += own;
    progress(done, total, 'bytes');
  }
  return { proven };
}
