/** The strip of an archive: its bytes as bands, few enough to draw. */
import { kindOf, declaredKind, type Kind } from '../../core/game';
import { archiveFiles, explainedBytes, type Archive, type Recipe } from '../../core/recipe';
import { kindsByEnding } from '../recipes';
import type { StripBand } from '../shapes';

/** More bands than this are joined cell by cell: a screen has no more pixels to distinguish them. */
const MAX_BANDS = 640;

/** An archive that cannot be read: what can be seen from outside, and the rest locked or unexplained. */
export function lockedBands(size: number, recipe: Recipe | undefined): StripBand[] {
  if (recipe === undefined) return [{ at: 0, length: size, what: 'unexplained' }];
  const head = recipe.regions.find((region) => region.fixedAt === 0 && typeof region.holds === 'object');
  const headBytes =
    head === undefined || typeof head.holds !== 'object'
      ? 0
      : Math.min(size, head.holds.fixedSize ?? head.holds.minSize);
  return [
    { at: 0, length: headBytes, what: 'region', name: head?.name ?? 'head' },
    { at: headBytes, length: size - headBytes, what: 'locked' },
  ].filter((band) => band.length > 0) as StripBand[];
}

/**
 * All files of the archive, one after the other.
 *
 * @param byContent kinds of entries whose names say nothing
 */
export async function bandsOf(
  gameId: number,
  archive: Archive,
  signal: AbortSignal,
  byContent?: ReadonlyMap<number, Kind>,
): Promise<StripBand[]> {
  const { entries } = archive;
  const declared = declaredKind(archive.recipe);
  const endings = await kindsByEnding(gameId);
  const kindAt = (path: string) => endings.get(path.slice(path.lastIndexOf('.') + 1).toLowerCase()) ?? kindOf(path);
  const volumes = archiveFiles(archive);
  const bands: StripBand[] = [];
  const starts: number[] = [];
  let size = 0;
  for (const { source } of volumes) {
    starts.push(size);
    size += source.size;
  }
  for (const { region, at, length, volume } of archive.regions.values())
    if (volume < volumes.length) bands.push({ at: starts[volume]! + at, length, what: 'region', name: region.name });
  // Entries in unlocked bytes have no place in the file.
  const count = archive.dataSpace === undefined ? entries.count : 0;
  for (let n = 0; n < count; n++) {
    const volume = entries.volume(n);
    const length = entries.stored(n);
    if (volume < 0 || !(length > 0) || entries.at(n) + length > volumes[volume]!.source.size) continue;
    bands.push({
      at: starts[volume]! + entries.at(n),
      length,
      what: declared ?? byContent?.get(n) ?? kindAt(entries.path(n)),
    });
  }
  for (const [volume, explained] of (await explainedBytes(archive, signal)).slice(0, volumes.length).entries())
    for (const { at, length } of explained.missing(volumes[volume]!.source.size))
      bands.push({ at: starts[volume]! + at, length, what: 'unexplained' });
  bands.sort((a, b) => a.at - b.at);
  return cells(joined(bands), size);
}

/** Neighbours of one kind as one band; the fill between them belongs to it. */
function joined(bands: readonly StripBand[]): StripBand[] {
  const result: StripBand[] = [];
  for (const band of bands) {
    const last = result.at(-1);
    const together =
      last !== undefined &&
      last.what === band.what &&
      last.name === band.name &&
      band.at - (last.at + last.length) < 4096;
    if (together)
      result[result.length - 1] = { ...last, length: Math.max(last.length, band.at + band.length - last.at) };
    else result.push(band);
  }
  return result;
}

/** Equal cells, each with what most of its bytes are. */
function cells(bands: StripBand[], size: number): StripBand[] {
  if (bands.length <= MAX_BANDS) return bands;
  const width = size / MAX_BANDS;
  const most = Array.from({ length: MAX_BANDS }, () => ({ bytes: 0, band: undefined as StripBand | undefined }));
  for (const band of bands) {
    for (let cell = Math.floor(band.at / width); cell < MAX_BANDS && cell * width < band.at + band.length; cell++) {
      const bytes = Math.min(band.at + band.length, (cell + 1) * width) - Math.max(band.at, cell * width);
      if (bytes > most[cell]!.bytes) most[cell] = { bytes, band };
    }
  }
  return joined(
    most.flatMap(({ band }, cell) =>
      band === undefined ? [] : [{ ...band, at: Math.round(cell * width), length: Math.ceil(width) }],
    ),
  );
}
