import { type Destination, outputMap, scalar, triple } from './profile.ts';

const COLOUR = { space: 'srgb_rec709_scene' as const };

/** Compositors that read USD and bring everything along. */
export const compositorUsd: Destination = {
  profile: 1,
  id: 'compositor-usd',
  title: 'Compositor, USD',
  summary: 'USDZ or USD with UsdPreviewSurface, Y up, metres, one map per channel, normal Y+, everything inside',
  format: 'usd',
  variants: ['usdz', 'usdc', 'usda'],
  upAxis: 'Y',
  metresPerUnit: 1,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: [
    outputMap('baseColor', 'basecolor', triple('baseColor'), COLOUR),
    outputMap('metalness', 'metalness', [scalar('metalness')]),
    outputMap('roughness', 'roughness', [scalar('roughness')]),
    outputMap('normal', 'normal', triple('normal')),
    outputMap('height', 'height', [scalar('height')]),
    outputMap('opacity', 'opacity', [scalar('opacity')]),
    outputMap('occlusion', 'occlusion', [scalar('occlusion')]),
    outputMap('emission', 'emission', triple('emission'), COLOUR),
  ],
  folder: 'maps',
  prefix: '',
  whiteFactors: false,
  tiles: false,
  maxSize: 4096,
  notes: [],
};
