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
  ],
  devIndicators: false,
};

export default config;
