/** Hashes over the bytes of an entry that the formulas of a recipe ask for. */
import { readChunks, type ByteSource } from '../../../bytes';
import { createHasher } from '../../../codecs';
import type { Value } from '../../formula/value';
import type { Recipe } from '../../model';

/** Worked out once for a recipe, since every entry asks. */
const knownHashers = new WeakMap<Recipe, Record<'data' | 'packed', readonly string[]>>();

function hashersOf(recipe: Recipe, which: 'data' | 'packed'): readonly string[] {
  let known = knownHashers.get(recipe);
  if (known === undefined) {
    const asked = recipe.shapes.flatMap((shape) =>
      shape.fields
        .flatMap((field) => [field.is, ...field.parts.map((part) => part.is)])
        .flatMap((formula) => formula?.uses.content ?? []),
    );
    const of = (one: 'data' | 'packed') => [
      ...new Set(asked.filter((content) => content.which === one).map(({ hasher }) => hasher)),
    ];
    known = { data: of('data'), packed: of('packed') };
    knownHashers.set(recipe, known);
  }
  return known[which];
}

/**
 * All hashes over plain (`data`) or stored (`packed`) bytes, read once.
 *
 * @returns each under the key by which formulas ask for it
 */
export async function contentHashes(
  { recipe, signal }: { readonly recipe: Recipe; readonly signal: AbortSignal | undefined },
  which: 'data' | 'packed',
  source: ByteSource,
): Promise<[string, Value][]> {
  const names = hashersOf(recipe, which);
  if (names.length === 0) return [];
  const machines = names.map((name) => ({ name, hasher: createHasher(name) }));
  for await (const chunk of readChunks(source, 0, source.size, signal === undefined ? {} : { signal })) {
    for (const { hasher } of machines) hasher.update(chunk);
  }
  return machines.map(({ name, hasher }) => [`${which}:${name}`, hasher.digest()]);
}
