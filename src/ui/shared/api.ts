/** Talking to the server: JSON in, JSON out, faults as sentences. */
import type { z } from 'zod';
import { ROUTES, type ParamsOf, type RouteContract, type RouteKey } from '../../server/shapes';
import { tokenHeaders } from '../access/session';

/** What the server refused, in its own words. */
export class ApiFault extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    sentence: string,
  ) {
    super(sentence);
  }
}

type Contract<K extends RouteKey> = (typeof ROUTES)[K];
type AnswerOf<K extends RouteKey> =
  Contract<K> extends { answer: infer Answer extends z.ZodType } ? z.output<Answer> : never;
/** The same, whether or not it may be written to. */
type Given<T> = T extends readonly (infer Item)[]
  ? readonly Given<Item>[]
  : T extends object
    ? { readonly [Key in keyof T]: Given<T[Key]> }
    : T;
/** What a route is given as the body of a request. */
export type BodyOf<K extends RouteKey> =
  Contract<K> extends { body: infer Body extends z.ZodType } ? Given<z.input<Body>> : never;
type Query<K extends RouteKey> = Contract<K> extends { query: infer Q extends z.ZodType } ? z.input<Q> : object;
type MayLack<Key extends string, T> = object extends T ? { readonly [K in Key]?: T } : { readonly [K in Key]: T };
type Asked<K extends RouteKey> = ParamsOf<K> &
  MayLack<'query', Query<K>> &
  (Contract<K> extends { body: z.ZodType } ? MayLack<'body', BodyOf<K>> : object) &
  (Contract<K> extends { body: 'file' } ? { readonly send: Blob } : object) & { readonly signal?: AbortSignal };

interface AnyAsked {
  readonly query?: Readonly<Record<string, unknown>>;
  readonly body?: unknown;
  readonly send?: Blob;
  readonly signal?: AbortSignal;
}

/**
 * Asks the server, as the contract of the route says.
 *
 * @param asked the parts of the address by their names, and with them `query`, `body`, the file to `send`, and a `signal`
 * @throws ApiFault when the server refuses, does not answer, or answers something else
 */
export async function call<K extends RouteKey>(
  key: K,
  ...[asked]: object extends Asked<K> ? [Asked<K>?] : [Asked<K>]
): Promise<AnswerOf<K>> {
  const [method, path] = key.split(' ') as [string, string];
  const { query, body, send, signal } = (asked ?? {}) as AnyAsked;
  const parts = (asked ?? {}) as Readonly<Record<string, unknown>>;
  const address = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(parts[name])));
  const response = await ask(`/api/${address}${queryText(query)}`, {
    method,
    ...(method === 'GET' ? {} : { headers: tokenHeaders() }),
    ...(body === undefined && send === undefined ? {} : { body: send ?? JSON.stringify(body) }),
    ...(signal === undefined ? {} : { signal }),
  });
  const { answer }: RouteContract = ROUTES[key];
  const read = answer === 'bytes' ? undefined : answer.safeParse(await response.json().catch(() => undefined));
  if (read?.success === true) return read.data as AnswerOf<K>;
  throw new ApiFault(200, 'unexpected-answer', 'The server answered what this page does not expect. Reload the page.');
}

/** `?name=value`, without what is undefined. */
function queryText(query: AnyAsked['query'] = {}): string {
  const pairs = Object.entries(query).filter(([, value]) => value !== undefined);
  return pairs.length === 0 ? '' : `?${new URLSearchParams(pairs.map(([name, value]) => [name, String(value)]))}`;
}

/** @throws ApiFault with what the server refused */
async function ask(address: string, init: RequestInit): Promise<Response> {
  let answer: Response;
  try {
    answer = await fetch(address, init);
  } catch (error) {
    if (init.signal?.aborted === true) throw error;
    throw new ApiFault(503, 'offline', 'The server does not answer. Is it still running?');
  }
  if (answer.ok) return answer;
  const fault = faultIn(await answer.text());
  // A session that has run out: what was typed on the page would be lost all the same.
  if (answer.status === 401 && fault?.code === 'not-signed-in') window.location.assign('/sign-in');
  throw new ApiFault(
    answer.status,
    fault?.code ?? 'unknown',
    fault?.sentence ?? `The server answered ${answer.status}.`,
  );
}

/** A file of the server. @throws ApiFault */
export const fileAt = (url: string, init: Pick<RequestInit, 'signal' | 'priority'> = {}): Promise<Response> =>
  ask(url, init);

/** Bytes of a file of the server, up to but without `to`; none behind its end. @throws ApiFault */
export async function bytesAt(
  url: string,
  { from, to, signal }: { readonly from: number; readonly to: number; readonly signal: AbortSignal },
): Promise<{ readonly bytes: Uint8Array; readonly charset: string | undefined }> {
  try {
    const answer = await ask(url, { signal, headers: { range: `bytes=${from}-${to - 1}` } });
    const [, charset] = /charset=([\w-]+)/.exec(answer.headers.get('content-type') ?? '') ?? [];
    return { bytes: new Uint8Array(await answer.arrayBuffer()), charset };
  } catch (error) {
    if (error instanceof ApiFault && error.status === RANGE_NOT_SATISFIABLE)
      return { bytes: new Uint8Array(0), charset: undefined };
    throw error;
  }
}

const RANGE_NOT_SATISFIABLE = 416;

function faultIn(text: string): { code: string; sentence: string } | undefined {
  try {
    return (JSON.parse(text) as { fault?: { code: string; sentence: string } }).fault;
  } catch {
    return undefined;
  }
}

export interface EntryAddress {
  readonly game: number;
  readonly archive: number;
  readonly n: number;
}

/** The entry that an address of {@link subjectUrl} is of; undefined when it is of something else, such as a change. */
export function entryIn(subject: string): EntryAddress | undefined {
  const [, game, archive, n] = /^\/api\/games\/(\d+)\/subjects\/entry-(\d+)-(\d+)$/.exec(subject) ?? [];
  return n === undefined ? undefined : { game: Number(game), archive: Number(archive), n: Number(n) };
}

/** The address of an entry's bytes. */
export function entryUrl(
  game: number,
  entry: { archive: number; n: number },
  leaf: 'bytes' | 'thumbnail' | 'film' | 'subtitles' | 'map/picture' | `as/${string}`,
): string {
  return `/api/games/${game}/entries/${entry.archive}/${entry.n}/${leaf}`;
}

/** The address below which renditions of an entry, of a change, or of what it was made against, are. */
export function subjectUrl(
  game: number,
  of: { entry: { archive: number; n: number } } | { change: number } | { base: number },
): string {
  const name =
    'entry' in of
      ? `entry-${of.entry.archive}-${of.entry.n}`
      : 'change' in of
        ? `change-${of.change}`
        : `base-${of.base}`;
  return `/api/games/${game}/subjects/${name}`;
}
