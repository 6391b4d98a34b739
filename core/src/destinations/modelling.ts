import { type Destination, perChannel } from './profile.ts';

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
  maps: perChannel(['baseColor', 'metalness', 'roughness', 'normal', 'bump', 'height', 'occlusion', 'opacity', 'emission', 'transmission']),
  folder: 'maps',
  prefix: '',
  whiteFactors: false,
  tiles: true,
  maxSize: 0,
  notes: [],
};
