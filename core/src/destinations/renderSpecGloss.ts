import { createDestination, type Destination, outputMap, perChannel, triple } from './profile.ts';

const COLOUR = { space: 'srgb_rec709_scene' as const, type: 'tiff' as const, depth: 16 as const };
const DATA = { type: 'tiff' as const, depth: 16 as const };

/** Renderers that shade by diffuse, specular colour and glossiness. */
export const renderSpecGloss: Destination = createDestination({
  id: 'render-specgloss',
  title: 'Renderer, spec/gloss',
  summary:
    'FBX or OBJ, Y up, centimetres, diffuse, specular colour and glossiness, normal Y+, height, 16-bit TIFF',
  format: 'fbx',
  variants: ['fbx', 'obj'],
  upAxis: 'Y',
  metresPerUnit: 0.01,
  triangulate: false,
  workflow: 'specGloss',
  normalY: 'Y+',
  maps: [
    outputMap('diffuse', 'diffuse', triple('baseColor'), COLOUR),
    outputMap('specular', 'specular', triple('specularColor'), COLOUR),
    ...perChannel(['glossiness', 'normal', 'height', 'opacity', 'emission'], COLOUR, DATA),
  ],
  whiteFactors: true,
  notes: [
    'The specular colour is the reflectance at normal incidence; set the index of refraction so high that it has no say, or use a reflectance input.',
    'Occlusion is left out: the renderer makes its own.',
  ],
});
