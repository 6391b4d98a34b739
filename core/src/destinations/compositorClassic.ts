import { type Destination, outputMap, perChannel, scalar, SRGB, triple } from './profile.ts';

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
    outputMap('diffuse', 'diffuse', triple('baseColor'), SRGB),
    outputMap('specular', 'specular', [scalar('glossiness', 'specular')]),
    ...perChannel(['normal', 'bump', 'opacity', 'emission']),
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
