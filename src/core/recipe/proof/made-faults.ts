/** Whether the entries whose content follows from the others hold what they have to. */
import { collect } from '../../bytes';
import { FaultError, hexBytes, type Fault } from '../../faults';
import type { OpenedArchive } from '../read/opened-archive';
import { readEntry } from '../read/entry-bytes';
import { madeContent, madeEntry } from '../write/edits/made';

/** Entries whose content does not follow from the others as the recipe says. */
export async function madeFaults(archive: OpenedArchive, signal: AbortSignal | undefined): Promise<Fault[]> {
  const faults: Fault[] = [];
  for (const rule of archive.recipe.entries.made) {
    const entry = madeEntry(archive, rule);
    if (entry < 0 || archive.entries.damage(entry) !== undefined) continue;
    const place = { file: archive.source.name, recipe: archive.recipe.id, line: rule.line, entry: rule.path };
    let wanted: Uint8Array;
    let found: Uint8Array;
    try {
      wanted = await madeContent(archive, rule, signal);
      found = await collect(readEntry(archive, entry, { signal }));
    } catch (error) {
      if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
      faults.push({ ...place, ...error.fault });
      continue;
    }
    if (Buffer.compare(wanted, found) === 0) continue;
    const at = wanted.findIndex((byte, i) => byte !== found[i]);
    const from = at < 0 ? wanted.length : at;
    faults.push({
      ...place,
      code: 'must-differs',
      what: 'the content of an entry does not follow from the others',
      expected: `${hexBytes(wanted.subarray(from), 16)} at byte ${from.toLocaleString('en')} of it`,
      found: hexBytes(found.subarray(from), 16),
    });
  }
  return faults;
}
