/** The keys of a game, as archives are opened with them. */
import type { Recipe } from '../../../core/recipe';
import { KeyModel } from '../../database';
import { openSealed } from '../../storage';

/** Keys that are tried together. */
export interface KeyRing {
  readonly keys: ReadonlyMap<string, Uint8Array>;
  /** Ids of these keys, by slot. */
  readonly ids: Readonly<Record<string, number>>;
}

/** More combinations of keys than this are not tried. */
const MAX_RINGS = 512;

/**
 * All ways to fill the slots of a recipe with the keys of a game; at least one, which may lack keys.
 *
 * @param known ids of the keys that opened it before: tried first
 */
export async function keysFor(
  gameId: number,
  recipe: Recipe,
  known: Readonly<Record<string, number>> = {},
): Promise<KeyRing[]> {
  const keys = await KeyModel.findAll({ where: { gameId }, order: [['id', 'DESC']] });
  let rings: KeyRing[] = [{ keys: new Map(), ids: {} }];
  for (const [slot, kind] of recipe.needs) {
    const fitting = keys
      .filter((key) => key.kind === kind)
      .sort((a, b) => Number(b.id === known[slot]) - Number(a.id === known[slot]));
    if (fitting.length === 0) return [{ keys: new Map(), ids: {} }];
    const opened = fitting.map((key) => ({ id: key.id, bytes: openSealed(key.sealed) }));
    rings = rings
      .flatMap((ring) =>
        opened.map(({ id, bytes }) => ({
          keys: new Map([...ring.keys, [slot, bytes] as const]),
          ids: { ...ring.ids, [slot]: id },
        })),
      )
      .slice(0, MAX_RINGS);
  }
  return rings;
}

/** All keys of a game that may fill each slot. */
export async function keysOfKinds(
  gameId: number,
  needs: Readonly<Record<string, string>>,
): Promise<Record<string, Uint8Array[]>> {
  const keys = await KeyModel.findAll({ where: { gameId }, order: [['id', 'DESC']] });
  return Object.fromEntries(
    Object.entries(needs).map(([slot, kind]) => [
      slot,
      keys.filter((key) => key.kind === kind).map((key) => openSealed(key.sealed)),
    ]),
  );
}
