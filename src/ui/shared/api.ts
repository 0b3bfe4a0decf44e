/** Talking to the server: JSON in, JSON out, faults as sentences. */
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

export async function api<T>(
  path: string,
  options: { method?: string; body?: unknown; raw?: Blob; signal?: AbortSignal } = {},
): Promise<T> {
  let answer: Response;
  try {
    const body = options.raw ?? (options.body === undefined ? undefined : JSON.stringify(options.body));
    const method = options.method ?? (body === undefined ? 'GET' : 'POST');
    answer = await fetch(`/api/${path}`, {
      method,
      ...(method === 'GET' ? {} : { headers: tokenHeaders() }),
      ...(body === undefined ? {} : { body }),
      ...(options.signal === undefined ? {} : { signal: options.signal }),
    });
  } catch (error) {
    if (options.signal?.aborted === true) throw error;
    throw new ApiFault(503, 'offline', 'The server does not answer. Is it still running?');
  }
  const text = await answer.text();
  if (answer.ok) return JSON.parse(text) as T;
  const fault = faultIn(text);
  // A session that has run out: what was typed on the page would be lost all the same.
  if (answer.status === 401 && fault?.code === 'not-signed-in') window.location.assign('/sign-in');
  throw new ApiFault(
    answer.status,
    fault?.code ?? 'unknown',
    fault?.sentence ?? `The server answered ${answer.status}.`,
  );
}

function faultIn(text: string): { code: string; sentence: string } | undefined {
  try {
    return (JSON.parse(text) as { fault?: { code: string; sentence: string } }).fault;
  } catch {
    return undefined;
  }
}

/** The address of an entry's bytes. */
export function entryUrl(
  game: number,
  entry: { archive: number; n: number },
  leaf: 'bytes' | 'thumbnail' | 'sound' | `as/${string}`,
): string {
  return `/api/games/${game}/entries/${entry.archive}/${entry.n}/${leaf}`;
}
