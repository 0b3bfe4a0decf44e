/** Handlers of routes, from their contracts. */
import type { z } from 'zod';
import { FaultError } from '../../core/faults';
import { ROUTES, TEXTS, type ParamsOf, type RouteContract, type RouteKey } from '../shapes';
import { answer, numberParam, type FileRequest } from './answer';

type Contract<K extends RouteKey> = (typeof ROUTES)[K];
type JsonKey = { [K in RouteKey]: Contract<K>['answer'] extends z.ZodType ? K : never }[RouteKey];
type Parsed<Schema> = Schema extends z.ZodType ? z.output<Schema> : undefined;
type QueryOf<K extends RouteKey> = Contract<K> extends { query: infer Q } ? Parsed<Q> : undefined;
type BodyOf<K extends RouteKey> = Contract<K> extends { body: infer B } ? Parsed<B> : undefined;
type AnswerOf<K extends RouteKey> =
  null extends Parsed<Contract<K>['answer']> ? Parsed<Contract<K>['answer']> | void : Parsed<Contract<K>['answer']>;

interface Asked<K extends RouteKey> {
  readonly params: ParamsOf<K>;
  readonly query: QueryOf<K>;
  /** Undefined where it is a file: see {@link bodyChunks}. */
  readonly body: BodyOf<K>;
  readonly request: FileRequest;
}

/** @param work gets what the contract says, checked; what it throws becomes a fault with a status */
export function route<K extends JsonKey>(key: K, work: (asked: Asked<K>) => Promise<AnswerOf<K>>) {
  const { query, body }: RouteContract = ROUTES[key];
  return (
    request: Request,
    { params }: { params: Promise<Readonly<Record<string, string>> | undefined> },
  ): Promise<Response> =>
    answer(async () =>
      work({
        params: paramsOf<K>(await params),
        query: query?.parse(Object.fromEntries(new URL(request.url).searchParams)) as QueryOf<K>,
        body: (body === undefined || body === 'file' ? undefined : body.parse(await jsonOf(request))) as BodyOf<K>,
        request,
      }),
    );
}

/** @param given undefined for an address without parts of its own */
function paramsOf<K extends RouteKey>(given: Readonly<Record<string, string>> = {}): ParamsOf<K> {
  const isText = (name: string) => (TEXTS as readonly string[]).includes(name);
  const values = Object.entries(given).map(([name, text]) => [name, isText(name) ? text : numberParam(text, name)]);
  return Object.fromEntries(values) as ParamsOf<K>;
}

/** Scripts may leave out a body that says nothing. @throws FaultError `invalid-request` */
async function jsonOf(request: Request): Promise<unknown> {
  const text = await request.text();
  if (text === '') return {};
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    const found = (error as Error).message;
    throw new FaultError({ code: 'invalid-request', what: 'the body of the request is no JSON', found });
  }
}
