/** Pools whose texts lie in the order of the rows that point at them, each once: they must be found so again. */
import { isPool, type PoolValue } from '../../formula/value';
import { checkFormulas } from '../../proof/formula-check';
import type { OpenedArchive } from '../../read/opened-archive';
import type { Edits } from '../edits/edits';

/**
 * @returns the keys of such pools: `region N`. Only those of regions are looked at, and only where rows come or go.
 */
export async function orderedPools(archive: OpenedArchive, edits: Edits): Promise<ReadonlySet<string>> {
  const pools = new Map<string, PoolValue>();
  if (edits.add.length === 0 && edits.remove.size === 0) return new Set();
  for (const [index, { region, column }] of archive.regions) {
    if (typeof region.holds !== 'object' || region.holds.type.kind !== 'pool') continue;
    const pool = column?.get(0);
    if (isPool(pool)) pools.set(`region ${index}`, pool);
  }
  if (pools.size === 0) return new Set();
  for (const pool of pools.values()) pool.watch();
  // Comparing all formulas asks for the place of every text, in the order of the rows.
  await checkFormulas(archive, { deep: false });
  return new Set([...pools].filter(([, pool]) => pool.wasInOrder()).map(([key]) => key));
}
