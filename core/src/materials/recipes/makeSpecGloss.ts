import { complementUse } from '../../scene/mapUse.ts';
import type { ChannelName, Material } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { exponentOfMaterial, roughnessOfMaterial } from '../../scene/shading.ts';
import { dielectricOf } from '../metalRough.ts';
import { shadingModelOf } from '../shadingModel.ts';
import { DIELECTRIC } from '../specGloss.ts';
import {
  inputOf,
  type MadeSlot,
  mapOf,
  type Params,
  type Progress,
  type Recipe,
  type RecipeInputs,
  type RecipeResult,
} from './recipe.ts';
import { colourReader, colourWriter, eachRow, gridOf, imageLike, scalarReader } from './rows.ts';

/**
 * Metal/rough to spec/gloss: diffuse = base x (1 - metalness), specular = mix(0.04, base, metalness),
 * glossiness = 1 - roughness. Where metal/rough weakens what dielectrics reflect, 0.04 is that much less.
 */
export const makeSpecGloss: Recipe = {
  id: 'spec-gloss',
  title: 'To spec/gloss',
  does: 'Diffuse and specular colour from base colour and metalness; glossiness is roughness read inverted.',
  params: [],
  together: true,
  refuses: (material) =>
    shadingModelOf(material) === 'metalRough' ? null : 'the material is not metal/rough',
  reads: baseAndMetalness,
  make: (material, inputs, _params, progress) => convert(material, inputs, progress),
};

/**
 * The same, with the exponent that a legacy shader wants; a roughness map stays wired as glossiness for those
 * who read it.
 */
export const makeLegacy: Recipe = {
  id: 'legacy',
  title: 'To legacy',
  does: 'Diffuse and specular colour, and a specular exponent from the roughness: Ns = 2 / roughness^4 - 2.',
  params: [],
  together: true,
  refuses: (material) => (shadingModelOf(material) === 'legacy' ? 'the material is legacy already' : null),
  reads: (material, params) =>
    shadingModelOf(material) === 'metalRough' ? baseAndMetalness(material, params) : [],
  async make(material, inputs, _params, progress) {
    const exponent = Math.round(exponentOfMaterial(material) * 100) / 100;
    const metalRough = shadingModelOf(material) === 'metalRough';
    const result: RecipeResult = metalRough
      ? await convert(material, inputs, progress)
      : { images: [], slots: [], figures: [] };
    return {
      ...result,
      workflow: 'legacy',
      exponent,
      figures: [{ title: 'specular exponent', value: exponent, unit: '' }],
    };
  },
};

function baseAndMetalness({ channels }: Material, _params: Params): ChannelName[] {
  return (['baseColor', 'metalness'] as const).filter((channel) => channels[channel]?.map);
}

async function convert(material: Material, inputs: RecipeInputs, progress: Progress): Promise<RecipeResult> {
  const base = inputOf(inputs, 'baseColor', [1, 1, 1]);
  const metal = inputOf(inputs, 'metalness', 0);
  const slots: MadeSlot[] = [
    { channel: 'metalness', value: null, map: null },
    { channel: 'roughness', value: null, map: null },
  ];
  const { roughness, glossiness } = material.channels;
  if (roughness?.map)
    slots.push({
      channel: 'glossiness',
      value: 1,
      map: complementUse(scalarValue(roughness.value), roughness.map),
    });
  else if (roughness || !glossiness)
    slots.push({ channel: 'glossiness', value: 1 - roughnessOfMaterial(material), map: null });
  const dielectric = dielectricOf(material);
  if (dielectric !== DIELECTRIC) slots.push({ channel: 'specular', value: null, map: null });
  const done = { slots, workflow: 'specGloss' as const, figures: [] };
  const metalValue = scalarValue(metal.value);
  if (!metal.pixels && (metalValue === 0 || !base.pixels)) {
    const colour = colourValue(base.value);
    const specular = colour.map((component) => dielectric + (component - dielectric) * metalValue) as [
      number,
      number,
      number,
    ];
    slots.push({
      channel: 'baseColor',
      value: colour.map((component) => component * (1 - metalValue)) as [number, number, number],
      map: metalValue === 0 ? mapOf(material, 'baseColor') : null,
    });
    slots.push({ channel: 'specularColor', value: specular, map: null });
    return { ...done, images: [] };
  }
  const both = [base, metal];
  const grid = gridOf(both) as { width: number; height: number };
  const like = (base.map ?? metal.map) as NonNullable<typeof base.map>;
  const space = base.map?.space ?? 'srgb_rec709_scene';
  const [diffuse, specular] = [imageLike(both, grid, 3), imageLike(both, grid, 3)];
  const [readBase, readMetal] = [colourReader(base, grid), scalarReader(metal, grid)];
  const [writeDiffuse, writeSpecular] = [colourWriter(diffuse, space), colourWriter(specular, space)];
  const [colours, metals, other] = [
    new Float64Array(grid.width * 3),
    new Float64Array(grid.width),
    new Float64Array(grid.width * 3),
  ];
  await eachRow(grid, progress, (y) => {
    readBase(y, colours);
    readMetal(y, metals);
    for (let x = 0, i = 0; x < grid.width; x += 1) {
      const metalness = metals[x];
      for (const end = i + 3; i < end; i += 1) {
        other[i] = dielectric + (colours[i] - dielectric) * metalness;
        colours[i] *= 1 - metalness;
      }
    }
    writeDiffuse(y, colours);
    writeSpecular(y, other);
  });
  const white: [number, number, number] = [1, 1, 1];
  slots.push(
    { channel: 'baseColor', value: white, map: 'made' },
    { channel: 'specularColor', value: white, map: 'made' },
  );
  return {
    ...done,
    images: [
      { channel: 'baseColor', pixels: diffuse, space, like },
      { channel: 'specularColor', pixels: specular, space, like },
    ],
  };
}
