/** Where the rows of a hashed table go: new ones into the first free slot of their search, all of them again when it grows. */
import { FormatError } from '../../../faults';
import { probes, type SlotRow } from '../../read/slots';

export interface SlotItem {
  /** The slot it was found in; -1 for a new row. */
  readonly found: number;
  readonly row: SlotRow;
}

export interface SlotSetting {
  /** How many slots were found. */
  readonly count: number;
  /** Used rows that were found are gone. */
  readonly loses: boolean;
  /** The most slots of a hundred that may be used before there are twice as many. */
  readonly full: number;
}

/**
 * @returns for each slot of the new table the index of its item, or -1 where another unused row is
 * @throws FormatError `layout-impossible` when a row finds no slot
 */
export function placeInSlots(items: readonly SlotItem[], { count, loses, full }: SlotSetting): Int32Array {
  const used = items.flatMap(({ row }, i) => (row.state === 'used' ? [i] : []));
  const fits = (slots: number) => used.length * 100 <= slots * full && used.length < Math.max(2, slots);
  if (!loses && fits(count)) {
    const slots = new Int32Array(count).fill(-1);
    for (const [i, { found }] of items.entries()) if (found >= 0) slots[found] = i;
    for (const i of used) if (items[i]!.found < 0) put(slots, i);
    return slots;
  }
  let size = Math.max(1, count);
  while (!fits(size)) size *= 2;
  const slots = new Int32Array(size).fill(-1);
  for (const i of used) put(slots, i);
  return slots;

  /** Into the first slot of its search that holds no used row. */
  function put(slots: Int32Array, item: number): void {
    for (const slot of probes(items[item]!.row, slots.length)) {
      const other = slots[slot]!;
      if (other >= 0 && items[other]!.row.state === 'used') continue;
      slots[slot] = item;
      return;
    }
    throw new FormatError({
      code: 'layout-impossible',
      what: 'a new row finds no free slot in its table',
      hint: 'State a smaller `full` in `slots`, or a `step` that reaches every slot.',
    });
  }
}
