import type { ChannelName, Material, Rgb } from '../../scene/material.ts';
import { roughnessOfExponent } from '../../scene/shading.ts';
import { residualOf, solveMetalRough } from '../specGloss.ts';
import { complementUse, colourValue, inputOf, type MadeSlot, type Recipe, scalarValue } from './recipe.ts';
import { colourReader, colourWriter, eachRow, gridOf, imageLike, scalarWriter } from './rows.ts';

/** From this residual on a difference is seen. */
const SEEN = 0.02;

/**
 * Spec/gloss and legacy to metal/rough, pixel by pixel, by the appendix of KHR_materials_pbrSpecularGlossiness. Legacy
 * materials are taken as spec/gloss whose roughness comes from the exponent. The residual says how much of the look the
 * new model cannot hold; it is 0 where diffuse and specular come from a metal/rough surface.
 */
export const makeMetalRough: Recipe = {
  id: 'metal-rough',
  title: 'To metal/rough',
  does: 'Base colour and metalness solved from diffuse and specular colour; roughness is glossiness read inverted.',
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
    const grid = gridOf([diffuse, specular]);
    const out = new Float64Array(4);
    if (!grid) {
      const [d, s] = [colourValue(diffuse.value), colourValue(specular.value).map((part) => Math.min(1, part)) as Rgb];
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
        const [sr, sg, sb] = [Math.min(1, speculars[at]), Math.min(1, speculars[at + 1]), Math.min(1, speculars[at + 2])];
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

function roughnessSlots({ channels, exponent }: Material): MadeSlot[] {
  if (channels.roughness) return [];
  const { glossiness } = channels;
  if (!glossiness) return [{ channel: 'roughness', value: exponent === null ? 1 : roughnessOfExponent(exponent), map: null }];
  const value = scalarValue(glossiness.value);
  if (!glossiness.map) return [{ channel: 'roughness', value: 1 - value, map: null }];
  return [{ channel: 'roughness', value: 1, map: complementUse(value, glossiness.map) }];
}
