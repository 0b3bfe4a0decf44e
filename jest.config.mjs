const common = {
  testEnvironment: 'node',
  transform: {
    '^.+\\.(t|j)sx?$': ['@swc/jest', { jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022' } }],
  },
  // These packages are modules only.
  transformIgnorePatterns: [
    '/node_modules/(?!(pretty-bytes|fast-check|pure-rand|meshoptimizer|manifold-3d|any-ascii)/)',
  ],
  modulePathIgnorePatterns: ['<rootDir>/.next/', '<rootDir>/.zero-latch/'],
};

const config = {
  projects: [
    {
      ...common,
      displayName: 'unit',
      roots: ['<rootDir>/src', '<rootDir>/demo', '<rootDir>/tests/unit', '<rootDir>/tests/formats'],
      testMatch: ['**/*.test.ts'],
    },
    {
      ...common,
      displayName: 'ui',
      testEnvironment: 'jsdom',
      transform: {
        '^.+\\.(t|j)sx?$': [
          '@swc/jest',
          {
            jsc: {
              parser: { syntax: 'typescript', tsx: true },
              target: 'es2022',
              transform: { react: { runtime: 'automatic' } },
            },
          },
        ],
      },
      roots: ['<rootDir>/src/ui'],
      testMatch: ['**/*.test.tsx'],
    },
    { ...common, displayName: 'server', roots: ['<rootDir>/tests/server'], testMatch: ['**/*.test.ts'] },
  ],
  // Other tests go on beside these: a slow answer is no wrong one.
  testTimeout: 300_000,
};

export default config;
