import {
  createDestination,
  type Destination,
  outputMap,
  perChannel,
  SRGB,
  scalar,
  triple,
} from './profile.ts';

/**
 * Compositors with a classic scene reader: diffuse, specular intensity, normal or bump, opacity as its own
 * map.
 */
export const compositorClassic: Destination = createDestination({
  id: 'compositor-classic',
  title: 'Compositor, classic',
  summary:
    'FBX or OBJ, Y up, scaled to a chosen size, one material per part, diffuse, specular intensity from inverted roughness, normal or bump, opacity as its own map, PNG',
  format: 'fbx',
  variants: ['fbx', 'obj'],
  upAxis: 'Y',
  metresPerUnit: 1,
  size: 1,
  choices: ['size'],
  parts: 'materials',
  triangulate: true,
  workflow: 'metalRough',
  writeAs: 'legacy',
  normalY: 'Y+',
  maps: [
    outputMap('diffuse', 'diffuse', triple('baseColor'), SRGB),
    outputMap('specular', 'specular', [scalar('glossiness', { as: 'specular' })]),
    ...perChannel(['normal', 'bump', 'opacity', 'emission']),
  ],
  whiteFactors: true,
  maxSize: 4096,
  notes: [
    'Set the lights first: one all round, one from the side, or gloss and bumps cannot be judged.',
    'The images that end in _specular are the strength of reflection, white for much.',
  ],
});
