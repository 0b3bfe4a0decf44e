/** What the counters sell, as packages with the time they were made. */
import type { StockPackage } from '../archives/stock';
import { randomFor } from './random';
import { parcel } from './words';

const DAY = 86_400_000;

/** @param built when the build was made, in milliseconds since 1970 */
export function stock(built: number): StockPackage[] {
  return Array.from({ length: 40 }, (_, i) => {
    const name = `stock/shelf_${String(i + 1).padStart(2, '0')}.json`;
    const random = randomFor(name);
    const items = Array.from({ length: random.whole(1, 12) }, (_, k) => parcel(k, random).trimEnd());
    return { path: name, bytes: Buffer.from(`[\n${items.join(',\n')}\n]\n`), time: built - random.whole(0, 90) * DAY };
  });
}
