import { convertColour } from '../colour/spaces.ts';
import { decodeImage } from '../images/decode.ts';
import { type PixelBuffer, pixelAt } from '../images/pixelBuffer.ts';
import { repairNormal } from '../maps/normalRepair.ts';
import { jointChange, type ReadFile } from './bake.ts';
import type { ComponentSource, ImageSource, PlannedImage } from './plan.ts';
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
export async function checkPixels(image: PlannedImage, bytes: Uint8Array | null | undefined, read: ReadFile): Promise<HandoffCheck> {
  const check = `pixels of ${image.file}`;
  if (!bytes) return { check, ok: false, expected: 'an image', found: 'none' };
  const written = await decodeImage(bytes, image.file);
  const sources = new Map<string, PixelBuffer>();
  for (const source of image.components) {
    if (source.from === 'image' && !sources.has(source.path)) sources.set(source.path, await decodeImage(await read(source.path), source.path));
  }
  let largest = 0;
  let compared = 0;
  for (let i = 0; i < SAMPLES; i += 1) {
    const x = Math.floor(((i * 0.754877666) % 1) * image.width);
    const y = Math.floor(((i * 0.569840291) % 1) * image.height);
    image.components.forEach((source, component) => {
      const expected = expectedAt(source, sources, image, x, y);
      if (expected === null) return;
      compared += 1;
      largest = Math.max(largest, Math.abs(expected - pixelAt(written, x, y, component as 0 | 1 | 2 | 3)));
    });
  }
  const sized = written.width === image.width && written.height === image.height;
  const deep = image.copyOf !== null || depthOf(written) === depthText(image);
  const rescaled = compared === 0 ? ', sources rescaled: size alone compared' : '';
  return {
    check,
    ok: sized && deep && largest <= toleranceOf(image),
    expected: `${image.width} x ${image.height}, ${depthText(image)}, within ${toleranceText(image)} of the sources`,
    found: `${written.width} x ${written.height}, ${compared} samples, at most ${(largest * 255).toFixed(2)}/255 apart${rescaled}${deep ? '' : ', in another depth'}`,
  };
}

/** Null where the source was rescaled and has no pixel of its own there. */
function expectedAt(source: ComponentSource, sources: Map<string, PixelBuffer>, image: PlannedImage, x: number, y: number): number | null {
  if (source.from === 'constant') return source.value;
  const buffer = sources.get(source.path) as PixelBuffer;
  if (buffer.width !== image.width || buffer.height !== image.height) return null;
  const adjusted = (part: 0 | 1 | 2) => {
    const raw = readSource(buffer, source, part, x, y);
    return (source.invert ? 1 - raw : raw) * source.gain + source.offset;
  };
  const change = image.copyOf ? null : jointChange(source, image);
  const three = () => [adjusted(0), adjusted(1), adjusted(2)] as const;
  const value = !change
    ? adjusted(source.part)
    : change.kind === 'normal'
      ? repairNormal(three(), source.repair ?? 'unit')[source.part]
      : convertColour(
          three().map((part) => Math.sign(part) * Math.abs(part) ** change.exponent),
          change.from,
          image.map.space,
        )[source.part];
  const turned = source.flip ? 1 - value : value;
  return isFloat(image) && !image.copyOf ? turned : Math.min(1, Math.max(0, turned));
}

function readSource(buffer: PixelBuffer, { component, channel }: ImageSource, part: 0 | 1 | 2, x: number, y: number): number {
  if (component === 'rgb') return pixelAt(buffer, x, y, channel === 'normal' && buffer.components === 2 && part === 1 ? 3 : part);
  if (component === 'luminance') return 0.2126 * pixelAt(buffer, x, y, 0) + 0.7152 * pixelAt(buffer, x, y, 1) + 0.0722 * pixelAt(buffer, x, y, 2);
  return pixelAt(buffer, x, y, 'rgba'.indexOf(component) as 0 | 1 | 2 | 3);
}
