/** The layout that a recipe gives vertices and poses, worked out for one file. */
import { FormatError } from '../../faults';
import { valueIn, type Archive, type PackedRule } from '../../recipe';
import { laneBytes, type Lane } from './numbers';

/** How many numbers each attribute has. */
const COUNTS: Readonly<Record<string, number>> = {
  position: 3,
  normal: 3,
  tangent: 4,
  uv: 2,
  colour: 4,
  joints: 4,
  weights: 4,
  turn: 4,
};

/** How many numbers an attribute has, such as 3 for a position. */
export const attributeCount = (of: string): number => COUNTS[of]!;

export interface PackedRows<Of extends string> {
  readonly stride: number;
  readonly lanes: ReadonlyMap<Of, Lane>;
  readonly little: boolean;
}

/** @throws FormatError `wrong-kind` for numbers that do not lie in the bytes of one */
export function packedRows<Of extends string>(file: Archive, rule: PackedRule<Of>): PackedRows<Of> {
  const stride = Number(valueIn(file, rule.stride));
  const lanes = new Map<Of, Lane>();
  for (const { of, as, at, when, line } of rule.layout) {
    if (when !== undefined && valueIn(file, when) !== true) continue;
    const lane = { as, at: Number(valueIn(file, at)), count: COUNTS[of]! };
    if (!(lane.at >= 0 && lane.at + laneBytes(lane) <= stride))
      throw new FormatError({
        code: 'wrong-kind',
        file: file.source.name,
        recipe: file.recipe.id,
        line,
        field: of,
        what: `its numbers do not lie in the ${stride} bytes of one`,
        found: `${laneBytes(lane)} bytes at ${lane.at}`,
      });
    lanes.set(of, lane);
  }
  const stored = () => valueIn(file, file.recipe.endianness!);
  return { stride, lanes, little: (rule.numbers === 'stored' ? stored() : rule.numbers) === 'little' };
}

/** @throws FormatError `cut-short` when a region has fewer bytes than are to be read */
export function checkRoom(
  file: Archive,
  region: number,
  needed: number,
  bytes: Uint8Array | undefined,
  what: string,
): void {
  if (bytes !== undefined && Number.isSafeInteger(needed) && needed <= bytes.length) return;
  throw new FormatError({
    code: 'cut-short',
    file: file.source.name,
    recipe: file.recipe.id,
    region: file.recipe.regions[region]!.name,
    what,
    expected: `${needed.toLocaleString('en')} bytes`,
    found: (bytes?.length ?? 0).toLocaleString('en'),
  });
}
