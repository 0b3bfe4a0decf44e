/** The linter tells the truth: what it is there to report, it reports. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const CHECKOUT = join(__dirname, '../..');
const FOLDER = join(CHECKOUT, '.zero-latch', `lint-test-${process.pid}`);

/** A process of its own: the configuration is a module, which these tests cannot load. */
const LINT = `
import { ESLint } from 'eslint';
const eslint = new ESLint({ ignore: false });
const { files, texts } = JSON.parse(process.argv[1]);
const rules = (results) => results.flatMap(({ messages }) => messages.map(({ ruleId }) => ruleId));
const said = [rules(files.length === 0 ? [] : await eslint.lintFiles(files))];
for (const { text, filePath } of texts) said.push(rules(await eslint.lintText(text, { filePath })));
console.log(JSON.stringify(said));
`;

/** @returns the rules that are broken: by the files, then by each text */
function lint(files: readonly string[], texts: readonly { text: string; filePath: string }[] = []): string[][] {
  const args = ['--input-type=module', '-e', LINT, JSON.stringify({ files, texts })];
  return JSON.parse(execFileSync(process.execPath, args, { cwd: CHECKOUT, encoding: 'utf8' })) as string[][];
}

beforeAll(() => mkdirSync(FOLDER, { recursive: true }));
afterAll(() => rmSync(FOLDER, { recursive: true, force: true }));

test('a circle of imports is reported, also over a .tsx file, and a circle of types alone is none', () => {
  const put = (name: string, text: string) => {
    writeFileSync(join(FOLDER, name), text);
    return join(FOLDER, name);
  };
  const circle = [
    put('a.ts', `import { b } from './b';\nexport const a = () => b;\n`),
    put('b.tsx', `import { a } from './a';\nexport const b = () => a;\n`),
  ];
  const types = [
    put('c.ts', `import type { D } from './d';\nexport type C = D[];\n`),
    put('d.ts', `import type { C } from './c';\nexport type D = C | string;\n`),
  ];
  expect(lint(circle)).toEqual([['import-x/no-cycle', 'import-x/no-cycle']]);
  expect(lint(types)).toEqual([[]]);
});

test('imports in the wrong direction are reported', () => {
  const FORBIDDEN = [
    ['src/core/game/a.ts', '../../server/env'],
    ['src/server/games/a.ts', '../../ui/shared/api'],
    ['src/ui/open/a.ts', '../../server/games'],
    ['src/server/games/a.ts', '../put-back'],
    ['src/server/forms/a.ts', '../entries'],
    ['src/server/forms/film/a.ts', '../../changes'],
    ['src/server/runs/a.ts', '../../worker/main'],
    ['demo/stand-in/a.ts', '../../src/core/game'],
  ] as const;
  const ALLOWED = [
    ['src/server/put-back/a.ts', '../games'],
    ['src/ui/open/a.ts', '../../server/shapes'],
    ['src/worker/a.ts', '../server/put-back'],
  ] as const;
  const texts = [...FORBIDDEN, ...ALLOWED].map(([filePath, from]) => ({
    filePath: join(CHECKOUT, filePath),
    text: `import * as other from '${from}';\nexport const one = other;\n`,
  }));
  const [, ...said] = lint([], texts);
  expect(said).toEqual([...FORBIDDEN.map(() => ['import-x/no-restricted-paths']), ...ALLOWED.map(() => [])]);
});
