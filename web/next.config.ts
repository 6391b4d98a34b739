import type { NextConfig } from 'next';

const config: NextConfig = {
  transpilePackages: ['@kinkajou/core'],
  serverExternalPackages: [
    'sharp',
    'pg',
    'pg-boss',
    'pino',
    'yauzl',
    'yazl',
    'gltf-validator',
    'draco3dgltf',
    'meshoptimizer',
    'ktx-parse',
    'zstddec',
    'bmp-ts',
    'piscina',
  ],
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  devIndicators: false,
};

export default config;
