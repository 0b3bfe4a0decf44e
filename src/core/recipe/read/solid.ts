/** Entries that are packed together: the region that holds them unpacked as one, in which their offsets count. */
import { bufferSource, collect, sliceSource, type ByteSource, type Scratch } from '../../bytes';
import { FormatError } from '../../faults';
import { scopeOf, truthy } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { Region } from '../model';
import { type FoundRegion, type RegionSetting } from './read-region';
import { placeOf } from './region-place';
import { Tables } from './table';
import { decodeChunks, prepareChain } from './through';

export interface FoundSolid {
  readonly found: FoundRegion;
  /** The plain bytes of all entries. */
  readonly space: ByteSource;
}

export interface SolidSetting extends RegionSetting {
  readonly scratch: Scratch | undefined;
  /** A formula hashes the plain or stored bytes, so that they have to be at hand. */
  readonly hashed: boolean;
}

/**
 * Unpacks the region, into `scratch` where there is one.
 *
 * @returns undefined when its `when` does not hold
 * @throws FormatError `outside-file`, `codec-failed`; LimitError when it unpacks to more than the limits allow
 */
export async function readSolid(region: Region, setting: SolidSetting): Promise<FoundSolid | undefined> {
  const { source, limits, volume, facts, scratch, signal } = setting;
  const scope = { ...scopeOf(facts), volume };
  if (region.when !== undefined && !truthy(region.when.evaluate(scope))) return undefined;
  const at = await placeOf(region, scope, setting);
  const stated = region.length?.evaluate(scope);
  const length = stated === undefined ? source.size - at : wholeNumber(stated, `the length of region ${region.name}`);
  if (at + length > source.size || length < 0)
    throw new FormatError({
      code: 'outside-file',
      what: `region ${region.name} lies outside of the file`,
      offset: at,
      expected: `an end at or before 0x${source.size.toString(16).toUpperCase()}`,
      found: `0x${(at + length).toString(16).toUpperCase()}`,
      hint: 'The file may be cut off.',
    });
  const plainSize =
    region.plain === undefined
      ? undefined
      : wholeNumber(region.plain.evaluate(scope), `the plain length of region ${region.name}`);
  const maxPlainBytes = scratch === undefined || setting.hashed ? limits.maxRegionBytes : limits.maxEntryBytes;
  const chain = prepareChain(region.through, { scope, plainSize, maxPlainBytes });
  const packed = sliceSource(source, at, length, source.name);
  const chunks = decodeChunks(packed, chain, { maxStoredBytes: limits.maxRegionBytes, signal });
  const name = `${source.name} (${region.name})`;
  const inMemory = scratch === undefined || setting.hashed;
  const space = inMemory ? bufferSource(await collect(chunks), name) : await scratch.keep(chunks, name);
  const found: FoundRegion = {
    region,
    unlocked: true,
    volume,
    at,
    length,
    stored: setting.hashed ? await source.read(at, length) : undefined,
    plain: setting.hashed ? await space.read(0, space.size) : undefined,
    column: undefined,
    tables: new Tables(),
    explained: space.size,
  };
  return { found, space };
}
