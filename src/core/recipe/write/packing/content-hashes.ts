/** Hashes over the bytes of an entry that the formulas of a recipe ask for. */
import { readChunks, type ByteSource } from '../../../bytes';
import { createHasher } from '../../../codecs';
import type { Scope, Value } from '../../formula/value';
import type { ContentHash, Recipe } from '../../model';

/** Worked out once for a recipe, since every entry asks. */
const knownHashers = new WeakMap<Recipe, Record<'data' | 'packed', readonly ContentHash[]>>();

function hashersOf(recipe: Recipe, which: 'data' | 'packed'): readonly ContentHash[] {
  let known = knownHashers.get(recipe);
  if (known === undefined) {
    const asked = recipe.shapes.flatMap((shape) =>
      shape.fields
        .flatMap((field) => [field.is, ...field.parts.map((part) => part.is)])
        .flatMap((formula) => formula?.uses.content ?? []),
    );
    const of = (one: 'data' | 'packed') => [
      ...new Map(asked.filter(({ which: what }) => what === one).map((hash) => [hash.name, hash])).values(),
    ];
    known = { data: of('data'), packed: of('packed') };
    knownHashers.set(recipe, known);
  }
  return known[which];
}

/**
 * All hashes over plain (`data`) or stored (`packed`) bytes, read once.
 *
 * @param scope in which parameters of hashes that stand in the file are worked out
 * @returns each under the key by which formulas ask for it
 */
export async function contentHashes(
  { recipe, signal }: { readonly recipe: Recipe; readonly signal: AbortSignal | undefined },
  which: 'data' | 'packed',
  source: ByteSource,
  scope: () => Scope,
): Promise<[string, Value][]> {
  const hashes = hashersOf(recipe, which);
  if (hashes.length === 0) return [];
  const inFile = scope();
  const machines = hashes.map(({ name, hasher }) => ({ name, hasher: createHasher(hasher(inFile)) }));
  for await (const chunk of readChunks(source, 0, source.size, signal === undefined ? {} : { signal })) {
    for (const { hasher } of machines) hasher.update(chunk);
  }
  return machines.map(({ name, hasher }) => [`${which}:${name}`, hasher.digest()]);
}
