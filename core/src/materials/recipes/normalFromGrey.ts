import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName, MapUse, Material } from '../../scene/material.ts';
import { inputOf, mapOf, type Progress, type Recipe } from './recipe.ts';
import { eachRow, imageLike, scalarReader, scalarWriter } from './rows.ts';

const SOURCES = ['height', 'bump', 'baseColor', 'roughness', 'occlusion', 'specular'] as const;

/** Channels whose levels are heights by themselves. */
const HEIGHTS: readonly ChannelName[] = ['height', 'bump'];

/**
 * A normal map from grey levels as heights, by a Scharr slope. The strength is how high the range from black
 * to white stands, in hundredths of the image's width, so it means the same at every size. The map that it
 * comes from stays; a base colour or another map that is no height is taken only where it is asked for.
 */
export const normalFromGrey: Recipe = {
  id: 'normal',
  title: 'Make a normal map',
  does: 'Grey levels are taken as heights and their slopes become a tangent-space normal map.',
  params: [
    {
      key: 'from',
      title: 'From',
      choices: SOURCES.map((value) => ({ value, title: value })),
      fallback: 'height',
    },
    { key: 'strength', title: 'Strength', min: 0.05, max: 10, step: 0.05, fallback: 1, unit: '% of width' },
    { key: 'smooth', title: 'Smoothing', min: 0, max: 8, step: 1, fallback: 0, unit: 'px' },
    {
      key: 'bright',
      title: 'Bright is',
      choices: [
        { value: 'high', title: 'high' },
        { value: 'low', title: 'low' },
      ],
      fallback: 'high',
    },
    {
      key: 'direction',
      title: 'Green points',
      choices: [
        { value: 'Y+', title: 'up (Y+)' },
        { value: 'Y-', title: 'down (Y-)' },
      ],
      fallback: 'Y+',
    },
  ],
  refuses(material, { from } = {}) {
    if (sourceOf(material, from)) return null;
    const others = SOURCES.filter((channel) => mapOf(material, channel));
    if (others.length === 0) return 'no map has grey levels to make it from';
    return `it has no ${channelInWords(String(from ?? 'height'))}; choose ${others.map(channelInWords).join(' or ')} to make it from`;
  },
  reads: (material, { from }) => [sourceOf(material, from)].flatMap((channel) => channel ?? []),
  async make(material, inputs, params, progress) {
    const channel = sourceOf(material, params.from) ?? 'height';
    const input = inputOf(inputs, channel, 0);
    if (!input.pixels || !input.map) return { images: [], slots: [], figures: [] };
    const { width, height } = input.pixels;
    // The stored numbers are the heights: gain and value of a height channel are its amount, which the
    // strength replaces.
    const heights = await readHeights(
      { ...input, value: 1, map: { ...input.map, gain: 1, offset: 0, component: greyOf(input.map) } },
      progress,
    );
    blur(heights, { width, height }, Number(params.smooth), input.map);
    const out = imageLike([input], { width, height }, 3);
    const scale = (Number(params.strength) / 100) * width * (params.bright === 'low' ? -1 : 1);
    const slopes = { heights, scale, green: params.direction === 'Y-' ? (-1 as const) : (1 as const) };
    await writeNormals(slopes, out, input.map, (share) => progress(0.3 + 0.7 * share));
    const normalY = params.direction === 'Y-' ? ('Y-' as const) : ('Y+' as const);
    return {
      images: [{ channel: 'normal', pixels: out, space: 'data', like: input.map, normalY }],
      slots: [
        { channel: 'normal', value: 1, map: 'made' },
        ...(channel === 'bump' ? [{ channel, value: null, map: null }] : []),
      ],
      figures: [],
    };
  },
};

/** Heights stand in for each other; anything else is taken only where it is asked for. */
function sourceOf(material: Material, from: number | string | undefined): ChannelName | undefined {
  return [SOURCES.find((channel) => channel === from), ...HEIGHTS].find(
    (channel) => channel && mapOf(material, channel),
  );
}

