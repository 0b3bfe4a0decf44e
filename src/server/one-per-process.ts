/**
 * A value made once for each process. It is kept on `globalThis`, because Next bundles a module more than once, and each
 * copy would otherwise make one of its own.
 */
export function onePerProcess<T>(name: string, make: () => T): T {
  const store = globalThis as unknown as Record<symbol, T | undefined>;
  const key = Symbol.for(`zero-latch.${name}`);
  return (store[key] ??= make());
}
