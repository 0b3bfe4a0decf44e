/** Entries at a glance: the size of a picture, the outline of a sound, the first lines of a text. */
import sharp from 'sharp';
import { readWavFacts, saySound, sayWav, secondsOf, soundPeaks, wavPeaks } from '../../core/forms/sound';
import { trianglesOf } from '../../core/forms/mesh';
import { kindOf, declaredKind } from '../../core/game';
import { filmFacts } from '../films';
import { ArchiveModel } from '../database';
import {
  clipOfFile,
  isMeshFile,
  isPackedPicture,
  meshOfFile,
  pictureOfEntry,
  soundOfEntry,
  formOfBytes,
  type ServerForm,
} from '../forms';
import { formRecipeOf } from '../recipes';
import { pathInGameOf, withArchive } from '../games';
import type { Glance } from '../shapes';
import { entryHead, isWave, kept, winnerBytes } from '../content';
import { pictureFacts } from './entry-form';

/** Larger entries are not unpacked for a glance. */
const MOST_BYTES = 16 << 20;
const CELLS = 48;
const LINES = 5;
const LINE_CHARACTERS = 42;
const AT_ONCE = 4;

/** @returns a glance of each entry, in order; `nothing` where there is nothing to say, or it cannot be read */
export async function glancesAt(entries: readonly (readonly [archive: number, n: number])[]): Promise<Glance[]> {
  const glances: Glance[] = [];
  for (let from = 0; from < entries.length; from += AT_ONCE) {
    const part = entries.slice(from, from + AT_ONCE);
    glances.push(...(await Promise.all(part.map(([archive, n]) => glanceAt(archive, n).catch(() => NOTHING)))));
  }
  return glances;
}

const NOTHING: Glance = { is: 'nothing' };

async function glanceAt(archiveId: number, n: number): Promise<Glance> {
  const { kind, told, form, size, head } = await withArchive(archiveId, async (archive) => {
    const path = archive.entries.path(n);
    const first = archive.entries.isDeleted(n) ? new Uint8Array(0) : await entryHead(archive, n);
    const packed = !archive.entries.isDeleted(n) && (await isPackedPicture(first, path));
    const mesh = !archive.entries.isDeleted(n) && (await isMeshFile(first, path));
    const isOwnSound = !packed && !mesh && (await formRecipeOf(first, path, 'sound')) !== undefined;
    const told = isOwnSound || archive.recipe.entries.sound !== undefined;
    const form = archive.entries.isDeleted(n) ? undefined : await formOfBytes(first, path);
    return {
      // A packet of a film is seen as what it holds.
      kind:
        (archive.recipe.entries.film === undefined ? declaredKind(archive.recipe) : undefined) ??
        (packed ? 'picture' : mesh ? 'mesh' : isOwnSound ? 'sound' : kindOf(path, first)),
      told,
      form,
      size: archive.entries.size(n),
      head: first,
    };
  });
  if (form !== undefined) return size > MOST_BYTES ? NOTHING : formGlance(form, archiveId, n);
  if (kind === 'words' || kind === 'records') return { is: 'text', lines: firstLines(head) };
  if (kind === 'film') return { is: 'film', seconds: (await filmFacts(archiveId, n)).seconds };
  if (size > MOST_BYTES || (kind !== 'picture' && kind !== 'sound' && kind !== 'mesh')) return NOTHING;
  const json = await kept(archiveId, n, 'json', async ({ bytes, path }) =>
    Buffer.from(
      JSON.stringify(
        kind === 'mesh'
          ? await meshGlance(bytes, path)
          : kind === 'picture'
            ? await pictureGlance(bytes, archiveId, n)
            : told
              ? await toldGlance(archiveId, n)
              : soundGlance(bytes, path),
      ),
    ),
  );
  return JSON.parse(Buffer.from(json).toString()) as Glance;
}

async function formGlance(form: ServerForm, archiveId: number, n: number): Promise<Glance> {
  const says = await kept(archiveId, n, 'glance.txt', async ({ bytes }) => {
    const [path, archive] = await Promise.all([pathInGameOf(archiveId, n), ArchiveModel.findByPk(archiveId)]);
    const { gameId } = archive!;
    return Buffer.from(await form.glance({ gameId, path, bytes, beside: (other) => winnerBytes(gameId, other) }));
  });
  return { is: 'drawn', says: Buffer.from(says).toString() };
}

function firstLines(head: Uint8Array): string[] {
  const text = new TextDecoder('utf-8').decode(head).replace(/\ufffd+$/, '');
  return text
    .split(/\r?\n/)
    .slice(0, LINES)
    .map((line) => line.slice(0, LINE_CHARACTERS));
}

async function pictureGlance(bytes: Uint8Array, archiveId: number, n: number): Promise<Glance> {
  const raster = await sharp(bytes)
    .metadata()
    .catch(() => undefined);
  if (raster === undefined) {
    const { width, height, packing } = await pictureFacts(await pictureOfEntry(archiveId, n));
    return { is: 'picture', width, height, packing };
  }
  const { width, height, format, hasAlpha } = raster;
  return { is: 'picture', width, height, packing: `${format.toUpperCase()}${hasAlpha ? ' with alpha' : ''}` };
}

/** Of a clip nothing is counted: it is shown as the mesh it moves. */
async function meshGlance(bytes: Uint8Array, path: string): Promise<Glance> {
  if ((await clipOfFile({ path, bytes })) !== undefined) return { is: 'mesh', triangles: 0 };
  const { mesh } = await meshOfFile({ path, bytes });
  return { is: 'mesh', triangles: trianglesOf(mesh.levels[0]!) };
}

function soundGlance(bytes: Uint8Array, path: string): Glance {
  if (!isWave(bytes)) return NOTHING;
  const facts = readWavFacts(bytes, path);
  const peaks = wavPeaks(bytes, path, CELLS)?.map((peak) => Math.round(peak * 100) / 100) ?? null;
  return { is: 'sound', seconds: facts.seconds, peaks, says: sayWav(facts) };
}

/** Of a sound whose archive says what it is. */
async function toldGlance(archiveId: number, n: number): Promise<Glance> {
  const { format, sound } = await soundOfEntry(archiveId, n);
  const peaks = soundPeaks(sound, CELLS).map((peak) => Math.round(peak * 100) / 100);
  return { is: 'sound', seconds: secondsOf(sound), peaks, says: saySound(format) };
}
