/** Hashes over the bytes of an entry that the formulas of a recipe ask for. */
import { readChunks, type ByteSource, type Scratch } from '../../../bytes';
import { createHasher } from '../../../codecs';
import type { Scope, Value } from '../../formula/value';
import type { Limits } from '../../limits';
import type { ContentHash, ContentPart, Recipe, Step } from '../../model';
import { decodeChunks, prepareChain } from '../../read/through';

/** Worked out once for a recipe, since every entry asks. */
const knownHashers = new WeakMap<Recipe, ReadonlyMap<ContentPart, readonly ContentHash[]>>();

function hashersOf(recipe: Recipe): ReadonlyMap<ContentPart, readonly ContentHash[]> {
  const known = knownHashers.get(recipe);
  if (known !== undefined) return known;
  const byName = new Map<string, ContentHash>();
  for (const { fields } of recipe.shapes)
    for (const field of fields)
      for (const formula of [field.is, ...field.parts.map((part) => part.is)])
        for (const hash of formula?.uses.content ?? []) byName.set(`${hash.which}:${hash.name}`, hash);
  const found = new Map<ContentPart, ContentHash[]>();
  for (const hash of byName.values()) found.set(hash.which, [...(found.get(hash.which) ?? []), hash]);
  knownHashers.set(recipe, found);
  return found;
}

/**
 * All hashes over one part of an entry's bytes, read once.
 *
 * @param scope in which parameters of hashes that are in the file are worked out
 * @returns each under the key by which formulas ask for it
 */
export async function contentHashes(
  { recipe, signal }: { readonly recipe: Recipe; readonly signal: AbortSignal | undefined },
  which: ContentPart,
  source: ByteSource,
  scope: () => Scope,
): Promise<[string, Value][]> {
  const hashes = hashersOf(recipe).get(which);
  if (hashes === undefined) return [];
  const inFile = scope();
  const machines = hashes.map(({ name, hasher }) => ({ name, hasher: createHasher(hasher(inFile)) }));
  for await (const chunk of readChunks(source, 0, source.size, signal === undefined ? {} : { signal })) {
    for (const { hasher } of machines) hasher.update(chunk);
  }
  return machines.map(({ name, hasher }) => [`${which}:${name}`, hasher.digest()]);
}

interface HashSetting {
  readonly recipe: Recipe;
  readonly limits: Limits;
  readonly scratch: Scratch;
  readonly signal: AbortSignal | undefined;
}

/**
 * All hashes over the stored bytes and over those between the steps of the chain.
 *
 * @param packed what the chain starts from
 * @param steps those of the entry, in the order of reading
 */
export async function storedHashes(
  setting: HashSetting,
  packed: ByteSource,
  steps: readonly Step[],
  scope: () => Scope,
): Promise<[string, Value][]> {
  const made = await contentHashes(setting, 'packed', packed, scope);
  const { limits, scratch, signal } = setting;
  for (const part of hashersOf(setting.recipe).keys()) {
    const count = Number(/^behind-(\d+)$/u.exec(part)?.[1]);
    if (Number.isNaN(count)) continue;
    const chain = prepareChain(steps.slice(0, count), { scope: scope(), maxPlainBytes: limits.maxEntryBytes });
    const chunks = decodeChunks(packed, chain, { maxStoredBytes: limits.maxRegionBytes, signal });
    made.push(...(await contentHashes(setting, part, await scratch.keep(chunks, packed.name), scope)));
  }
  return made;
}
