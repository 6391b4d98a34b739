import type { ChannelName, ColourSpace, NormalDirection } from '../scene/material.ts';

/** One component of an output image: which channel feeds it, or a constant where the channel has no map. */
export interface ComponentRecipe {
  channel: ChannelName;
  /** Which of the channel's three numbers, for colours and normals; 0 for scalars. */
  part: 0 | 1 | 2;
  /** What stands where the channel has no map; the material's value is then written as a factor. */
  empty: number;
}

/** An output image of a destination. It is made when at least one of its channels has a map. */
export interface OutputMap {
  name: string;
  suffix: string;
  space: ColourSpace;
  bitDepth: 8 | 16;
  components: ComponentRecipe[];
  /** Joins as a further component when the material is not opaque and its opacity has a map. */
  alpha: ComponentRecipe | null;
}

/** How one kind of receiving application wants things. */
export interface Destination {
  id: string;
  title: string;
  summary: string;
  format: 'gltf';
  variants: readonly ('glb' | 'gltf')[];
  upAxis: 'Y';
  metresPerUnit: number;
  triangulate: boolean;
  normalY: NormalDirection;
  maps: OutputMap[];
}

const scalar = (channel: ChannelName): ComponentRecipe => ({ channel, part: 0, empty: 1 });
const triple = (channel: ChannelName): ComponentRecipe[] => ([0, 1, 2] as const).map((part) => ({ channel, part, empty: 1 }));

/** glTF 2.0 for the web and viewers: one binary file, or glTF beside its maps. */
export const webGltf: Destination = {
  id: 'web-gltf',
  title: 'Web glTF',
  summary: 'glTF 2.0, Y up, metres, occlusion-roughness-metalness in one image, normal Y+, opacity in the alpha of base colour',
  format: 'gltf',
  variants: ['glb', 'gltf'],
  upAxis: 'Y',
  metresPerUnit: 1,
  triangulate: true,
  normalY: 'Y+',
  maps: [
    { name: 'baseColor', suffix: 'basecolor', space: 'srgb_rec709_scene', bitDepth: 8, components: triple('baseColor'), alpha: scalar('opacity') },
    {
      name: 'occlusionRoughnessMetalness',
      suffix: 'orm',
      space: 'data',
      bitDepth: 8,
      components: [scalar('occlusion'), scalar('roughness'), scalar('metalness')],
      alpha: null,
    },
    { name: 'normal', suffix: 'normal', space: 'data', bitDepth: 8, components: triple('normal'), alpha: null },
    { name: 'emission', suffix: 'emission', space: 'srgb_rec709_scene', bitDepth: 8, components: triple('emission'), alpha: null },
    { name: 'transmission', suffix: 'transmission', space: 'data', bitDepth: 8, components: [scalar('transmission')], alpha: null },
  ],
};

export const DESTINATIONS: readonly Destination[] = [webGltf];

export function findDestination(id: string): Destination | undefined {
  return DESTINATIONS.find((destination) => destination.id === id);
}
