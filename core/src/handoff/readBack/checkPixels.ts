import { convertColour } from '../../colour/spaces.ts';
import { DecodedImages } from '../../images/decodedImages.ts';
import { type PixelBuffer, pixelAt } from '../../images/pixelBuffer.ts';
import { changeNormal, changesNormals } from '../../maps/normalRepair.ts';
import type { ReadFile } from '../../parcel/fileSource.ts';
import { curveOf, isLight, jointChange } from '../bake/bake.ts';
import type { ComponentSource, ImageSource, PlannedImage } from '../plan/planImage.ts';
import type { HandoffCheck } from './readBack.ts';

const SAMPLES = 97;
/** One step of 8-bit rounding on either side; 16 bits lie between two codes; halves have eleven bits. */
const TOLERANCE = { 8: 1.01 / 255, 16: 1.01 / 4096, half: 1.01 / 1024, float: 1e-5 } as const;

function toleranceOf({ map, copyOf }: PlannedImage): number {
  return copyOf ? TOLERANCE[8] : TOLERANCE[map.depth];
}

function toleranceText(image: PlannedImage): string {
  return `1/${Math.round(1.01 / toleranceOf(image))}`;
}

function isFloat({ map: { depth } }: PlannedImage): boolean {
  return depth === 'half' || depth === 'float';
}

function depthText(image: PlannedImage): string {
  return isFloat(image) ? 'floats' : `${image.map.depth} bits`;
}

function depthOf({ data }: PixelBuffer): string {
  return data instanceof Float32Array ? 'floats' : `${data instanceof Uint8Array ? 8 : 16} bits`;
}

/** Decodes the written image and compares sample points with the sources, each worked out pixel by pixel. */
export async function checkPixels(
  image: PlannedImage,
  bytes: Uint8Array | null | undefined,
  read: ReadFile,
  images = new DecodedImages(),
): Promise<HandoffCheck> {
  const check = `pixels of ${image.file}`;
  if (!bytes) return { check, ok: false, expected: 'an image', found: 'none' };
  const written = await images.decode(bytes, image.file);
  const sources = new Map<string, PixelBuffer>();
  for (const source of image.components) {
    if (source.from === 'image' && !sources.has(source.path))
      sources.set(source.path, await images.decode(await read(source.path), source.path));
  }
  let largest = 0;
  let compared = 0;
  const rescaled = image.components.some(
    (source) => source.from === 'image' && isRescaled(sources.get(source.path) as PixelBuffer, image),
  );
  for (let i = 0; i < SAMPLES; i += 1) {
    const x = Math.floor(((i * 0.754877666) % 1) * image.width);
    const y = Math.floor(((i * 0.569840291) % 1) * image.height);
    image.components.forEach((source, component) => {
      const expected = expectedAt(source, sources, image, [x, y]);
      if (expected === null) return;
      compared += 1;
      largest = Math.max(largest, Math.abs(expected - pixelAt(written, x, y, component as 0 | 1 | 2 | 3)));
    });
  }
  const regions =
    rescaled && written.width === image.width && written.height === image.height
      ? compareRegions(image, written, sources)
      : 0;
  const sized = written.width === image.width && written.height === image.height;
  const deep = image.copyOf !== null || depthOf(written) === depthText(image);
  const text = rescaled
    ? `; rescaled: means of 16 regions at most ${(regions * 255).toFixed(2)}/255 apart`
    : '';
  return {
    check,
    ok: sized && deep && largest <= toleranceOf(image) && regions <= regionTolerance(image),
    expected: `${image.width} x ${image.height}, ${depthText(image)}, within ${toleranceText(image)} of the sources`,
    found: `${written.width} x ${written.height}, ${compared} samples, at most ${(largest * 255).toFixed(2)}/255 apart${text}${deep ? '' : ', in another depth'}`,
  };
}

function isRescaled({ width, height }: PixelBuffer, image: PlannedImage): boolean {
  return width !== image.width || height !== image.height;
}

/** Column and row. */
type PixelPlace = readonly [number, number];

/** Null where the source was rescaled and has no pixel of its own there. */
function expectedAt(
  source: ComponentSource,
  sources: Map<string, PixelBuffer>,
  image: PlannedImage,
  place: PixelPlace,
): number | null {
  if (source.from === 'constant') return source.value;
  const buffer = sources.get(source.path) as PixelBuffer;
  if (isRescaled(buffer, image)) return null;
  const value = finished(source, buffer, image, place);
  return isFloat(image) && !image.copyOf ? value : Math.min(1, Math.max(0, value));
}

/** What a source's pixel becomes: adjusted, converted and turned, before it is rounded. */
function finished(source: ImageSource, buffer: PixelBuffer, image: PlannedImage, place: PixelPlace): number {
  const adjusted = (part: 0 | 1 | 2) => {
    const stored = readSource(buffer, source, part, place);
    const curve = image.copyOf ? null : curveOf(source);
    const raw = curve ? curve(stored) : stored;
    return (source.invert ? 1 - raw : raw) * source.gain + source.offset;
  };
  const change = image.copyOf ? null : jointChange(source, image);
  const three = () => [adjusted(0), adjusted(1), adjusted(2)] as const;
  const changed = () => {
    if (!change) return adjusted(source.part);
    if (change.kind === 'normal') {
      const mend = changesNormals(source) ? source : { repair: 'unit' as const };
      return changeNormal(three(), mend)[source.part];
    }
    const stored = three().map((component) => Math.sign(component) * Math.abs(component) ** change.exponent);
    return convertColour(stored, change.from, image.map.space)[source.part];
  };
  return source.flip ? 1 - changed() : changed();
}

