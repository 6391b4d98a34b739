import { type Destination, outputMap, scalar, triple } from './profile.ts';

/** Figures for garment work: one plain colour image per material, white multipliers, part names kept. */
export const garmentFigure: Destination = {
  profile: 1,
  id: 'garment-figure',
  title: 'Garment figure',
  summary: 'FBX beside one colour image per material, Y up, centimetres, white multipliers, opacity in alpha, part names kept',
  format: 'fbx',
  variants: ['fbx'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'metalRough',
  writeAs: 'legacy',
  normalY: 'Y+',
  maps: [
    outputMap('colour', 'colour', triple('baseColor'), { space: 'srgb_rec709_scene', alpha: scalar('opacity') }),
    outputMap('normal', 'normal', triple('normal')),
  ],
  folder: 'maps',
  prefix: '',
  whiteFactors: true,
  tiles: false,
  maxSize: 4096,
  notes: ['Take it as a new figure in centimetres; the parts keep their names.'],
};
