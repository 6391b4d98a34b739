import {
  createDestination,
  type Destination,
  outputMap,
  perChannel,
  SRGB,
  scalar,
  triple,
} from './profile.ts';

/** glTF 2.0 for the web and viewers: one binary file, or glTF beside its maps. */
export const webGltf: Destination = createDestination({
  id: 'web-gltf',
  title: 'Web glTF',
  summary:
    'glTF 2.0, Y up, metres, occlusion-roughness-metalness in one image, normal Y+, opacity in the alpha of base colour',
  format: 'gltf',
  variants: ['glb', 'gltf'],
  upAxis: 'Y',
  metresPerUnit: 1,
  triangulate: true,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: [
    outputMap('baseColor', 'basecolor', triple('baseColor'), { ...SRGB, alpha: scalar('opacity') }),
    outputMap('occlusionRoughnessMetalness', 'orm', [
      scalar('occlusion'),
      scalar('roughness'),
      scalar('metalness'),
    ]),
    ...perChannel(['normal', 'emission', 'transmission', 'coat', 'coatRoughness', 'sheenColor']),
    outputMap('specularColor', 'specular', triple('specularColor'), { ...SRGB, alpha: scalar('specular') }),
  ],
});