const REGIONS = 4;

/**
 * What a filter may do to the mean of a region: little in itself, and more the fewer pixels its border is
 * shared by.
 */
function regionTolerance({ width, height }: PlannedImage): number {
  return 8 / 255 + (0.3 * REGIONS) / Math.min(width, height);
}

/** Samples along each side of a region; small images need no more than two for each of their pixels. */
const PER_REGION = 48;

function samplesPerSide(buffers: Iterable<Pick<PixelBuffer, 'width' | 'height'>>): number {
  const longest = Math.max(...[...buffers].map(({ width, height }) => Math.max(width, height)));
  return Math.min(PER_REGION, 2 * Math.ceil(longest / REGIONS));
}

/**
 * The largest distance of the means of 4 x 4 regions, colours as light, vectors by their direction, cut-outs
 * by what is there.
 */
function compareRegions(
  image: PlannedImage,
  written: PixelBuffer,
  sources: Map<string, PixelBuffer>,
): number {
  const toLight = image.components
    .slice(0, 3)
    .every((source) => source.from === 'image' && isLight(source, image));
  let largest = 0;
  const whole = { before: 0, after: 0 };
  const side = samplesPerSide([written, ...sources.values()]);
  const cutOut = image.components.findIndex(
    (source) => source.from === 'image' && source.cutoff !== undefined,
  );
  for (let region = 0; region < REGIONS * REGIONS; region += 1) {
    const before = new Array<number>(image.components.length).fill(0);
    const after = new Array<number>(image.components.length).fill(0);
    for (let i = 0; i < side * side; i += 1) {
      const u = ((region % REGIONS) + ((i % side) + 0.5) / side) / REGIONS;
      const v = (Math.floor(region / REGIONS) + (Math.floor(i / side) + 0.5) / side) / REGIONS;
      const old = image.components.map((source) => {
        if (source.from === 'constant') return source.value;
        const buffer = sources.get(source.path) as PixelBuffer;
        return counted(
          source,
          finished(source, buffer, image, [Math.floor(u * buffer.width), Math.floor(v * buffer.height)]),
          image,
        );
      });
      const now = image.components.map((source, k) => {
        const value = pixelAt(
          written,
          Math.floor(u * written.width),
          Math.floor(v * written.height),
          k as 0 | 1 | 2 | 3,
        );
        return source.from === 'image' ? counted(source, value, image) : value;
      });
      addTo(before, old, toLight, image);
      addTo(after, now, toLight, image);
    }
    const total = side * side;
    const [a, b] = [before, after].map((sums) =>
      direction(
        sums.map((sum) => sum / total),
        image,
      ),
    );
    a.forEach((value, k) => {
      if (k !== cutOut) largest = Math.max(largest, Math.abs(value - b[k]));
    });
    if (cutOut >= 0) {
      whole.before += a[cutOut];
      whole.after += b[cutOut];
    }
  }
  // A cut-out keeps its share over the whole image, not in every part of it.
  return Math.max(largest, Math.abs(whole.before - whole.after) / (REGIONS * REGIONS));
}

/** Cut-outs count as there or not there. */
function counted({ cutoff, flip }: ImageSource, value: number, image: PlannedImage): number {
  if (cutoff === undefined) return isFloat(image) ? value : Math.min(1, Math.max(0, value));
  return (flip ? 1 - value : value) >= cutoff ? 1 : 0;
}

function addTo(sums: number[], values: number[], toLight: boolean, { map }: PlannedImage): void {
  const light = toLight
    ? [...convertColour(values.slice(0, 3), map.space, 'lin_rec709_scene'), ...values.slice(3)]
    : values;
  light.forEach((value, k) => {
    sums[k] += value;
  });
}

/** The mean of vectors as a direction, since resizing brings them to length 1 again. */
function direction(means: number[], { components }: PlannedImage): number[] {
  if (components[0].channel !== 'normal' || means.length < 3) return means;
  const vector = means.slice(0, 3).map((value) => value * 2 - 1);
  const length = Math.hypot(...vector) || 1;
  return vector.map((value) => (value / length) * 0.5 + 0.5);
}

function readSource(
  buffer: PixelBuffer,
  { component, channel }: ImageSource,
  part: 0 | 1 | 2,
  [x, y]: PixelPlace,
): number {
  if (component === 'rgb')
    return pixelAt(buffer, x, y, channel === 'normal' && buffer.components === 2 && part === 1 ? 3 : part);
  if (component === 'luminance')
    return (
      0.2126 * pixelAt(buffer, x, y, 0) +
      0.7152 * pixelAt(buffer, x, y, 1) +
      0.0722 * pixelAt(buffer, x, y, 2)
    );
  return pixelAt(buffer, x, y, 'rgba'.indexOf(component) as 0 | 1 | 2 | 3);
}
