import { convertPixels } from '../colour/convert.ts';
import { isColourSpace } from '../colour/spaces.ts';
import { adjustPlane, constantPlane, extractPlane, type Plane, packPlanes, resizePlane } from '../images/components.ts';
import { decodeImage } from '../images/decode.ts';
import { encodeImage } from '../images/encode.ts';
import { type PixelBuffer, unitOf } from '../images/pixelBuffer.ts';
import { repairNormal } from '../maps/normalRepair.ts';
import type { ColourSpace } from '../scene/material.ts';
import type { ImageSource, PlannedImage } from './plan.ts';

/** Reads the bytes of an image of the parcel by its path. */
export type ReadFile = (path: string) => Promise<Uint8Array>;

/** Computes one output image in its own type and depth, or hands on the source's own bytes where these already fit. */
export async function bakeImage(image: PlannedImage, read: ReadFile): Promise<Uint8Array> {
  if (image.copyOf) return read(image.copyOf);
  const decoded = new Map<string, PixelBuffer>();
  const triples = new Map<string, Plane[]>();
  const planes: Plane[] = [];
  for (const source of image.components) {
    if (source.from === 'constant') {
      planes.push(constantPlane(image.width, image.height, source.value));
      continue;
    }
    let buffer = decoded.get(source.path);
    if (!buffer) {
      buffer = await decodeImage(await read(source.path), source.path);
      decoded.set(source.path, buffer);
    }
    planes.push(resizePlane(readComponent(buffer, source, image, triples), image.width, image.height));
  }
  const { type, depth } = image.map;
  const pixels = packPlanes(planes, depth === 'half' || depth === 'float' ? 'float' : depth);
  return encodeImage(pixels, type, { depth: depth === 'half' ? 16 : 32 });
}

/** How a source's numbers must be changed together, three at a time; null where each stands for itself. */
export function jointChange(source: ImageSource, image: PlannedImage): { kind: 'colour'; from: ColourSpace; exponent: number } | { kind: 'normal' } | null {
  if (source.channel === 'normal') return source.repair ? { kind: 'normal' } : null;
  const { exponent = 1, space } = source;
  if (source.channel === 'opacity' || !isColourSpace(image.map.space) || !isColourSpace(space)) return null;
  return space === image.map.space && exponent === 1 ? null : { kind: 'colour', from: space, exponent };
}

function readComponent(buffer: PixelBuffer, source: ImageSource, image: PlannedImage, triples: Map<string, Plane[]>): Plane {
  const change = jointChange(source, image);
  if (!change) return turned(adjustPlane(extractPlane(buffer, componentOf(source, source.part)), source), source);
  const key = JSON.stringify([{ ...source, part: 0, flip: false }]);
  let three = triples.get(key);
  if (!three) {
    three = ([0, 1, 2] as const).map((part) => adjustPlane(extractTriple(buffer, source, part), source));
    if (change.kind === 'normal') repairPlanes(three, source);
    else convertPlanes(three, change.from, image.map.space, change.exponent);
    triples.set(key, three);
  }
  const { width, height, values } = three[source.part];
  return turned({ width, height, values: values.slice() }, source);
}

function componentOf({ component }: ImageSource, part: 0 | 1 | 2) {
  return component === 'rgb' ? (['r', 'g', 'b'] as const)[part] : component;
}

/** One of three planes; the second of a two-component normal map is its second component, which elsewhere is alpha. */
function extractTriple(buffer: PixelBuffer, source: ImageSource, part: 0 | 1 | 2): Plane {
  const second = source.channel === 'normal' && buffer.components === 2 && part === 1;
  return extractPlane(buffer, second ? 'a' : componentOf(source, part));
}

function turned(plane: Plane, { flip }: ImageSource): Plane {
  return flip ? adjustPlane(plane, { invert: true, gain: 1, offset: 0 }) : plane;
}

function repairPlanes([x, y, z]: Plane[], { repair }: ImageSource): void {
  if (!repair) return;
  for (let i = 0; i < x.values.length; i += 1) [x.values[i], y.values[i], z.values[i]] = repairNormal([x.values[i], y.values[i], z.values[i]], repair);
}

function convertPlanes(planes: Plane[], from: ColourSpace, to: ColourSpace, exponent: number): void {
  const [{ width, height }] = planes;
  const data = new Float32Array(width * height * 3);
  planes.forEach(({ values }, part) => {
    for (let i = 0, at = part; i < values.length; i += 1, at += 3) data[at] = values[i];
  });
  const { buffer } = convertPixels({ width, height, components: 3, data }, from, to, { exponent, depth: 'float' });
  const unit = unitOf(buffer.data);
  planes.forEach(({ values }, part) => {
    for (let i = 0, at = part; i < values.length; i += 1, at += 3) values[i] = buffer.data[at] / unit;
  });
}
