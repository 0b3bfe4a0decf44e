/** Every route of the application has a contract, and every contract a route. */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROUTES, type RouteContract } from '../shapes';
import { openApi } from './openapi';

const api = join(__dirname, '../../../app/api');
const paths = readdirSync(api, { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('/route.ts'))
  .map((file) => file.slice(0, -'/route.ts'.length));
const textOf = (path: string) => readFileSync(join(api, path, 'route.ts'), 'utf8');
const asKey = (path: string) => path.replace(/\[(\w+)\]/g, '{$1}');
/** They speak protocols of their own: a stream of events, uploads by tus, and this description itself. */
const OTHERS = ['runs/events', 'sent/[[...upload]]', 'openapi.json'];

function routesOfFiles(): string[] {
  return paths
    .filter((path) => !OTHERS.includes(path))
    .flatMap((path) =>
      [...textOf(path).matchAll(/^export (?:const|async function|function) (GET|POST|PUT|PATCH|DELETE)\b/gm)].map(
        ([, method]) => `${method} ${asKey(path)}`,
      ),
    );
}

test('each route has a contract, and each contract a route', () => {
  expect(routesOfFiles().sort()).toEqual(Object.keys(ROUTES).sort());
});

test('a handler answers for the route its file is of', () => {
  for (const path of paths)
    for (const [, method, key] of textOf(path).matchAll(/export const (\w+) = route\('([^']+)'/g))
      expect(key).toBe(`${method} ${asKey(path)}`);
});

test.each(Object.entries<RouteContract>(ROUTES))('%s says what it does in a sentence', (_, { does }) => {
  expect(does).toMatch(/^[A-Z].*\.$/);
});

test('OpenAPI has all of them, with what each takes and gives', () => {
  const { paths: described } = openApi() as {
    paths: Record<string, Record<string, { parameters: { name: string }[] }>>;
  };
  const keys = Object.entries(described).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => `${method.toUpperCase()} ${path.slice('/api/'.length)}`),
  );
  expect(keys.sort()).toEqual(Object.keys(ROUTES).sort());
  const entries = described['/api/games/{game}/entries']!['get']!;
  expect(entries.parameters.map(({ name }) => name)).toEqual(expect.arrayContaining(['game', 'search', 'limit']));
  expect(described['/api/games/{game}/keys']!['post']).toMatchObject({
    requestBody: { content: { 'application/json': { schema: { properties: { text: { type: 'string' } } } } } },
    responses: { 200: { content: { 'application/json': { schema: expect.any(Object) } } } },
  });
});
