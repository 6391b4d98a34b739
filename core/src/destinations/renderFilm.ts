import { type Destination, outputMap, scalar, triple } from './profile.ts';

const COLOUR = { space: 'lin_ap1_scene' as const, type: 'exr' as const, depth: 'half' as const };

/** Colour-managed film work: scene-linear ACEScg colour, raw data, tiles kept. */
export const renderFilm: Destination = {
  profile: 1,
  id: 'render-film',
  title: 'Film renderer',
  summary: 'USD, Y up, centimetres, metal/rough, tiles kept, colour as half-float EXR in ACEScg, data maps raw',
  format: 'usd',
  variants: ['usdc', 'usda'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: [
    outputMap('baseColor', 'basecolor', triple('baseColor'), COLOUR),
    outputMap('metalness', 'metalness', [scalar('metalness')], { depth: 16 }),
    outputMap('roughness', 'roughness', [scalar('roughness')], { depth: 16 }),
    outputMap('normal', 'normal', triple('normal'), { depth: 16 }),
    outputMap('height', 'height', [scalar('height')], { depth: 16 }),
    outputMap('opacity', 'opacity', [scalar('opacity')], { depth: 16 }),
    outputMap('occlusion', 'occlusion', [scalar('occlusion')]),
    outputMap('emission', 'emission', triple('emission'), COLOUR),
  ],
  folder: 'maps',
  prefix: '',
  whiteFactors: false,
  tiles: true,
  maxSize: 0,
  notes: ['EXR images are ACEScg (words of the ACES configurations: "ACEScg"); PNG images are data ("Raw").'],
};
