/** The routes as OpenAPI 3.1, for people who write scripts. */
import { z } from 'zod';
import { ROUTES, TEXTS, type RouteContract } from '../shapes';

const schemaOf = (schema: z.ZodType, io: 'input' | 'output') => {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: 'any', reused: 'inline' });
  return rest;
};

const FAULT = schemaOf(z.object({ fault: z.object({ code: z.string(), sentence: z.string() }) }), 'output');
const BINARY = { type: 'string', format: 'binary' } as const;
const json = (schema: object) => ({ content: { 'application/json': { schema } } });

/** @returns the description, as https://spec.openapis.org/oas/v3.1.0 has it */
export function openApi(): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const [key, contract] of Object.entries<RouteContract>(ROUTES)) {
    const [method, path] = key.split(' ') as [string, string];
    (paths[`/api/${path}`] ??= {})[method.toLowerCase()] = operation(path, contract);
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Zero Latch',
      version: '1',
      description: 'What the pages ask the server. Requests that change something need the token of the session.',
    },
    paths,
  };
}

function operation(path: string, { does, query, body, answer }: RouteContract): object {
  const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    ...{ name, in: 'path', required: true },
    schema: (TEXTS as readonly (string | undefined)[]).includes(name)
      ? { type: 'string' }
      : { type: 'integer', minimum: 0 },
  }));
  return {
    summary: does,
    parameters: [...named, ...(query === undefined ? [] : queryParameters(query))],
    ...(body === undefined
      ? {}
      : {
          requestBody:
            body === 'file'
              ? { required: true, content: { 'application/octet-stream': { schema: BINARY } } }
              : { required: !body.safeParse({}).success, ...json(schemaOf(body, 'input')) },
        }),
    responses: {
      200: {
        description: 'Done.',
        ...(answer === 'bytes' ? { content: { '*/*': { schema: BINARY } } } : json(schemaOf(answer, 'output'))),
      },
      default: { description: 'Why it cannot be done.', ...json(FAULT) },
    },
  };
}

function queryParameters(query: z.ZodType): object[] {
  const { properties = {}, required = [] } = schemaOf(query, 'input') as {
    properties?: Readonly<Record<string, object>>;
    required?: readonly string[];
  };
  return Object.entries(properties).map(([name, schema]) => ({
    ...{ name, in: 'query', required: required.includes(name), schema },
  }));
}
