import { complementUse } from '../../scene/mapUse.ts';
import type { ChannelName, MapUse, Material, Rgb } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { exponentOfMaterial, roughnessOfMaterial } from '../../scene/shading.ts';
import { dielectricOf, tintedDielectric } from '../metalRough.ts';
import { shadingModelOf } from '../shadingModel.ts';
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
import { colourReader, colourWriter, eachRow, type Grid, gridOf, imageLike, scalarReader } from './rows.ts';

/**
 * Metal/rough to spec/gloss: diffuse = base x (1 - metalness), specular = mix(0.04, base, metalness),
 * glossiness = 1 - roughness. Where metal/rough weakens or tints what dielectrics reflect, 0.04 is as much less.
 */
export const makeSpecGloss: Recipe = {
  id: 'spec-gloss',
  title: 'To spec/gloss',
  does: 'Diffuse and specular colour from base colour and metalness; glossiness is roughness read inverted.',
  params: [],
  together: true,
  refuses: (material) =>
    shadingModelOf(material) === 'metalRough' ? null : 'the material is not metal/rough',
  reads: mixedChannels,
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
    shadingModelOf(material) === 'metalRough' ? mixedChannels(material, params) : [],
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

function mixedChannels({ channels, workflow }: Material, _params: Params): ChannelName[] {
  const mapped = (...names: ChannelName[]) => names.filter((channel) => channels[channel]?.map);
  const highlights = workflow === 'metalRough' ? mapped('specularColor', 'specular') : [];
  // Without metal the base colour stays as it is, and reflections lie as they like.
  const isMixed = channels.metalness?.map || scalarValue(channels.metalness?.value ?? 0) > 0;
  return [...(isMixed || highlights.length === 0 ? mapped('baseColor', 'metalness') : []), ...highlights];
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
  const isOwn = material.workflow === 'metalRough';
  if (isOwn && material.channels.specular) slots.push({ channel: 'specular', value: null, map: null });
  const tint = isOwn ? inputOf(inputs, 'specularColor', WHITE) : { ...NOTHING, value: WHITE };
  const weight = isOwn ? inputOf(inputs, 'specular', 1) : { ...NOTHING, value: 1 };
  const byIndex = dielectricOf(material);
  const done = { slots, workflow: 'specGloss' as const, figures: [] };
  const metalValue = scalarValue(metal.value);
  const isMixed = metal.pixels !== null || (metalValue > 0 && base.pixels !== null);
  const colour = colourValue(base.value);
  if (!isMixed)
    slots.push({
      channel: 'baseColor',
      value: colour.map((component) => component * (1 - metalValue)) as Rgb,
      map: metalValue === 0 ? mapOf(material, 'baseColor') : null,
    });
  if (!isMixed && !tint.pixels && !weight.pixels) {
    const tints = colourValue(tint.value);
    const specular = colour.map((component, k) => {
      const dielectric = tintedDielectric(byIndex, tints[k], scalarValue(weight.value));
      return dielectric + (component - dielectric) * metalValue;
    }) as Rgb;
    slots.push({ channel: 'specularColor', value: specular, map: null });
    return { ...done, images: [] };
  }
  const plainBase = isMixed ? base : { ...NOTHING, value: base.value };
  const all = [plainBase, metal, tint, weight];
  const grid = gridOf(all) as Grid;
  const like = all.find(({ map, pixels }) => map && pixels)?.map as MapUse;
  const space = (isMixed ? base : tint).map?.space ?? 'srgb_rec709_scene';
  const specular = imageLike(all, grid, 3);
  const diffuse = isMixed ? imageLike(all, grid, 3) : null;
  const [readBase, readMetal] = [colourReader(plainBase, grid), scalarReader(metal, grid)];
  const [readTint, readWeight] = [colourReader(tint, grid), scalarReader(weight, grid)];
  const [writeDiffuse, writeSpecular] = [
    diffuse && colourWriter(diffuse, space),
    colourWriter(specular, space),
  ];
  const [colours, other] = [new Float64Array(grid.width * 3), new Float64Array(grid.width * 3)];
  const [metals, weights] = [new Float64Array(grid.width), new Float64Array(grid.width)];
  await eachRow(grid, progress, (y) => {
    readBase(y, colours);
    readMetal(y, metals);
    readTint(y, other);
    readWeight(y, weights);
    for (let x = 0, i = 0; x < grid.width; x += 1) {
      const metalness = metals[x];
      for (const end = i + 3; i < end; i += 1) {
        const dielectric = tintedDielectric(byIndex, other[i], weights[x]);
        other[i] = dielectric + (colours[i] - dielectric) * metalness;
        colours[i] *= 1 - metalness;
      }
    }
    writeDiffuse?.(y, colours);
    writeSpecular(y, other);
  });
  if (diffuse) slots.push({ channel: 'baseColor', value: WHITE, map: 'made' });
  slots.push({ channel: 'specularColor', value: WHITE, map: 'made' });
  return {
    ...done,
    images: [
      ...(diffuse ? [{ channel: 'baseColor' as const, pixels: diffuse, space, like }] : []),
      { channel: 'specularColor', pixels: specular, space, like },
    ],
  };
}

const WHITE: Rgb = [1, 1, 1];
const NOTHING = { map: null, pixels: null };
