import type { ChannelName, Material, Rgb } from '../../scene/material.ts';
import { roughnessOfExponent } from '../../scene/shading.ts';
import { DIELECTRIC, residualOf, solveMetalRough } from '../specGloss.ts';
import { complementUse, colourValue, inputOf, type MadeSlot, type Recipe, scalarValue } from './recipe.ts';
import { colourReader, colourWriter, eachRow, gridOf, imageLike, scalarWriter } from './rows.ts';

/** From this residual on a difference is seen. */
const SEEN = 0.02;

/**
 * Spec/gloss and legacy to metal/rough, pixel by pixel, by the appendix of KHR_materials_pbrSpecularGlossiness. Legacy
 * materials are taken as spec/gloss whose roughness comes from the exponent and whose reflectance is judged by its tint. The residual says how much of the look the
 * new model cannot hold; it is 0 where diffuse and specular come from a metal/rough surface.
 */
export const makeMetalRough: Recipe = {
  id: 'metal-rough',
  title: 'To metal/rough',
  does: 'Base colour and metalness solved from diffuse and specular colour; roughness from glossiness, or from the exponent.',
  params: [],
  refuses: (material) => (material.workflow === 'metalRough' ? 'the material is metal/rough already' : null),
  reads: ({ channels }) => (['baseColor', 'specularColor'] as const).filter((channel) => channels[channel]?.map) as ChannelName[],
  async make(material, inputs, _params, progress) {
    const diffuse = inputOf(inputs, 'baseColor', [1, 1, 1]);
    const specular = inputOf(inputs, 'specularColor', [0, 0, 0]);
    const slots: MadeSlot[] = [
      { channel: 'specularColor', value: null, map: null },
      { channel: 'glossiness', value: null, map: null },
      ...roughnessSlots(material),
    ];
    const done = { slots, workflow: 'metalRough' as const, exponent: null };
    // A classic material with a gloss image is painted as spec/gloss, whatever its file calls it.
    const legacy = material.workflow === 'legacy' && !material.channels.glossiness?.map;
    const reflect = legacy ? (colour: Rgb) => legacyReflectance(colour) : (colour: Rgb) => colour;
    const out = new Float64Array(4);
    const even = reflect(colourValue(specular.value).map((part) => Math.min(1, part)) as Rgb);
    if (legacy && !specular.pixels && Math.max(...even) <= DIELECTRIC) {
      // No more than any dielectric reflects: the diffuse is the base as it is, and no pixel changes.
      slots.push({ channel: 'metalness', value: 0, map: null });
      return { ...done, images: [], figures: [] };
    }
    const grid = gridOf([diffuse, specular]);
    if (!grid) {
      const [d, s] = [colourValue(diffuse.value), even];
      solveMetalRough(...d, ...s, out);
      slots.push({ channel: 'baseColor', value: [out[0], out[1], out[2]], map: null }, { channel: 'metalness', value: out[3], map: null });
      return { ...done, images: [], figures: [{ title: 'residual', value: residualOf(...d, ...s, out) * 100, unit: '%' }] };
    }
    const like = (diffuse.map ?? specular.map) as NonNullable<typeof diffuse.map>;
    const space = diffuse.map?.space ?? specular.map?.space ?? 'srgb_rec709_scene';
    const both = [diffuse, specular];
    const [base, metal] = [imageLike(both, grid, 3), imageLike(both, grid, 1)];
    const heat = { ...grid, components: 1, data: new Uint8Array(grid.width * grid.height) };
    const [readDiffuse, readSpecular] = [colourReader(diffuse, grid), colourReader(specular, grid)];
    const [writeBase, writeMetal] = [colourWriter(base, space), scalarWriter(metal)];
    const [diffuses, speculars, metals] = [new Float64Array(grid.width * 3), new Float64Array(grid.width * 3), new Float64Array(grid.width)];
    let [sum, most, seen] = [0, 0, 0];
    await eachRow(grid, progress, (y) => {
      readDiffuse(y, diffuses);
      readSpecular(y, speculars);
      for (let x = 0, at = 0; x < grid.width; x += 1, at += 3) {
        const [dr, dg, db] = [diffuses[at], diffuses[at + 1], diffuses[at + 2]];
        let [sr, sg, sb] = [Math.min(1, speculars[at]), Math.min(1, speculars[at + 1]), Math.min(1, speculars[at + 2])];
        if (legacy) [sr, sg, sb] = legacyReflectance([sr, sg, sb]);
        solveMetalRough(dr, dg, db, sr, sg, sb, out);
        const residual = residualOf(dr, dg, db, sr, sg, sb, out);
        sum += residual;
        if (residual > most) most = residual;
        if (residual > SEEN) seen += 1;
        heat.data[y * grid.width + x] = Math.min(255, Math.round(residual * 255));
        diffuses[at] = out[0];
        diffuses[at + 1] = out[1];
        diffuses[at + 2] = out[2];
        metals[x] = out[3];
      }
      writeBase(y, diffuses);
      writeMetal(y, metals);
    });
    slots.push({ channel: 'baseColor', value: [1, 1, 1], map: 'made' }, { channel: 'metalness', value: 1, map: 'made' });
    const pixels = grid.width * grid.height;
    return {
      ...done,
      images: [
        { channel: 'baseColor', pixels: base, space, like },
        { channel: 'metalness', pixels: metal, space: 'data', like },
      ],
      figures: [
        { title: 'mean residual', value: (sum / pixels) * 100, unit: '%' },
        { title: 'largest residual', value: most * 100, unit: '%' },
        { title: 'of the pixels are beyond 2%', value: (seen / pixels) * 100, unit: '%' },
      ],
      heat: { title: 'Residual', pixels: heat },
    };
  },
};

/**
 * What a legacy specular colour reflects at normal incidence. A grey one is the strength of a highlight, where 0.5 is
 * common and stands for 4%; a tinted one is the colour of a metal. In between the two are mixed by saturation.
 */
function legacyReflectance([r, g, b]: Rgb): Rgb {
  const [most, least] = [Math.max(r, g, b), Math.min(r, g, b)];
  const tint = most > 0 ? Math.min(1, ((most - least) / most) * 4) : 0;
  const scale = GREY_SHARE + (1 - GREY_SHARE) * tint;
  return [r * scale, g * scale, b * scale];
}

/** Reflectance of a legacy highlight of full strength: twice a dielectric's. */
const GREY_SHARE = 2 * DIELECTRIC;

function roughnessSlots({ channels, exponent }: Material): MadeSlot[] {
  if (channels.roughness) return [];
  const { glossiness } = channels;
  if (!glossiness) return [{ channel: 'roughness', value: exponent === null ? 1 : roughnessOfExponent(exponent), map: null }];
  const value = scalarValue(glossiness.value);
  if (!glossiness.map) return [{ channel: 'roughness', value: 1 - value, map: null }];
  return [{ channel: 'roughness', value: 1, map: complementUse(value, glossiness.map) }];
}
