/** What formulas may ask of a file while it is being opened. */
import { FaultError, FormatError } from '../../faults';
import { scopeOf, type FileFacts } from '../formula/value';
import { blockUsesOf, chainsOf } from './block-chains';
import { DataExtents } from './data-extents';
import type { OpeningState } from './opening-state';
import { regionValue, type FoundRegion } from './read-region';
import { baseName } from './volumes';

/** Facts that grow while the archive is opened: formulas of rows ask for them a million times. */
export function openingFacts(state: OpeningState): FileFacts {
  const { found, keys } = state;
  let chains: ReadonlyMap<number, number> | undefined;
  let uses: ReadonlyMap<number, number> | undefined;
  const get = (index: number): FoundRegion => {
    const region = found.get(index);
    if (region !== undefined) return region;
    throw new FormatError({
      code: 'recipe-circular',
      line: state.recipe.regions[index]!.line,
      what: `region ${state.recipe.regions[index]!.name} is needed before it can be read, or is left out`,
    });
  };
  const memo: { endianness?: 'little' | 'big' } = {};
  const facts: FileFacts = {
    packedFields: new Map(),
    region: (index) => regionValue(found.get(index)),
    start: (index) =>
      state.recipe.dataRegions.includes(state.recipe.regions[index]!) ? extents.start(index) : get(index).at,
    length: (index) => extents.length(index) ?? get(index).length,
    plainLength: (index) => {
      const { plain, explained } = get(index);
      return plain?.length ?? explained;
    },
    bytes: (index, which) => {
      const region = get(index);
      const bytes = which === 'plain' ? region.plain : region.stored;
      if (bytes !== undefined) return bytes;
      throw new FormatError({
        code: 'recipe-invalid',
        what: `region ${region.region.name} is too large to be hashed at once`,
        hint: 'Use span(start(region), start(region) + length(region)).',
      });
    },
    entryCount: () => state.entries?.count ?? 0,
    entryFacts: (index) => state.entries?.facts(index),
    blockCount: () => state.blocks?.count ?? 0,
    blockAfter: (at) => (chains ??= chainsOf(state.opened)).get(at),
    blockUses: (number) => (uses ??= blockUsesOf(state.opened)).get(number) ?? 0,
    folderCount: () => state.folders?.count ?? 0,
    fileName: () => baseName(state.files[0]!.name),
    volumeSize: (volume) => state.volumes[volume]?.source.size ?? state.files[0]!.size,
    volumeFacts: (volume) => ({
      number: state.volumes[volume]?.number ?? 0,
      count: extents.entriesIn(volume),
    }),
    volumeIndex: (set, number) =>
      state.volumes.findIndex((one) => one.set.name === set && (number === undefined || one.number === number)),
    volumeCount: () => state.volumes.filter(({ set }) => set.numbered).length,
    key: (slot) => {
      const key = keys.get(slot);
      if (key !== undefined) return key;
      throw new FaultError({
        code: 'key-missing',
        what: `the slot "${slot}" needs a key`,
        expected: `a key of kind ${state.recipe.needs.get(slot) ?? 'unknown'}`,
        hint: 'Paste it on Open, or look for it in the game’s program.',
      });
    },
    endianness: (scope) => {
      const endianness = state.recipe.endianness;
      if (endianness === undefined) return 'little';
      if (memo.endianness !== undefined) return memo.endianness;
      if ([...endianness.uses.regions].every((index) => found.has(index)))
        return (memo.endianness = endianness.evaluate(scopeOf(facts)) as 'little' | 'big');
      // The region with that field is being read: what is before the field that asks is known.
      const root = scope.outer[0] ?? scope.fields;
      return endianness.evaluate(scopeOf({ ...facts, region: () => root })) as 'little' | 'big';
    },
    spanHash: (hasher, place, from, to, blank) => state.late.get({ hasher, ...place, from, to, blank }),
  };
  const extents = new DataExtents(state, facts);
  return facts;
}
