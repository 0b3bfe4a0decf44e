/** What formulas see of an entry that was read: its facts, and the hashes over its bytes. */
import { readChunks } from '../../bytes';
import { createHasher } from '../../codecs';
import type { EntryFacts, Value } from '../formula/value';
import type { ContentHash, Field } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import { factsWith } from '../read/entry-facts';
import { blockCountOfEntry, entryScope, plainChunks, type OpenedEntry } from '../read/entry-bytes';
import { decodeChunks } from '../read/through';
import { formulasIn } from './field-formulas';

/** The facts with the hashes that have been worked out. */
export function withContent(entry: EntryFacts, content: ReadonlyMap<string, Value>): EntryFacts {
  return factsWith(entry, { content: (which, hasher) => content.get(`${which}:${hasher}`) });
}

/** Facts of an entry that was read: with hash, blocks and folder where the recipe has them. */
export function entryFacts(archive: OpenedArchive, entry: number): EntryFacts {
  const facts = archive.entries.facts(entry);
  const { hash, hashing, blocks } = archive.recipe.entries;
  const isHashed =
    hash !== undefined && hashing !== undefined && archive.hashes !== undefined && archive.entries.isNamed(entry);
  const { isDeleted, damage } = archive.entries;
  const hasBlocks = blocks !== undefined && !isDeleted(entry) && damage(entry) === undefined;
  if (!isHashed && !hasBlocks) return facts;
  return factsWith(facts, {
    ...(isHashed ? { hash: archive.hashes.hashOf(facts.path) } : {}),
    ...(hasBlocks
      ? {
          firstBlock: Number(blocks.first?.evaluate(entryScope(archive, entry, facts)) ?? 0),
          blockCount: blockCountOfEntry(archive, entry),
        }
      : {}),
  });
}

/** All hashes that the formulas of the fields want, over the entry's bytes. */
export async function hashesWanted(
  archive: OpenedArchive,
  opened: OpenedEntry,
  wanted: readonly Field[],
  signal: AbortSignal | undefined,
): Promise<ReadonlyMap<string, Value>> {
  const hashes = new Map<string, ContentHash>();
  const fields = [...wanted, ...(opened.wrap?.table.shape.fields ?? [])];
  for (const hash of fields.flatMap(hashesOf)) hashes.set(`${hash.which}:${hash.name}`, hash);
  if (hashes.size === 0) return new Map();
  const machines = [...hashes].map(([key, { which, hasher }]) => ({
    key,
    which,
    hasher: createHasher(hasher(opened.scope)),
  }));
  const overData = machines.filter(({ which }) => which === 'data');
  const overPacked = machines.filter(({ which }) => which === 'packed');
  if (overData.length > 0) {
    for await (const chunk of plainChunks(archive, opened, signal))
      for (const { hasher } of overData) hasher.update(chunk);
  }
  if (overPacked.length > 0) {
    for await (const chunk of readChunks(opened.packed)) for (const { hasher } of overPacked) hasher.update(chunk);
  }
  for (const { which, hasher } of machines) {
    const count = Number(/^behind-(\d+)$/u.exec(which)?.[1]);
    if (Number.isNaN(count)) continue;
    const chain = { ...opened.chain, plainSize: undefined, steps: opened.chain.steps.slice(0, count) };
    const options = { maxStoredBytes: archive.limits.maxRegionBytes, signal };
    for await (const chunk of decodeChunks(opened.packed, chain, options)) hasher.update(chunk);
  }
  return new Map(machines.map(({ key, hasher }) => [key, hasher.digest()]));
}

const known = new WeakMap<Field, readonly ContentHash[]>();

/** The hashes over bytes of the entry that the formulas of a field ask for. */
function hashesOf(field: Field): readonly ContentHash[] {
  let keys = known.get(field);
  if (keys === undefined) {
    keys = formulasIn(field).flatMap(({ uses }) => uses.content);
    known.set(field, keys);
  }
  return keys;
}
