import { createDestination, type Destination, outputMap, scalar, triple } from './profile.ts';

/** Building models: each solid a part with its own material name, in millimetres. */
export const buildingParts: Destination = createDestination({
  id: 'building-parts',
  title: 'Building parts',
  summary:
    'OBJ or USD, Z up, millimetres, each solid a part with a material of its own, colour and opacity, a table of areas and volumes',
  format: 'obj',
  variants: ['obj', 'usdc', 'usda'],
  upAxis: 'Z',
  metresPerUnit: 0.001,
  parts: 'solids',
  takeoff: true,
  triangulate: false,
  workflow: 'metalRough',
  writeAs: 'legacy',
  normalY: 'Y+',
  maps: [
    outputMap('colour', 'colour', triple('baseColor'), { space: 'srgb_rec709_scene' }),
    outputMap('opacity', 'opacity', [scalar('opacity')]),
    outputMap('bump', 'bump', [scalar('bump')]),
  ],
  whiteFactors: true,
  maxSize: 2048,
  notes: ['OBJ states neither unit nor axis: read it as millimetres, Z up.'],
});
