/** Rows of entries that point nowhere. */
import type { Fault } from '../../faults';
import { entryFault } from './entry-bytes';
import type { OpenedArchive } from './opened-archive';

/** At most this many complaints of one kind are kept; the rest are counted. */
const MAX_COMPLAINTS = 20;

/** Rows that point nowhere, or to bytes no one can unpack. */
export function pointerComplaints(archive: OpenedArchive): Fault[] {
  const { entries, recipe, source } = archive;
  const complaints: Fault[] = [];
  let more = 0;
  for (let i = 0; i < entries.count; i++) {
    // The rows that are damaged have been reported with their formulas.
    if (isPlainlyFine(archive, i) || entries.damage(i) !== undefined) continue;
    const fault = entryFault(archive, i);
    if (fault === undefined) continue;
    if (complaints.length >= MAX_COMPLAINTS) more++;
    else complaints.push({ file: source.name, recipe: recipe.id, ...fault });
  }
  if (more > 0)
    complaints.push({
      code: 'outside-file',
      file: source.name,
      recipe: recipe.id,
      what: `${more.toLocaleString('en')} more entries cannot be read for the same reasons`,
    });
  return complaints;
}

/** The common case without making an object: a million entries are looked at. */
function isPlainlyFine({ entries, volumes, recipe, dataSpace }: OpenedArchive, i: number): boolean {
  const container = dataSpace ?? volumes[entries.volume(i)]?.source;
  if (recipe.entries.blocks?.at !== undefined) return false;
  const inside = container !== undefined && entries.at(i) + entries.stored(i) <= container.size;
  return inside && recipe.entries.stepsOf(entries.method(i) ?? 0) !== undefined;
}
