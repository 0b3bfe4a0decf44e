import importX from 'eslint-plugin-import-x';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/**
 * Imports point one way: app → ui and server → core; the stand-in game imports nothing of ours, because it is the judge.
 */
const DIRECTION = [
  {
    target: './src/core',
    from: ['./src/server', './src/ui', './src/cli', './src/workers', './src/programs', './app', './demo'],
  },
  { target: './src/programs', from: ['./src/server', './src/ui', './src/cli', './src/worker', './app', './demo'] },
  { target: './src/server', from: ['./src/ui', './src/cli', './src/worker', './app', './demo'] },
  {
    target: './src/ui',
    from: ['./src/server', './src/cli', './src/worker', './src/programs', './app', './demo'],
    except: ['./shapes'],
  },
  { target: './src/cli', from: ['./src/server', './src/ui', './app', './demo'] },
  { target: './app', from: ['./src/cli', './demo'] },
  { target: './demo/stand-in', from: ['./src', './app', './demo/assets', './demo/archives', './demo/make-game.ts'] },
  { target: './demo/judge.ts', from: ['./src', './app', './demo/assets', './demo/archives', './demo/make-game.ts'] },
].flatMap(({ target, from, except = [] }) =>
  from.map((one) => ({ target, from: one, ...(one === './src/server' && except.length > 0 ? { except } : {}) })),
);

/** Layers of the server. A folder may import only from earlier layers, not from its own. */
const LAYERS = [
  ['shapes'],
  ['database'],
  ['storage', 'runs', 'recipes', 'catalogue', 'access'],
  ['labels', 'http'],
  ['games'],
  ['content'],
  ['forms', 'inside', 'home'],
  ['entries', 'records'],
  ['changes'],
  ['subjects'],
  ['take-out', 'put-back', 'words', 'mods'],
  ['routines', 'sent', 'web'],
];
const LAYERED = LAYERS.flatMap((layer, i) =>
  layer.map((name) => ({
    target: `./src/server/${name}`,
    from: [...layer.filter((other) => other !== name), ...LAYERS.slice(i + 1).flat()].map(
      (other) => `./src/server/${other}`,
    ),
    message: 'A folder of the server may import only from earlier layers: see LAYERS in eslint.config.mjs.',
  })),
);

export default tseslint.config(
  { ignores: ['node_modules/', '.next/', '.zero-latch/', 'next-env.d.ts', 'test-results/'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx,mjs}'],
    plugins: { 'import-x': importX },
    settings: {
      'import-x/resolver-next': [createTypeScriptImportResolver()],
      // Without these, the rules that look into other files pass over all of ours.
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts', '.tsx'] },
      'import-x/extensions': ['.ts', '.tsx', '.mjs'],
    },
    rules: {
      'import-x/no-restricted-paths': ['error', { zones: [...DIRECTION, ...LAYERED] }],
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      'import-x/no-default-export': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-console': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
    },
  },
  {
    files: ['src/core/**/*.ts'],
    ignores: ['src/core/**/node.ts', 'src/core/**/node-*.ts', 'src/core/**/*.test.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex: '^(node:)?(fs|net|http|https|child_process|os|path|worker_threads)(/|$)',
              message: 'Core touches files only in a node.ts.',
            },
            { regex: '^(react|next|sequelize|pg|@mui)', message: 'Core knows no framework and no database.' },
          ],
        },
      ],
      'no-restricted-globals': ['error', 'process', 'window', 'document', 'fetch'],
    },
  },
  {
    files: ['src/ui/**/*.tsx', 'src/ui/**/*.ts'],
    plugins: { 'react-hooks': reactHooks },
    rules: { ...reactHooks.configs.recommended.rules },
  },
  {
    files: ['src/ui/**/*.tsx', 'src/ui/**/*.ts'],
    ignores: ['src/ui/shared/api.ts', 'src/ui/testing/**'],
    rules: {
      'no-restricted-globals': [
        'error',
        { name: 'fetch', message: 'Ask by a contract: `call` in src/ui/shared/api.ts.' },
      ],
    },
  },
  {
    files: ['app/**/*.tsx', '*.config.{ts,mjs}', 'next.config.ts', 'playwright.config.ts'],
    rules: { 'import-x/no-default-export': 'off' },
  },
);
