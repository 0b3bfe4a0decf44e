/** What formulas see of an entry that was read: its facts, and the hashes over its bytes. */
import { readChunks } from '../../bytes';
import { createHasher } from '../../codecs';
import type { EntryFacts, Value } from '../formula/value';
import type { Field } from '../model';
import type { OpenedArchive } from '../read/archive';
import { factsWith } from '../read/entry-facts';
import { blockCountOfEntry, entryScope, plainChunks, type OpenedEntry } from '../read/entry-bytes';
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
  const keys = new Set<string>();
  for (const field of wanted) for (const key of hashesOf(field)) keys.add(key);
  for (const field of opened.wrap?.table.shape.fields ?? []) for (const key of hashesOf(field)) keys.add(key);
  if (keys.size === 0) return new Map();
  const machines = [...keys].map((key) => ({ key, hasher: createHasher(key.slice(key.indexOf(':') + 1)) }));
  const overData = machines.filter(({ key }) => key.startsWith('data:'));
  const overPacked = machines.filter(({ key }) => key.startsWith('packed:'));
  if (overData.length > 0) {
    for await (const chunk of plainChunks(archive, opened, signal))
      for (const { hasher } of overData) hasher.update(chunk);
  }
  if (overPacked.length > 0) {
    for await (const chunk of readChunks(opened.packed)) for (const { hasher } of overPacked) hasher.update(chunk);
  }
  return new Map(machines.map(({ key, hasher }) => [key, hasher.digest()]));
}

const known = new WeakMap<Field, readonly string[]>();

/** The hashes that the formulas of a field ask for, as `data:crc32`. */
function hashesOf(field: Field): readonly string[] {
  let keys = known.get(field);
  if (keys === undefined) {
    keys = formulasIn(field).flatMap(({ uses }) => uses.content.map((one) => `${one.which}:${one.hasher}`));
    known.set(field, keys);
  }
  return keys;
}
