/** Names of hashed entries, from name lists. */
import { FormatError } from '../../faults';
import { sameValue, scopeOf, type EntryFacts, type FileFacts, type Value } from '../formula/value';
import type { Formula } from '../model';

export interface PathHashes {
  /** The path whose hash this is, when a name list has it. */
  nameOf(hash: Value): string | undefined;
  /** The hash of a path. */
  hashOf(path: string): Value;
}

/**
 * The hash of a path by a recipe's rule, without an archive.
 *
 * @throws FormatError when the rule asks for facts of the file
 */
export function pathHashing(hashing: Formula): (path: string) => Value {
  return pathHashes(hashing, [], withoutFile(hashing.line)).hashOf;
}

/** For formulas that have no file: what they ask of one is a fault of the recipe. */
export function withoutFile(line: number): FileFacts {
  const refuse = (): never => {
    throw new FormatError({
      code: 'recipe-invalid',
      line,
      what: 'the hash of a path, or the content of an entry, depends on the file it is in',
      hint: 'Such a formula can look at the path and the bytes of entries alone.',
    });
  };
  return new Proxy({} as FileFacts, { get: () => refuse });
}

/** Hashes every name once. Of two names with one hash, the first is kept. */
export function pathHashes(hashing: Formula, names: Iterable<string>, facts: FileFacts): PathHashes {
  const scope = scopeOf(facts);
  const hashOf = (path: string): Value => {
    scope.entry = onlyPath(path);
    return hashing.evaluate(scope);
  };
  const known = new Map<string | number, string>();
  for (const name of names) {
    const key = keyOfHash(hashOf(name));
    if (!known.has(key)) known.set(key, name);
  }
  return {
    hashOf,
    nameOf: (hash) => {
      const name = known.get(keyOfHash(hash));
      return name !== undefined && sameValue(hashOf(name), hash) ? name : undefined;
    },
  };
}

/** A hash as the key of a map. */
export function keyOfHash(hash: Value): string | number {
  if (typeof hash === 'number') return hash;
  return hash instanceof Uint8Array ? Buffer.from(hash).toString('hex') : String(hash);
}

/** An entry of which nothing but its path is known. */
export function onlyPath(path: string): EntryFacts {
  return {
    index: 0,
    path,
    at: 0,
    stored: 0,
    size: 0,
    method: undefined,
    volume: 0,
    volumeSet: '',
    time: undefined,
    deleted: false,
    hash: undefined,
    id: undefined,
    folderIndex: -1,
    firstBlock: 0,
    blockCount: 0,
    content: () => undefined,
  };
}
