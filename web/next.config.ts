import type { NextConfig } from 'next';
import { listensHereAlone } from './server/address.ts';

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
    'piscina',
  ],
  typescript: { ignoreBuildErrors: true },
  // Nothing reads them where the application runs; they are five sixths of the server's files.
  experimental: { turbopackSourceMaps: false },
  poweredByHeader: false,
  // To the same machine it takes longer to squeeze answers than to send them.
  compress: !listensHereAlone(process.argv),
  devIndicators: false,
};

export default config;
