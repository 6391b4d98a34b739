import { inputOf, mapOf, opacityAlong, type Recipe } from './recipe.ts';
import { alphaReader, colourReader, colourWriter, eachRow, imageLike, scalarReader, scalarWriter } from './rows.ts';

/** Darker than this nothing can be brought back: noise and rounding would be all there is. */
const DARKEST = 0.1;

/**
 * Divides an occlusion out of the base colour that it was multiplied into: base / mix(1, occlusion, strength), in the
 * stored numbers or in light, as it was multiplied. Best effort: what was cut or rounded away does not come back.
 */
export const removeOcclusion: Recipe = {
  id: 'remove-occlusion',
  title: 'Remove occlusion',
  does: 'The occlusion that was multiplied into the base colour is divided out again, as far as the pixels allow.',
  params: [
    { key: 'strength', title: 'Strength', min: 0, max: 1, step: 0.01, fallback: 1, unit: '' },
    {
      key: 'in',
      title: 'Multiplied in',
      choices: [
        { value: 'stored', title: 'stored numbers' },
        { value: 'light', title: 'linear light' },
      ],
      fallback: 'stored',
    },
  ],
  refuses(material) {
    if (!mapOf(material, 'baseColor')) return 'the base colour has no map';
    return mapOf(material, 'occlusion') ? null : 'there is no occlusion map to divide by';
  },
  reads: () => ['baseColor', 'occlusion'],
  async make(material, inputs, { strength, in: where }, progress) {
    const base = inputOf(inputs, 'baseColor', [1, 1, 1]);
    const { map, pixels } = base;
    if (!map || !pixels) return { images: [], slots: [], figures: [] };
    const { width, height, components } = pixels;
    const grid = { width, height };
    const stored = where === 'stored';
    const read = colourReader(stored ? { value: [1, 1, 1], map: { ...map, space: 'data' }, pixels } : { ...base, value: [1, 1, 1] }, grid);
    const readOcclusion = scalarReader(inputOf(inputs, 'occlusion', 1), grid);
    const hasAlpha = components === 2 || components === 4;
    const out = imageLike([base], grid, hasAlpha ? 4 : 3);
    const write = colourWriter(out, stored ? 'data' : map.space);
    const [readAlpha, writeAlpha] = [alphaReader(pixels), scalarWriter(out, 3)];
    const [row, occlusions] = [new Float64Array(width * 3), new Float64Array(width)];
    const [integers, by] = [!(out.data instanceof Float32Array), Number(strength)];
    let [clipped, gain] = [0, 0];
    await eachRow(grid, progress, (y) => {
      read(y, row);
      readOcclusion(y, occlusions);
      for (let x = 0, at = 0; x < width; x += 1, at += 3) {
        const divisor = Math.max(DARKEST, 1 + (occlusions[x] - 1) * by);
        row[at] /= divisor;
        row[at + 1] /= divisor;
        row[at + 2] /= divisor;
        gain += 1 / divisor - 1;
        if (integers && (row[at] > 1 || row[at + 1] > 1 || row[at + 2] > 1)) clipped += 1;
      }
      write(y, row);
      if (!hasAlpha) return;
      readAlpha(y, occlusions);
      writeAlpha(y, occlusions);
    });
    const share = 100 / (width * height);
    return {
      images: [{ channel: 'baseColor', pixels: out, space: map.space, like: { ...map, ...(stored ? {} : { exponent: 1 }) } }],
      slots: [{ channel: 'baseColor', value: base.value, map: 'made' }, ...opacityAlong(material, 'baseColor', map)],
      figures: [
        { title: 'brighter on average', value: gain * share, unit: '%' },
        { title: 'of the pixels were cut at white', value: clipped * share, unit: '%' },
      ],
    };
  },
};
