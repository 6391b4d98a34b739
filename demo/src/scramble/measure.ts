import { NodeIO, type Texture } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import sharp from 'sharp';
import type { ScrambleCase, ScrambledParcel, TrueChannel } from './scramble.ts';
import { SIDE } from './surfaces.ts';

/** What became of a channel. */
export type Outcome = 'right' | 'missing' | 'wrong';

/** What became of one channel. */
export interface Measured {
  material: string;
  channel: string;
  outcome: Outcome;
  /** A finding that is left names the material or the file. */
  told: boolean;
  /** Mean difference from the truth, in 8-bit codes; null without an image. */
  difference: number | null;
}

/** A finding as receipts list it. */
export interface OpenFinding {
  code: string;
  severity: string;
  subject: string;
  message: string;
  evidence?: readonly string[];
}

/**
 * Mean difference up to which an image is the true one; spec/gloss goes through a conversion, scaling through
 * rounding.
 */
const TOLERANCE = 4;
const CONVERTED = 14;

/**
 * Compares a package for the web with the truth: the images as an outside reader finds them, pixel by pixel.
 */
export async function measurePackage(
  parcel: ScrambledParcel,
  glb: Uint8Array,
  open: readonly OpenFinding[],
  of: ScrambleCase,
): Promise<Measured[]> {
  const document = await new NodeIO().registerExtensions(ALL_EXTENSIONS).readBinary(glb);
  const materials = document.getRoot().listMaterials();
  const measured: Measured[] = [];
  for (const truth of parcel.truth) {
    const material = materials.find((other) => letters(other.getName()) === letters(truth.material));
    const tolerance = of.scheme === 'specgloss' ? CONVERTED : TOLERANCE;
    const read = material ? READERS[truth.channel] : undefined;
    const plane = material && read ? await planeOf(read(material)) : null;
    const difference = plane ? differenceOf(plane, truth.plane) : null;
    const outcome = outcomeOf(difference, tolerance);
    measured.push({
      material: truth.material,
      channel: truth.channel,
      outcome,
      told: isTold(truth, open),
      difference,
    });
  }
  return measured;
}

function outcomeOf(difference: number | null, tolerance: number) {
  if (difference === null) return 'missing';
  return difference <= tolerance ? 'right' : 'wrong';
}

function letters(name: string): string {
  return name.toLowerCase().replace(/[^a-z0-9]/g, '');
}

type MaterialOf = ReturnType<
  ReturnType<InstanceType<typeof import('@gltf-transform/core').Document>['getRoot']>['listMaterials']
>[number];

interface Reading {
  texture: Texture | null;
  components: readonly number[];
}

const READERS: Partial<Record<TrueChannel['channel'], (material: MaterialOf) => Reading>> = {
  baseColor: (material) => ({ texture: material.getBaseColorTexture(), components: [0, 1, 2] }),
  opacity: (material) => ({
    texture: material.getAlphaMode() === 'OPAQUE' ? null : material.getBaseColorTexture(),
    components: [3],
  }),
  normal: (material) => ({ texture: material.getNormalTexture(), components: [0, 1, 2] }),
  occlusion: (material) => ({ texture: material.getOcclusionTexture(), components: [0] }),
  roughness: (material) => ({ texture: material.getMetallicRoughnessTexture(), components: [1] }),
  metalness: (material) => ({ texture: material.getMetallicRoughnessTexture(), components: [2] }),
  emission: (material) => ({ texture: material.getEmissiveTexture(), components: [0, 1, 2] }),
};

/** The components that a slot reads; null without an image, or where they hold one value. */
async function planeOf({ texture, components }: Reading): Promise<Uint8Array | null> {
  const image = texture?.getImage();
  if (!image) return null;
  const { data, info } = await sharp(image)
    .resize(SIDE, SIDE, { kernel: 'nearest' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  const out = new Uint8Array(SIDE * SIDE * components.length);
  let [low, high] = [255, 0];
  for (let i = 0; i < SIDE * SIDE; i += 1) {
    for (const [k, component] of components.entries()) {
      const offset = info.channels < 3 && component < 3 ? 0 : component;
      const value = offset < info.channels ? data[i * info.channels + offset] : 255;
      out[i * components.length + k] = value;
      low = Math.min(low, value);
      high = Math.max(high, value);
    }
  }
  return high - low < 2 ? null : out;
}

function differenceOf(plane: Uint8Array, truth: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < truth.length; i += 1) sum += Math.abs(plane[i] - truth[i]);
  return sum / truth.length;
}

/** Whether what is left names the material, or the file that holds the channel. */
function isTold({ material, file }: TrueChannel, open: readonly OpenFinding[]): boolean {
  const name = file.slice(file.lastIndexOf('/') + 1);
  return open.some(({ severity, subject, message, evidence = [] }) => {
    if (severity === 'note') return false;
    return subject === material || [message, ...evidence].some((line) => line.includes(name));
  });
}

const QUESTIONS = new Set([
  'set.ambiguous',
  'slot.candidate',
  'link.ambiguous',
  'link.missing',
  'slot.contradiction',
  'slot.pixels',
  'alpha.ignored',
]);

/** Questions that are left; where the truth can be told they are needless. */
export function questionsOf(open: readonly OpenFinding[]): OpenFinding[] {
  return open.filter(({ code, severity }) => QUESTIONS.has(code) && severity !== 'note');
}
