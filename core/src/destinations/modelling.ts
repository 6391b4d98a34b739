import { type Destination, outputMap, scalar, triple } from './profile.ts';

const COLOUR = { space: 'srgb_rec709_scene' as const };

/** Modelling applications: polygons, UV sets, hard edges and separate maps. */
export const modelling: Destination = {
  profile: 1,
  id: 'modelling',
  title: 'Modelling',
  summary: 'FBX, Y up, centimetres, polygons and UV sets kept, one map per channel, normal Y+',
  format: 'fbx',
  variants: ['fbx'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: [
    outputMap('baseColor', 'basecolor', triple('baseColor'), COLOUR),
    outputMap('metalness', 'metalness', [scalar('metalness')]),
    outputMap('roughness', 'roughness', [scalar('roughness')]),
    outputMap('normal', 'normal', triple('normal')),
    outputMap('bump', 'bump', [scalar('bump')]),
    outputMap('height', 'height', [scalar('height')]),
    outputMap('occlusion', 'occlusion', [scalar('occlusion')]),
    outputMap('opacity', 'opacity', [scalar('opacity')]),
    outputMap('emission', 'emission', triple('emission'), COLOUR),
    outputMap('transmission', 'transmission', [scalar('transmission')]),
  ],
  folder: 'maps',
  prefix: '',
  whiteFactors: false,
  tiles: true,
  maxSize: 0,
  notes: [],
};
