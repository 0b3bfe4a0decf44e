import { contentPolicy, refusalOf } from './guard';

const asked = (path: string, headers: Readonly<Record<string, string>>, more?: string) =>
  refusalOf(path, (name) => headers[name] ?? null, more);
const HERE = { host: '127.0.0.1:4310' };

test.each([
  ['a program', '/api/games', HERE],
  ['a page of its own', '/api/games', { ...HERE, origin: 'http://127.0.0.1:4310', 'sec-fetch-site': 'same-origin' }],
  ['a typed address', '/api/games', { ...HERE, 'sec-fetch-site': 'none' }],
  ['a link on another page to a page', '/games/1/find', { ...HERE, 'sec-fetch-site': 'cross-site' }],
  ['localhost', '/', { host: 'localhost:4310' }],
  ['loopback of IPv6', '/', { host: '[::1]:4310' }],
])('%s is let in', (_, path, headers) => {
  expect(asked(path, headers)).toBeUndefined();
});

test.each([
  ['a page elsewhere that reads', '/api/games', { ...HERE, 'sec-fetch-site': 'cross-site' }],
  ['a page of another port of this machine', '/api/games', { ...HERE, 'sec-fetch-site': 'same-site' }],
  ['a page elsewhere that writes', '/api/games', { ...HERE, origin: 'https://elsewhere.example' }],
  ['a page of no origin', '/api/games', { ...HERE, origin: 'null' }],
  ['a name that leads here', '/', { host: 'elsewhere.example:4310' }],
  ['a name that begins like one of ours', '/', { host: '127.0.0.1.elsewhere.example' }],
  ['no name at all', '/', {}],
])('%s is refused', (_, path, headers) => {
  expect(asked(path, headers)).toMatch(/elsewhere|names/);
});

test('further names are taken with and without a port', () => {
  for (const more of ['modding.example', 'a.example, MODDING.example', 'modding.example:8080']) {
    expect(asked('/', { host: 'modding.example:8080' }, more)).toBeUndefined();
    expect(asked('/', { host: 'other.example:8080' }, more)).toBeDefined();
  }
  expect(asked('/', { host: 'modding.example:9090' }, 'modding.example:8080')).toBeDefined();
});

test('a page runs no script but its own, and stands in no frame', () => {
  const policy = contentPolicy('abc');
  expect(policy).toContain("script-src 'self' 'nonce-abc'");
  expect(policy).toContain("frame-ancestors 'none'");
  expect(/script-src[^;]*unsafe-(inline|eval)'/.test(policy.replace("'wasm-unsafe-eval'", ''))).toBe(false);
});
