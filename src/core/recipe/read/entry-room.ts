/** Where anything starts in the volumes: what an entry without a length of its own ends at. */
import type { EntrySetting } from './entry-setting';

interface Starts {
  /** Offsets at which anything starts, ascending. */
  readonly starts: Float64Array;
  /** The last entry that starts at an offset; -1 for a region. */
  readonly lasts: ReadonlyMap<number, number>;
}

export class EntryRoom {
  private readonly order: readonly Starts[] | undefined;

  /**
   * @param ats offsets of the entries, `volumes` the places of their volumes
   * @param sorted whether rows have no lengths, so that the starts of others count
   */
  constructor(
    private readonly setting: EntrySetting,
    private readonly ats: Float64Array,
    private readonly volumes: Int32Array,
    sorted: boolean,
  ) {
    if (!sorted) return;
    this.order = setting.volumes.map((_, volume) => {
      const lasts = new Map<number, number>();
      for (let i = 0; i < ats.length; i++) if (volumes[i] === volume) lasts.set(ats[i]!, i);
      if (setting.spaceSize === undefined) for (const start of setting.regionStarts(volume)) lasts.set(start, -1);
      return { lasts, starts: Float64Array.from(lasts.keys()).sort() };
    });
  }

  get isSorted(): boolean {
    return this.order !== undefined;
  }

  /** The bytes an entry has when its row states no length: up to whatever comes next in its volume. */
  of(entry: number): number {
    const lasts = this.order?.[this.volumes[entry]!]?.lasts;
    // Of several entries that start at one place, the bytes there are the last one's: the others have none.
    const isLast = lasts === undefined || lasts.get(this.ats[entry]!) === entry;
    return isLast ? this.toNext(entry) : 0;
  }

  /** Bytes from an entry's start to the next place where something starts. */
  toNext(entry: number): number {
    const { ats, volumes, setting } = this;
    const volume = volumes[entry]!;
    const at = ats[entry]!;
    const size = setting.spaceSize ?? setting.volumes[volume]?.source.size ?? at;
    const order = this.order?.[volume];
    if (order === undefined) return Math.max(0, size - at);
    const { starts } = order;
    let low = 0;
    let high = starts.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (starts[middle]! <= at) low = middle + 1;
      else high = middle;
    }
    return Math.max(0, (low < starts.length ? Math.min(starts[low]!, size) : size) - at);
  }
}
