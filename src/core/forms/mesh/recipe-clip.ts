/** Clips that a recipe presents: a pose of every joint for every frame. */
import { collect, memoryScratch, type ByteSource } from '../../bytes';
import {
  fieldPlace,
  openArchive,
  planRebuild,
  regionBytes,
  valueIn,
  volumeBytes,
  type Archive,
  type FieldEdit,
  type Recipe,
} from '../../recipe';
import type { MeshClip } from './mesh';
import { meshName } from './open-as-mesh';
import { readLane, writeLane, type Rows } from './numbers';
import { checkRoom, packedRows } from './packed-rows';

const MOST_BYTES = 256 << 20;

/** A clip with the file it came from, which it is written back into. */
export interface RecipeClip {
  readonly clip: MeshClip;
  /** Path of the mesh it moves, where the file names it. */
  readonly mesh: string | undefined;
  readonly file: Archive;
}

/** @throws FormatError for what the file has wrong */
export async function readRecipeClip(recipe: Recipe, source: ByteSource): Promise<RecipeClip> {
  const file = await openArchive(recipe, [source], { limits: { maxWholeBytes: MOST_BYTES } });
  const rule = recipe.clip;
  if (rule === undefined) throw new RangeError(`${recipe.id} presents no clip`);
  const { stride, lanes, little } = packedRows(file, rule);
  const [frames, joints] = [Number(valueIn(file, rule.frames)), Number(valueIn(file, rule.joints))];
  const bytes = await regionBytes(file, rule.from);
  checkRoom(file, rule.from, frames * joints * stride, bytes, 'not all frames are there');
  const rows: Rows = { from: 0, stride, count: frames * joints, little };
  const lane = (of: 'turn' | 'position') => {
    const found = lanes.get(of);
    return found === undefined ? undefined : readLane(bytes!, found, rows);
  };
  return {
    clip: {
      name: meshName(source.name),
      rate: Number(valueIn(file, rule.rate)),
      loops: rule.loops !== undefined && valueIn(file, rule.loops) === true,
      joints,
      frames,
      turns: lane('turn') ?? Float32Array.from({ length: rows.count * 4 }, (_, i) => (i % 4 === 3 ? 1 : 0)),
      places: lane('position') ?? new Float32Array(rows.count * 3),
    },
    mesh: rule.mesh === undefined ? undefined : String(valueIn(file, rule.mesh)),
    file,
  };
}

/**
 * The file with other poses; frames and their rate may be others where the file leaves them free.
 *
 * @throws RangeError for other joints, or where it does not
 */
export async function writeRecipeClip({ clip, file }: RecipeClip, next: MeshClip): Promise<Uint8Array> {
  if (next.joints !== clip.joints) throw new RangeError('a clip keeps its joints');
  const rule = file.recipe.clip!;
  const { stride, lanes, little } = packedRows(file, rule);
  const rows: Rows = { from: 0, stride, count: next.frames * next.joints, little };
  const bytes = new Uint8Array(rows.count * stride);
  for (const [of, lane] of lanes) writeLane(bytes, lane, rows, of === 'turn' ? next.turns : next.places);
  const values = (['frames', 'rate'] as const).flatMap((what): FieldEdit[] => {
    if (next[what] === clip[what]) return [];
    const place = fieldPlace(file, rule[what]);
    if (place === undefined) throw new RangeError(`the ${what} of the clip are fixed`);
    return [{ place, value: next[what] }];
  });
  const plan = await planRebuild(
    file,
    { replace: new Map(), add: [], remove: new Set(), regions: new Map([[rule.from, bytes]]), values },
    { scratch: memoryScratch() },
  );
  return collect(volumeBytes(plan.volumes[0]!));
}
