import { createDestination, type Destination, outputMap, SRGB, scalar, triple } from './profile.ts';

/** Engines that pack occlusion, roughness and metalness into one image and point green down. */
export const enginePacked: Destination = createDestination({
  id: 'engine-packed',
  title: 'Engine, packed maps',
  summary:
    'FBX, Z up, centimetres, base colour with opacity in its alpha, occlusion-roughness-metalness in one image, normal Y-, PNG',
  format: 'fbx',
  variants: ['fbx'],
  upAxis: 'Z',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y-',
  maps: [
    outputMap('baseColor', 'BC', triple('baseColor'), { ...SRGB, alpha: scalar('opacity') }),
    outputMap('occlusionRoughnessMetalness', 'ORM', [
      scalar('occlusion'),
      scalar('roughness'),
      scalar('metalness'),
    ]),
    outputMap('normal', 'N', triple('normal')),
    outputMap('emission', 'E', triple('emission'), SRGB),
    outputMap('height', 'H', [scalar('height')]),
  ],
  names: { file: '{asset}_{part}', material: '{material}', map: 'T_{material}_{suffix}' },
  maxSize: 8192,
  notes: [
    'Read the images that end in _ORM as data, not as sRGB: r is occlusion, g roughness, b metalness.',
    'Read the images that end in _N as a tangent-space normal, green down (Y-).',
    'Where a base colour has an alpha, declare the material masked or translucent as the table says.',
  ],
});
