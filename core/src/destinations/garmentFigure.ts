import { createDestination, type Destination, outputMap, scalar, triple } from './profile.ts';

/** Figures for garment work: one plain colour image per material, white multipliers, part names kept. */
export const garmentFigure: Destination = createDestination({
  id: 'garment-figure',
  title: 'Garment figure',
  summary:
    'FBX or OBJ beside one colour image per material, Y up, a chosen unit, white multipliers, opacity in alpha, part names kept',
  format: 'fbx',
  variants: ['fbx', 'obj'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  choices: ['unit'],
  triangulate: false,
  workflow: 'metalRough',
  writeAs: 'legacy',
  normalY: 'Y+',
  maps: [
    outputMap('colour', 'colour', triple('baseColor'), {
      space: 'srgb_rec709_scene',
      alpha: scalar('opacity'),
    }),
    outputMap('normal', 'normal', triple('normal')),
  ],
  whiteFactors: true,
  maxSize: 4096,
  notes: ['Take it as a new figure in the unit stated above; the parts keep their names.'],
});
