import type { NextConfig } from 'next';

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // Renders again only what a change touches: a list of a million is walked at every key.
  reactCompiler: true,
  // Type-check and lint are steps of their own in CI.
  typescript: { ignoreBuildErrors: true },
  // These have native parts, or read their own files: they are loaded as they are, not bundled.
  serverExternalPackages: [
    'sequelize',
    'pg-boss',
    'pg',
    'umzug',
    'sharp',
    'lz4-napi',
    '@node-rs/crc32',
    '@node-rs/xxhash',
    'pg-copy-streams',
    '@napi-rs/lzma',
    '@bokuweb/zstd-wasm',
    '@jitl/quickjs-singlefile-cjs-release-sync',
    'quickjs-emscripten-core',
    'xxhash-wasm',
    'piscina',
    'manifold-3d',
    'meshoptimizer',
    '@gltf-transform/core',
    'fontkit',
    'wawoff2',
    // Used by the server alone, or there too: bundling them takes long and gains nothing.
    '@tus/server',
    '@tus/file-store',
    '@zip.js/zip.js',
    '@noble/ciphers',
    '@noble/hashes',
    'any-ascii',
    'chardet',
    'csv-parse',
    'csv-stringify',
    'egoroof-blowfish',
    'fast-xml-parser',
    'gettext-parser',
    'iconv-lite',
    'iron-session',
    'jsonc-parser',
    'twofish-ts',
    'yaml',
    'zod',
  ],
  devIndicators: false,
};

export default config;
