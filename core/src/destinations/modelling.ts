import { createDestination, type Destination, perChannel } from './profile.ts';

/** Modelling applications: polygons, UV sets, hard edges and separate maps. */
export const modelling: Destination = createDestination({
  id: 'modelling',
  title: 'Modelling',
  summary:
    'FBX, Y up, centimetres, polygons and UV sets kept, one map per channel, normal Y+; an FBX source is changed only where edits demand it',
  format: 'fbx',
  variants: ['fbx'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'metalRough',
  normalY: 'Y+',
  maps: perChannel([
    'baseColor',
    'metalness',
    'roughness',
    'normal',
    'bump',
    'height',
    'occlusion',
    'opacity',
    'emission',
    'transmission',
  ]),
  tiles: true,
  patch: true,
});
