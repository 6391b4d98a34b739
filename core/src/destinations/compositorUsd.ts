import { createDestination, type Destination, perChannel } from './profile.ts';

/** Compositors that read USD and bring everything along. */
export const compositorUsd: Destination = createDestination({
  id: 'compositor-usd',
  title: 'Compositor, USD',
  summary:
    'USDZ or USD with UsdPreviewSurface, Y up, metres, one map per channel, normal Y+, everything inside',
  format: 'usd',
  variants: ['usdz', 'usdc', 'usda'],
  upAxis: 'Y',
  metresPerUnit: 1,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: perChannel([
    'baseColor',
    'metalness',
    'roughness',
    'normal',
    'height',
    'opacity',
    'occlusion',
    'emission',
  ]),
  maxSize: 4096,
});
