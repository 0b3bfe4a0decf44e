/** The volumes of a file in the making, and which of them each entry goes to. */
import type { VolumeSet } from '../../model';
import type { VolumeFacts } from '../../read/per-volume';
import type { DraftEntries, DraftSetting } from '../model/draft';
import type { Layout } from '../../model';

/** A volume of the new file. */
export interface NewVolume {
  readonly set: VolumeSet;
  readonly number: number;
  /** Its place among the old volumes. */
  readonly old: number | undefined;
}

/** Those of the old archive, or one of each set for a file of its own. */
export function newVolumes({ archive, recipe }: DraftSetting, layout: Layout): NewVolume[] {
  if (archive !== undefined && layout !== 'patch')
    return archive.volumes.map(({ set, number }, old) => ({ set, number, old }));
  return recipe.volumes
    .filter(({ optional }) => !optional)
    .map((set) => ({ set, number: set.numbered ? set.first : 0, old: undefined }));
}

export function factsOf({ set, number }: NewVolume): VolumeFacts {
  return { set: set.name, number };
}

/**
 * Which volume each new or changed entry goes to: its own, as long as there is room. Opens further ones where the format
 * has them.
 *
 * @param reserve bytes that stay free in volumes of limited size
 * @param movedOut entries that no longer lie in their rows
 * @returns undefined when entries have no region of their own
 */
export function assignVolumes(
  setting: DraftSetting,
  entries: DraftEntries,
  volumes: NewVolume[],
  afresh: boolean,
  reserve: number,
  movedOut: ReadonlySet<number>,
): Int32Array | undefined {
  const { archive, recipe } = setting;
  const [dataRegion] = recipe.dataRegions;
  if (dataRegion === undefined) return undefined;
  const assigned = new Int32Array(entries.count);
  const candidates = () => volumes.flatMap(({ set }, i) => (set.name === dataRegion.volume ? [i] : []));
  const room = (bytes: number) => Math.ceil(bytes / dataRegion.align) * dataRegion.align;
  const sizes = volumes.map(({ old }) => (old === undefined || afresh ? 0 : room(archive!.volumes[old]!.source.size)));
  for (let out = 0; out < entries.count; out++) {
    const base = entries.base(out);
    const fresh = entries.fresh(out);
    const found =
      base === undefined ? undefined : volumes.findIndex(({ old }) => old === archive!.entries.volume(base));
    if (fresh === undefined && base !== undefined && archive!.entries.volume(base) < 0) {
      // Its volume is not there: nothing is known of its bytes, and nothing of them is touched.
      assigned[out] = -1;
      continue;
    }
    const stays = found !== undefined && found >= 0 && !movedOut.has(out);
    let place = stays ? found : (candidates().at(-1) ?? 0);
    if (fresh !== undefined && place >= 0) {
      const size = room(fresh.stored.size);
      const grows = size - (base === undefined || afresh ? 0 : room(archive!.entries.stored(base)));
      const most = volumes[place]!.set.limit;
      const limit = most === undefined ? undefined : most - reserve;
      if (limit !== undefined && grows > 0 && sizes[place]! + grows > limit) {
        place = candidates().find((i) => sizes[i]! + size <= limit) ?? openVolume(volumes, place, sizes);
        sizes[place]! += size;
      } else sizes[place]! += Math.max(0, grows);
    }
    assigned[out] = place;
  }
  return assigned;
}

function openVolume(volumes: NewVolume[], like: number, sizes: number[]): number {
  const { set } = volumes[like]!;
  const number = Math.max(...volumes.filter((one) => one.set === set).map((one) => one.number)) + 1;
  volumes.push({ set, number, old: undefined });
  sizes.push(0);
  return volumes.length - 1;
}
