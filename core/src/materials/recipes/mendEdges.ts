import { unitOf } from '../../images/pixelBuffer.ts';
import { VISIBLE } from '../../maps/edgeFacts.ts';
import type { Material } from '../../scene/material.ts';
import { inputOf, mapOf, opacityAlong, type Recipe } from './recipe.ts';
import { alphaReader, eachRow, MULTIPLIED_IN, rewriteColour } from './rows.ts';

/** Below this alpha a premultiplied colour holds too few codes to be brought back. */
const THINNEST = 1 / 255;

/** Divides the colour by its alpha again, in the stored numbers (as most programs multiply) or in light. */
export const undoPremultiplied: Recipe = {
  id: 'undo-premultiplied',
  title: 'Undo premultiplied colour',
  does: 'The colour is divided by its alpha, so that half-clear edges have the full colour again.',
  params: [MULTIPLIED_IN],
  refuses: needsAlpha,
  reads: () => ['baseColor'],
  async make(material, inputs, { in: where }, progress) {
    const base = inputOf(inputs, 'baseColor', [1, 1, 1]);
    const { map, pixels } = base;
    if (!map || !pixels || !hasAlpha(pixels.components)) return { images: [], slots: [], figures: [] };
    const { width, height } = pixels;
    const readAlpha = alphaReader(pixels);
    const alphas = new Float64Array(width);
    let changed = 0;
    const out = await rewriteColour(
      { value: [1, 1, 1], map, pixels },
      where === 'stored',
      progress,
      (row, y) => {
        readAlpha(y, alphas);
        for (let x = 0, index = 0; x < width; x += 1, index += 3) {
          const alpha = alphas[x];
          if (alpha < THINNEST || alpha >= 1) continue;
          for (let k = index; k < index + 3; k += 1) row[k] = Math.min(1, row[k] / alpha);
          changed += 1;
        }
      },
    );
    return {
      images: [{ channel: 'baseColor', pixels: out, space: map.space, like: map }],
      slots: [
        { channel: 'baseColor', value: base.value, map: 'made' },
        ...opacityAlong(material, 'baseColor', map),
      ],
      figures: [{ title: 'of the pixels changed', value: (changed / (width * height)) * 100, unit: '%' }],
    };
  },
};

/**
 * Carries the colour of whole pixels outwards under the alpha, each clear or half-clear pixel within the
 * width taking that of the nearest whole one; where there is none (thin print), what is hardly seen takes that
 * of the nearest visible one. Alpha stays. Nearest by two sweeps over offsets (dead reckoning), exact to a
 * fraction of a pixel.
 */
export const padEdges: Recipe = {
  id: 'pad-edges',
  title: 'Pad the edges',
  does: 'Colour is carried outwards under the alpha, so that filtering finds no black or foreign colour beside the edge.',
  params: [
    { key: 'width', title: 'Width', min: 1, max: 128, step: 1, fallback: 16, unit: 'px' },
    { key: 'solid', title: 'Whole from alpha', min: 0.05, max: 1, step: 0.05, fallback: 0.95, unit: '' },
  ],
  refuses: needsAlpha,
  reads: () => ['baseColor'],
  async make(material, inputs, { width: reach, solid }, progress) {
    const base = inputOf(inputs, 'baseColor', [1, 1, 1]);
    const { map, pixels } = base;
    if (!map || !pixels || !hasAlpha(pixels.components)) return { images: [], slots: [], figures: [] };
    const { width, height, components, data } = pixels;
    const alphaOf = (i: number) => data[(i + 1) * components - 1] / unitOf(data);
    const near = (from: number, i: number) =>
      from >= 0 &&
      ((from % width) - (i % width)) ** 2 + (Math.floor(from / width) - Math.floor(i / width)) ** 2 <=
        Number(reach) ** 2;
    const whole = nearestWhole(width, height, (i) => alphaOf(i) >= Number(solid));
    const lone = (i: number) => alphaOf(i) >= VISIBLE && !near(whole[i], i);
    const thin = isAny(width * height, lone) ? nearestWhole(width, height, lone) : null;
    await progress(0.7);
    const sourceOf = (i: number) => {
      if (near(whole[i], i)) return whole[i];
      return thin && near(thin[i], i) ? thin[i] : i;
    };
    const out = data.slice();
    let changed = 0;
    await eachRow(
      { width, height },
      (share) => progress(0.7 + 0.3 * share),
      (y) => {
        for (let i = y * width; i < (y + 1) * width; i += 1) {
          const from = sourceOf(i);
          if (from === i) continue;
          for (let k = 0; k < components - 1; k += 1) out[i * components + k] = data[from * components + k];
          changed += 1;
        }
      },
    );
    return {
      images: [
        {
          channel: 'baseColor',
          pixels: { width, height, components, data: out },
          space: map.space,
          like: map,
        },
      ],
      slots: [
        { channel: 'baseColor', value: base.value, map: 'made' },
        ...opacityAlong(material, 'baseColor', map),
      ],
      figures: [{ title: 'of the pixels were padded', value: (changed / (width * height)) * 100, unit: '%' }],
    };
  },
};

function isAny(count: number, is: (i: number) => boolean): boolean {
  for (let i = 0; i < count; i += 1) if (is(i)) return true;
  return false;
}

function hasAlpha(components: number): boolean {
  return components === 2 || components === 4;
}

function needsAlpha(material: Material): string | null {
  const map = mapOf(material, 'baseColor');
  if (!map) return 'the base colour has no map';
  const opacity = mapOf(material, 'opacity');
  return opacity?.image === map.image && opacity.component === 'a'
    ? null
    : 'the opacity is not the alpha of the base colour';
}

/** For every pixel the index of the nearest whole one, -1 where there is none. */
function nearestWhole(width: number, height: number, isWhole: (i: number) => boolean): Int32Array {
  const nearest = new Int32Array(width * height).fill(-1);
  for (let i = 0; i < nearest.length; i += 1) if (isWhole(i)) nearest[i] = i;
  const distance = (i: number, x: number, y: number) => {
    const from = nearest[i];
    return from < 0
      ? Number.POSITIVE_INFINITY
      : ((from % width) - x) ** 2 + (Math.floor(from / width) - y) ** 2;
  };
  const look = (x: number, y: number, offsets: readonly (readonly [number, number])[]) => {
    const here = y * width + x;
    if (nearest[here] === here) return;
    let best = distance(here, x, y);
    for (const [ox, oy] of offsets) {
      const [nx, ny] = [x + ox, y + oy];
      if (nx < 0 || ny < 0 || nx >= width || ny >= height) continue;
      const other = distance(ny * width + nx, x, y);
      if (other < best) {
        best = other;
        nearest[here] = nearest[ny * width + nx];
      }
    }
  };
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) look(x, y, FORWARD);
    for (let x = width - 1; x >= 0; x -= 1) look(x, y, RIGHT);
  }
  for (let y = height - 1; y >= 0; y -= 1) {
    for (let x = width - 1; x >= 0; x -= 1) look(x, y, BACKWARD);
    for (let x = 0; x < width; x += 1) look(x, y, LEFT);
  }
  return nearest;
}

const FORWARD = [
  [-1, 0],
  [-1, -1],
  [0, -1],
  [1, -1],
] as const;
const RIGHT = [[1, 0]] as const;
const BACKWARD = [
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
] as const;
const LEFT = [[-1, 0]] as const;
