import { layingOf } from './laying.ts';
import { inputOf, mapOf, opacityAlong, type Recipe } from './recipe.ts';
import { isBeyondWhite, MULTIPLIED_IN, rewriteColour, scalarReader } from './rows.ts';

/** Darker than this nothing can be brought back: noise and rounding would be all there is. */
const DARKEST = 0.1;

/**
 * Divides an occlusion out of the base colour that it was multiplied into: base / mix(1, occlusion,
 * strength), in the stored numbers or in light, as it was multiplied. Best effort: what was cut or rounded
 * away does not come back.
 */
export const removeOcclusion: Recipe = {
  id: 'remove-occlusion',
  title: 'Remove occlusion',
  does: 'The occlusion that was multiplied into the base colour is divided out again, as far as the pixels allow.',
  params: [
    { key: 'strength', title: 'Strength', min: 0, max: 1, step: 0.01, fallback: 1, unit: '' },
    MULTIPLIED_IN,
  ],
  refuses(material) {
    if (!mapOf(material, 'baseColor')) return 'the base colour has no map';
    if (!mapOf(material, 'occlusion')) return 'there is no occlusion map to divide by';
    return layingOf(material, removeOcclusion).elsewhere.length > 0
      ? 'the occlusion map lies elsewhere than the base colour, by its UV set or its transform'
      : null;
  },
  together: true,
  reads: () => ['baseColor', 'occlusion'],
  async make(material, inputs, { strength, in: where }, progress) {
    const { value, map, pixels } = inputOf(inputs, 'baseColor', [1, 1, 1]);
    if (!map || !pixels) return { images: [], slots: [], figures: [] };
    const { width, height } = pixels;
    const readOcclusion = scalarReader(inputOf(inputs, 'occlusion', 1), { width, height });
    const occlusions = new Float64Array(width);
    const by = Number(strength);
    let [clipped, gain] = [0, 0];
    const out = await rewriteColour(
      { value: [1, 1, 1], map, pixels },
      where === 'stored',
      progress,
      (row, y) => {
        readOcclusion(y, occlusions);
        for (let x = 0, index = 0; x < width; x += 1, index += 3) {
          const divisor = Math.max(DARKEST, 1 + (occlusions[x] - 1) * by);
          for (let k = index; k < index + 3; k += 1) row[k] /= divisor;
          gain += 1 / divisor - 1;
          if (isBeyondWhite(row, index)) clipped += 1;
        }
      },
    );
    const share = 100 / (width * height);
    return {
      images: [{ channel: 'baseColor', pixels: out, space: map.space, like: map }],
      slots: [{ channel: 'baseColor', value, map: 'made' }, ...opacityAlong(material, 'baseColor', map)],
      figures: [
        { title: 'brighter on average', value: gain * share, unit: '%' },
        {
          title: 'of the pixels were cut at white',
          value: out.data instanceof Float32Array ? 0 : clipped * share,
          unit: '%',
        },
      ],
    };
  },
};
