import { createDestination, type Destination, perChannel } from './profile.ts';

const COLOUR = { space: 'lin_ap1_scene' as const, type: 'exr' as const, depth: 'half' as const };

/** Colour-managed film work: scene-linear ACEScg colour, raw data, tiles kept. */
export const renderFilm: Destination = createDestination({
  id: 'render-film',
  title: 'Film renderer',
  summary:
    'USD, Y up, centimetres, metal/rough, tiles kept, colour as half-float EXR in ACEScg, data maps raw',
  format: 'usd',
  variants: ['usdc', 'usda'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: perChannel(
    ['baseColor', 'metalness', 'roughness', 'normal', 'height', 'opacity', 'occlusion', 'emission'],
    COLOUR,
    { depth: 16 },
  ),
  tiles: true,
  dialect: 'acesCg',
  materialX: true,
  notes: ['EXR images are ACEScg (words of the ACES configurations: "ACEScg"); PNG images are data ("Raw").'],
});
