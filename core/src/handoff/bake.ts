import { toSrgb } from '../colour/transfer.ts';
import { adjustPlane, constantPlane, extractPlane, type Plane, packPlanes, resizePlane } from '../images/components.ts';
import { decodeImage } from '../images/decode.ts';
import { encodePng } from '../images/encode.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import type { ComponentSource, PlannedImage } from './plan.ts';

/** Reads the bytes of an image of the parcel by its path. */
export type ReadFile = (path: string) => Promise<Uint8Array>;

/** Computes one output image as PNG bytes, or hands on the source's own bytes where these already fit. */
export async function bakeImage(image: PlannedImage, read: ReadFile): Promise<Uint8Array> {
  if (image.copyOf) return read(image.copyOf);
  const decoded = new Map<string, PixelBuffer>();
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
    planes.push(resizePlane(readComponent(buffer, source, image), image.width, image.height));
  }
  return encodePng(packPlanes(planes, image.map.bitDepth));
}

function readComponent(buffer: PixelBuffer, source: Extract<ComponentSource, { from: 'image' }>, image: PlannedImage): Plane {
  const component = source.component === 'rgb' ? (['r', 'g', 'b'] as const)[source.part] : source.component;
  const plane = adjustPlane(extractPlane(buffer, component), source);
  if (source.flip) adjustPlane(plane, { invert: true, gain: 1, offset: 0 });
  const convert = image.map.space === 'srgb_rec709_scene' && source.channel !== 'opacity' ? toSrgb(source.space) : null;
  if (convert) for (let i = 0; i < plane.values.length; i += 1) plane.values[i] = convert(plane.values[i]);
  return plane;
}
