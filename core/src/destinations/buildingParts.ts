import { type Destination, outputMap, scalar, triple } from './profile.ts';

/** Building models: each solid a part with its own material name, in millimetres. */
export const buildingParts: Destination = {
  profile: 1,
  id: 'building-parts',
  title: 'Building parts',
  summary: 'OBJ, Z up, millimetres, polygons kept, parts and material names kept, colour and opacity',
  format: 'obj',
  variants: ['obj'],
  upAxis: 'Z',
  metresPerUnit: 0.001,
  triangulate: false,
  workflow: 'metalRough',
  writeAs: 'legacy',
  normalY: 'Y+',
  maps: [
    outputMap('colour', 'colour', triple('baseColor'), { space: 'srgb_rec709_scene' }),
    outputMap('opacity', 'opacity', [scalar('opacity')]),
    outputMap('bump', 'bump', [scalar('bump')]),
  ],
  folder: 'maps',
  prefix: '',
  whiteFactors: true,
  tiles: false,
  maxSize: 2048,
  notes: ['OBJ states neither unit nor axis: read it as millimetres, Z up.'],
};
