import { complementUse } from '../../scene/mapUse.ts';
import type { ChannelName, Material, Rgb } from '../../scene/material.ts';
import { colourValue, scalarValue } from '../../scene/material.ts';
import { roughnessOfExponent } from '../../scene/shading.ts';
import { mayBeClassicMetal, shadingModelOf } from '../shadingModel.ts';
import { createSolver, type SpecularKind } from '../solveSurface.ts';
import { DIELECTRIC } from '../specGloss.ts';
import { inputOf, type MadeSlot, type Recipe, type RecipeInput } from './recipe.ts';
import { colourReader, colourWriter, eachRow, gridOf, imageLike, scalarWriter } from './rows.ts';

/** From this residual on a difference is seen. */
const SEEN = 0.02;

/**
 * Spec/gloss and legacy to metal/rough, pixel by pixel, by the appendix of
 * KHR_materials_pbrSpecularGlossiness. Classic materials are taken so as far as their colours are a metal's
 * (`classicMetalShare`); elsewhere the diffuse is the base as it stands. The residual says how much of the
 * look the new model cannot hold; it is 0 where diffuse and specular come from a metal/rough surface.
 */
export const makeMetalRough: Recipe = {
  id: 'metal-rough',
  title: 'To metal/rough',
  does: 'Base colour and metalness solved from diffuse and specular colour; roughness from glossiness, or from the exponent.',
  params: [],
  together: true,
  refuses: (material) =>
    shadingModelOf(material) === 'metalRough' ? 'the material is metal/rough already' : null,
  reads: ({ channels }) =>
    (['baseColor', 'specularColor'] as const).filter((channel) => channels[channel]?.map) as ChannelName[],
  async make(material, inputs, _params, progress) {
    const diffuse = inputOf(inputs, 'baseColor', [1, 1, 1]);
    const specular = inputOf(inputs, 'specularColor', [DIELECTRIC, DIELECTRIC, DIELECTRIC]);
    const slots: MadeSlot[] = [
      { channel: 'specularColor', value: null, map: null },
      { channel: 'glossiness', value: null, map: null },
      ...roughnessSlots(material),
    ];
    const done = { slots, workflow: 'metalRough' as const, exponent: null };
    const classic = shadingModelOf(material) === 'legacy';
    const solve = createSolver(specularKind(classic, specular));
    if (classic && !mayBeClassicMetal(material)) {
      // A highlight's strength alone: the diffuse is the base as it is, and no pixel changes.
      slots.push({ channel: 'metalness', value: 0, map: null });
      return { ...done, images: [], figures: [] };
    }
    const grid = gridOf([diffuse, specular]);
    if (!grid) {
      const [out, residual] = solve(colourValue(diffuse.value), colourValue(specular.value));
      slots.push(
        { channel: 'baseColor', value: [out[0], out[1], out[2]], map: null },
        { channel: 'metalness', value: out[3], map: null },
      );
      return {
        ...done,
        images: [],
        figures: [{ title: 'residual', value: residual * 100, unit: '%', of: 'residual' }],
      };
    }
    const like = (diffuse.map ?? specular.map) as NonNullable<typeof diffuse.map>;
    const space = diffuse.map?.space ?? specular.map?.space ?? 'srgb_rec709_scene';
    const both = [diffuse, specular];
    const [base, metal] = [imageLike(both, grid, 3), imageLike(both, grid, 1)];
    const heat = { ...grid, components: 1, data: new Uint8Array(grid.width * grid.height) };
    const [readDiffuse, readSpecular] = [colourReader(diffuse, grid), colourReader(specular, grid)];
    const [writeBase, writeMetal] = [colourWriter(base, space), scalarWriter(metal)];
    const [diffuses, speculars, metals] = [
      new Float64Array(grid.width * 3),
      new Float64Array(grid.width * 3),
      new Float64Array(grid.width),
    ];
    const [d, s]: [Rgb, Rgb] = [
      [0, 0, 0],
      [0, 0, 0],
    ];
    let [sum, most, seen] = [0, 0, 0];
    await eachRow(grid, progress, (y) => {
      readDiffuse(y, diffuses);
      readSpecular(y, speculars);
      for (let x = 0, index = 0; x < grid.width; x += 1, index += 3) {
        for (let k = 0; k < 3; k += 1) {
          d[k] = diffuses[index + k];
          s[k] = speculars[index + k];
        }
        const [out, residual] = solve(d, s);
        sum += residual;
        if (residual > most) most = residual;
        if (residual > SEEN) seen += 1;
        heat.data[y * grid.width + x] = Math.min(255, Math.round(residual * 255));
        for (let k = 0; k < 3; k += 1) diffuses[index + k] = out[k];
        metals[x] = out[3];
      }
      writeBase(y, diffuses);
      writeMetal(y, metals);
    });
    slots.push(
      { channel: 'baseColor', value: [1, 1, 1], map: 'made' },
      { channel: 'metalness', value: 1, map: 'made' },
    );
    const pixels = grid.width * grid.height;
    return {
      ...done,
      images: [
        { channel: 'baseColor', pixels: base, space, like },
        { channel: 'metalness', pixels: metal, space: 'data', like },
      ],
      figures: [
        { title: 'mean residual', value: (sum / pixels) * 100, unit: '%', of: 'residual' },
        { title: 'largest residual', value: most * 100, unit: '%', of: 'residual', over: 'most' },
        { title: 'of the pixels are beyond 2%', value: (seen / pixels) * 100, unit: '%' },
      ],
      heat: { title: 'Residual', pixels: heat },
    };
  },
};

function specularKind(classic: boolean, specular: RecipeInput): SpecularKind {
  if (!classic) return 'reflectance';
  return specular.pixels ? 'painted' : 'classic';
}

function roughnessSlots({ channels, exponent }: Material): MadeSlot[] {
  if (channels.roughness) return [];
  const { glossiness } = channels;
  if (!glossiness)
    return [
      { channel: 'roughness', value: exponent === null ? 1 : roughnessOfExponent(exponent), map: null },
    ];
  const value = scalarValue(glossiness.value);
  if (!glossiness.map) return [{ channel: 'roughness', value: 1 - value, map: null }];
  return [{ channel: 'roughness', value: 1, map: complementUse(value, glossiness.map) }];
}
