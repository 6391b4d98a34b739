import { type Destination, outputMap, scalar, triple } from './profile.ts';

const COLOUR = { space: 'srgb_rec709_scene' as const };

/** Compositors with a classic scene reader: diffuse, specular intensity, normal or bump, opacity as its own map. */
export const compositorClassic: Destination = {
  profile: 1,
  id: 'compositor-classic',
  title: 'Compositor, classic',
  summary: 'FBX, Y up, metres, diffuse, specular intensity from inverted roughness, normal or bump, opacity as its own map, PNG',
  format: 'fbx',
  variants: ['fbx'],
  upAxis: 'Y',
  metresPerUnit: 1,
  triangulate: true,
  workflow: 'metalRough',
  writeAs: 'legacy',
  normalY: 'Y+',
  maps: [
    outputMap('diffuse', 'diffuse', triple('baseColor'), COLOUR),
    outputMap('specular', 'specular', [scalar('glossiness', 'specular')]),
    outputMap('normal', 'normal', triple('normal')),
    outputMap('bump', 'bump', [scalar('bump')]),
    outputMap('opacity', 'opacity', [scalar('opacity')]),
    outputMap('emission', 'emission', triple('emission'), COLOUR),
  ],
  folder: 'maps',
  prefix: '',
  whiteFactors: true,
  tiles: false,
  maxSize: 4096,
  notes: [
    'Set the lights first: one all round, one from the side, or gloss and bumps cannot be judged.',
    'The images that end in _specular are the strength of reflection, white for much.',
  ],
};
