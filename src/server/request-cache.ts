/**
 * A cache that lasts for one request. A preview needs the row of its archive, the state of its files and the recipes of its game in
 * many places; within one answer they are the same.
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import { onePerProcess } from './one-per-process';

type RequestCache = Map<string, Promise<unknown>>;

const caches = (): AsyncLocalStorage<RequestCache> =>
  onePerProcess('request-caches', () => new AsyncLocalStorage<RequestCache>());

/** Runs work that only reads from the database. Nested calls share the cache of the outermost one. */
export function withRequestCache<T>(work: () => Promise<T>): Promise<T> {
  return caches().getStore() === undefined ? caches().run(new Map(), work) : work();
}

/**
 * Runs a query once within {@link withRequestCache}, and every time outside of it.
 *
 * @param key names the query, with everything that its result depends on
 */
export function oncePerRequest<T>(key: string, query: () => Promise<T>): Promise<T> {
  const cache = caches().getStore();
  if (cache === undefined) return query();
  const known = cache.get(key) as Promise<T> | undefined;
  const result = known ?? query();
  if (known === undefined) cache.set(key, result);
  return result;
}
