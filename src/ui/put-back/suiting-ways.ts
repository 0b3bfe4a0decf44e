import type { Fault } from '../../core/faults';
import type { BuildWays, How, WayRefusal, WaysAnswer } from '../../server/shapes';
import { HOWS } from '../../server/shapes';

/** The way an archive is built. */
export const wayOfArchive = ({ how, archives }: BuildWays, archive: string): How => archives[archive] ?? how;

/** What is in the way of a build as it is chosen. */
export function refusalsOf({ ways, archives }: WaysAnswer, chosen: BuildWays): readonly WayRefusal[] {
  return archives.flatMap((archive) => {
    const way = ways.find(({ how }) => how === wayOfArchive(chosen, archive));
    return way?.refusals.filter((refusal) => refusal.archive === archive) ?? [];
  });
}

/** The ways an archive can be built with the changes there are in it. */
export function suitingWays({ ways }: WaysAnswer, archive: string): readonly How[] {
  return HOWS.filter((one) => {
    const way = ways.find(({ how }) => how === one);
    return way?.refused === null && way.refusals.every((refusal) => refusal.archive !== archive);
  });
}

/** The ways in which a change cannot go into a build, and why. */
export function refusedFor({ ways }: WaysAnswer, path: string): readonly { how: How; fault: Fault }[] {
  return ways.flatMap(({ how, refusals }) =>
    refusals.filter(({ entry }) => entry === path).map(({ fault }) => ({ how, fault })),
  );
}
