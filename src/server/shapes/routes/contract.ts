/** What a route of the server takes and gives. One table of these serves handlers, the client of the pages, and OpenAPI. */
import type { z } from 'zod';

export interface RouteContract {
  /** What it does, in one sentence, for people who write scripts. */
  readonly does: string;
  readonly query?: z.ZodType<object>;
  /** JSON; `file` when the body is the bytes of a file as they are. */
  readonly body?: z.ZodType | 'file';
  /** JSON; `bytes` when it is a file, or part of one. */
  readonly answer: z.ZodType | 'bytes';
}

/** By method and address below `/api/`, where `{name}` is a number, or a text if it is one of {@link TEXTS}. */
export type RouteTable = Readonly<Record<string, RouteContract>>;

/** Parts of addresses that are texts. */
export const TEXTS = ['action', 'format', 'subject'] as const;

type NamesIn<Key extends string> = Key extends `${string}{${infer Name}}${infer Rest}` ? Name | NamesIn<Rest> : never;

export type ParamsOf<Key extends string> = {
  readonly [Name in NamesIn<Key>]: Name extends (typeof TEXTS)[number] ? string : number;
};
