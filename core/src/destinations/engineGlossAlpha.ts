import {
  createDestination,
  type Destination,
  outputMap,
  perChannel,
  SRGB,
  scalar,
  triple,
} from './profile.ts';

/** Engines that read metalness from colour and glossiness from the alpha of the same image. */
export const engineGlossAlpha: Destination = createDestination({
  id: 'engine-gloss-alpha',
  title: 'Engine, gloss in alpha',
  summary:
    'FBX, Y up, metres, metalness with glossiness in its alpha, occlusion and height apart, normal Y+, PNG or TGA',
  format: 'fbx',
  variants: ['fbx'],
  upAxis: 'Y',
  metresPerUnit: 1,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  choices: ['type'],
  maps: [
    outputMap('baseColor', 'albedo', triple('baseColor'), { ...SRGB, alpha: scalar('opacity') }),
    outputMap('metalnessGlossiness', 'metalgloss', [
      scalar('metalness'),
      scalar('metalness'),
      scalar('metalness'),
      scalar('glossiness'),
    ]),
    ...perChannel(['normal', 'occlusion', 'height', 'emission']),
  ],
  maxSize: 8192,
  notes: [
    'Read the images that end in _metalgloss as data: r is metalness, alpha is glossiness (1 - roughness).',
    'Read the images that end in _normal as a normal map, green up (Y+).',
  ],
});
