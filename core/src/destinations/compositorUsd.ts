import { type Destination, perChannel } from './profile.ts';

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
  maps: perChannel(['baseColor', 'metalness', 'roughness', 'normal', 'height', 'opacity', 'occlusion', 'emission']),
  folder: 'maps',
  prefix: '',
  whiteFactors: false,
  tiles: false,
  maxSize: 4096,
  notes: [],
};