function greyOf({ component }: MapUse): MapUse['component'] {
  return component === 'rgb' ? 'luminance' : component;
}

async function readHeights(
  input: Parameters<typeof scalarReader>[0],
  progress: Progress,
): Promise<Float32Array> {
  const { width, height } = input.pixels as PixelBuffer;
  const heights = new Float32Array(width * height);
  const read = scalarReader(input, { width, height });
  const row = new Float64Array(width);
  await eachRow(
    { width, height },
    (share) => progress(0.3 * share),
    (y) => {
      read(y, row);
      heights.set(row, y * width);
    },
  );
  return heights;
}

/** A box blur of the given radius, twice; edges follow the wrapping. */
function blur(
  heights: Float32Array,
  { width, height }: Record<'width' | 'height', number>,
  radius: number,
  { wrap }: MapUse,
): void {
  if (radius < 1) return;
  const line = new Float32Array(Math.max(width, height));
  const pass = (count: number, first: number, step: number, repeat: boolean) => {
    for (let i = 0; i < count; i += 1) line[i] = heights[first + i * step];
    let sum = 0;
    for (let i = -radius; i <= radius; i += 1) sum += line[place(i, count, repeat)];
    for (let i = 0; i < count; i += 1) {
      heights[first + i * step] = sum / (2 * radius + 1);
      sum += line[place(i + radius + 1, count, repeat)] - line[place(i - radius, count, repeat)];
    }
  };
  for (let turn = 0; turn < 2; turn += 1) {
    for (let y = 0; y < height; y += 1) pass(width, y * width, 1, wrap[0] === 'repeat');
    for (let x = 0; x < width; x += 1) pass(height, x, width, wrap[1] === 'repeat');
  }
}

interface Slopes {
  heights: Float32Array;
  /** Rise of a surface by a height of 1, in pixels. */
  scale: number;
  /** 1 where green points up, -1 where it points down. */
  green: 1 | -1;
}

/**
 * Scharr: 3 10 3 across, divided so that a slope of one level per pixel gives 1. Rows run downwards, v
 * upwards.
 */
async function writeNormals(
  { heights, scale, green }: Slopes,
  out: PixelBuffer,
  { wrap }: MapUse,
  progress: Progress,
): Promise<void> {
  const { width, height } = out;
  const rows = [0, 1, 2].map((component) => scalarWriter(out, component));
  const [xs, ys, zs] = [new Float64Array(width), new Float64Array(width), new Float64Array(width)];
  await eachRow({ width, height }, progress, (y) => {
    const [up, here, down] = [
      place(y - 1, height, wrap[1] === 'repeat') * width,
      y * width,
      place(y + 1, height, wrap[1] === 'repeat') * width,
    ];
    for (let x = 0; x < width; x += 1) {
      const [left, right] = [
        place(x - 1, width, wrap[0] === 'repeat'),
        place(x + 1, width, wrap[0] === 'repeat'),
      ];
      const [nw, ne, sw, se] = [
        heights[up + left],
        heights[up + right],
        heights[down + left],
        heights[down + right],
      ];
      const slopeX =
        ((3 * (ne + se - nw - sw) + 10 * (heights[here + right] - heights[here + left])) / 32) * scale;
      const slopeDown = ((3 * (sw + se - nw - ne) + 10 * (heights[down + x] - heights[up + x])) / 32) * scale;
      const length = Math.sqrt(slopeX * slopeX + slopeDown * slopeDown + 1);
      xs[x] = 0.5 - (0.5 * slopeX) / length;
      ys[x] = 0.5 + (0.5 * slopeDown * green) / length;
      zs[x] = 0.5 + 0.5 / length;
    }
    rows[0](y, xs);
    rows[1](y, ys);
    rows[2](y, zs);
  });
}

function place(i: number, count: number, repeat: boolean): number {
  if (repeat) return ((i % count) + count) % count;
  return Math.min(count - 1, Math.max(0, i));
}
