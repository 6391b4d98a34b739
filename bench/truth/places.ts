import type { Document, Material, Primitive, Texture, TextureInfo } from '@gltf-transform/core';
import type {
  Clearcoat,
  EmissiveStrength,
  IOR,
  Sheen,
  Specular,
  Transmission,
} from '@gltf-transform/extensions';
import type { Edit } from '@kinkajou/core/asset/asset';
import sharp from 'sharp';
import { Triangle, Vector3 } from 'three';
import type { Parcel } from '../fuzz/failures.ts';
import { light } from './painting.ts';
import { laid } from './soup.ts';

/** What light meets at a place, in the words of glTF and linear numbers; what is not known is left out. */
export interface Meets {
  base?: number[];
  opacity?: number;
  metallic?: number;
  roughness?: number;
  occlusion?: number;
  emission?: number[];
  /** Along the image: to its right, up, and out of it. */
  normal?: number[];
  coat?: number;
  coatRoughness?: number;
  transmission?: number;
  ior?: number;
  sheen?: number[];
  clothRoughness?: number;
  /** How much dielectrics reflect of what their index says, and in which colour. */
  specular?: number;
  reflects?: number[];
}

/** A place on a surface of a material, in metres and Y up. */
export interface Place {
  at: [number, number, number];
  material: string;
  meets: Meets;
}

/** How losses call what is met. */
const TOLD: Record<keyof Meets, string> = {
  base: 'base colour',
  opacity: 'opacity',
  metallic: 'metalness',
  roughness: 'roughness',
  occlusion: 'occlusion',
  emission: 'emission',
  normal: 'normal',
  coat: 'coat',
  coatRoughness: 'coat roughness',
  transmission: 'transmission',
  ior: 'index of refraction',
  sheen: 'sheen colour',
  clothRoughness: 'sheen colour',
  specular: 'specular',
  reflects: 'specular colour',
};

/** A made-up model of flat boards, and what its maker knows of places on them. */
export interface KnownPlaces extends Parcel {
  places: Place[];
  /** What a person does to it before it goes out. */
  edits?: Edit[];
}

/** Colours are stored in bytes, whose steps are the widest near white. */
const NEAR = 0.016;
const MOST = 4;

/**
 * What differs between what is known of places and a glTF, as another library reads it, and was not told as a
 * loss of the material and the channel.
 */
export async function placesWrong(
  places: readonly Place[],
  gltf: Document,
  losses: readonly string[],
): Promise<string[]> {
  const faces = facesOf(gltf);
  const images = new Map<Texture, Pixels>();
  for (const texture of gltf.getRoot().listTextures()) images.set(texture, await pixelsOf(texture));
  const out = new Set<string>();
  for (const { at, material, meets } of places) {
    const place = new Vector3(...at);
    const face = faces.find(
      ({ triangle }) => triangle.closestPointToPoint(place, new Vector3()).distanceTo(place) < 1e-5,
    );
    if (!face) out.add(`${at}: nothing is there`);
    else
      for (const [key, words] of differing(meets, metAt(face, place, images)))
        if (!losses.some((loss) => loss.startsWith(`${material}: ${TOLD[key]}`)))
          out.add(`${material} ${at}: ${key} ${words}`);
  }
  return [...out].slice(0, MOST);
}

function differing(known: Meets, found: Required<Meets>): [keyof Meets, string][] {
  // What is not seen is like nothing.
  if (known.opacity === 0 && found.opacity === 0) return [];
  return Object.keys(known).flatMap((word) => {
    const key = word as keyof Meets;
    // Nothing is rough about a coat, or cloth, that is not there.
    if (key === 'coatRoughness' && !known.coat) return [];
    if (key === 'clothRoughness' && !known.sheen?.some((value) => value > 0)) return [];
    const [one, two] = [known[key], found[key]].map((value) => [value ?? []].flat());
    const near = one.every((value, k) => Math.abs(value - two[k]) < (key === 'normal' ? 2 : 1) * NEAR);
    const told = (list: number[]) => list.map((value) => value.toFixed(3)).join(' ');
    return near ? [] : [[key, `${told(one)} became ${told(two)}`]];
  });
}

interface Face {
  triangle: Triangle;
  primitive: Primitive;
  corners: number[];
}

function facesOf(gltf: Document): Face[] {
  const faces: Face[] = [];
  const scene = gltf.getRoot().getDefaultScene() ?? gltf.getRoot().listScenes()[0];
  scene.traverse((node) => {
    for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
      const position = primitive.getAttribute('POSITION');
      const [m, order] = [node.getWorldMatrix(), primitive.getIndices()?.getArray() ?? []];
      const at = (index: number) => {
        const [x, y, z] = position?.getElement(index, [0, 0, 0]) ?? [0, 0, 0];
        return new Vector3(...[0, 1, 2].map((k) => m[k] * x + m[4 + k] * y + m[8 + k] * z + m[12 + k]));
      };
      for (let k = 0; k < order.length; k += 3) {
        const corners = [order[k], order[k + 1], order[k + 2]];
        const [a, b, c] = corners.map(at);
        faces.push({ triangle: new Triangle(a, b, c), primitive, corners });
      }
    }
  });
  return faces;
}

interface Pixels {
  data: Uint8Array;
  width: number;
  height: number;
}

async function pixelsOf(texture: Texture): Promise<Pixels> {
  const { data, info } = await sharp(texture.getImage() ?? new Uint8Array())
    .toColourspace('srgb')
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height };
}

function metAt(
  { primitive, triangle, corners }: Face,
  place: Vector3,
  images: ReadonlyMap<Texture, Pixels>,
): Required<Meets> {
  const shares = triangle.getBarycoord(place, new Vector3())?.toArray() ?? [];
  const between = (name: string) => {
    const values = primitive.getAttribute(name);
    const rows = values ? corners.map((corner) => values.getElement(corner, [])) : [];
    return rows[0]?.map((_, k) => rows.reduce((sum, row, i) => sum + row[k] * shares[i], 0));
  };
  const material = primitive.getMaterial() as Material;
  const taken = (texture: Texture | null, info: TextureInfo | null) => {
    const uv = info && between(`TEXCOORD_${info.getTexCoord()}`);
    const pixels = texture && images.get(texture);
    return uv && info && pixels ? pixelAt(pixels, laid(uv, info), info) : null;
  };
  const painted = between('COLOR_0') ?? [1, 1, 1, 1];
  const factor = material.getBaseColorFactor();
  const base = taken(material.getBaseColorTexture(), material.getBaseColorTextureInfo()) ?? WHITE;
  const rough =
    taken(material.getMetallicRoughnessTexture(), material.getMetallicRoughnessTextureInfo()) ?? WHITE;
  const shade = taken(material.getOcclusionTexture(), material.getOcclusionTextureInfo());
  const glow = taken(material.getEmissiveTexture(), material.getEmissiveTextureInfo()) ?? WHITE;
  const bump = taken(material.getNormalTexture(), material.getNormalTextureInfo());
  const strength = material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength');
  const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat');
  const glass = material.getExtension<Transmission>('KHR_materials_transmission');
  const ior = material.getExtension<IOR>('KHR_materials_ior');
  const sheen = material.getExtension<Sheen>('KHR_materials_sheen');
  const shine = material.getExtension<Specular>('KHR_materials_specular');
  const first = (texture?: Texture | null, info?: TextureInfo | null) =>
    taken(texture ?? null, info ?? null) ?? WHITE;
  const hue = first(shine?.getSpecularColorTexture(), shine?.getSpecularColorTextureInfo());
  const cloth = first(sheen?.getSheenColorTexture(), sheen?.getSheenColorTextureInfo());
  return {
    base: [0, 1, 2].map((k) => factor[k] * light(base[k]) * painted[k]),
    opacity: opacityOf(material, factor[3] * base[3] * (painted[3] ?? 1)),
    metallic: material.getMetallicFactor() * rough[2],
    roughness: material.getRoughnessFactor() * rough[1],
    occlusion: shade ? 1 + material.getOcclusionStrength() * (shade[0] - 1) : 1,
    emission: [0, 1, 2].map(
      (k) => material.getEmissiveFactor()[k] * light(glow[k]) * (strength?.getEmissiveStrength() ?? 1),
    ),
    normal: bump ? bent(bump, material.getNormalScale()) : [0, 0, 1],
    coat:
      (coat?.getClearcoatFactor() ?? 0) *
      first(coat?.getClearcoatTexture(), coat?.getClearcoatTextureInfo())[0],
    coatRoughness:
      (coat?.getClearcoatRoughnessFactor() ?? 0) *
      first(coat?.getClearcoatRoughnessTexture(), coat?.getClearcoatRoughnessTextureInfo())[1],
    transmission:
      (glass?.getTransmissionFactor() ?? 0) *
      first(glass?.getTransmissionTexture(), glass?.getTransmissionTextureInfo())[0],
    ior: ior?.getIOR() ?? 1.5,
    specular:
      (shine?.getSpecularFactor() ?? 1) *
      first(shine?.getSpecularTexture(), shine?.getSpecularTextureInfo())[3],
    reflects: (shine?.getSpecularColorFactor() ?? [1, 1, 1]).map((value, k) => value * light(hue[k])),
    clothRoughness: sheen?.getSheenRoughnessFactor() ?? 0,
    sheen: (sheen?.getSheenColorFactor() ?? [0, 0, 0]).map((value, k) => value * light(cloth[k])),
  };
}

const WHITE = [1, 1, 1, 1];

function opacityOf(material: Material, alpha: number): number {
  if (material.getAlphaMode() === 'OPAQUE') return 1;
  if (material.getAlphaMode() === 'BLEND') return alpha;
  return alpha < material.getAlphaCutoff() ? 0 : 1;
}

/** A stored direction, x and y times a strength, of length 1. */
export function bent(stored: readonly number[], strength: number): number[] {
  const [x, y, z] = stored.map((value) => value * 2 - 1);
  return new Vector3(x * strength, y * strength, z).normalize().toArray();
}

const [CLAMP, MIRROR] = [33071, 33648];

function pixelAt({ data, width, height }: Pixels, [u, v]: readonly number[], info: TextureInfo): number[] {
  const within = (value: number, wrap: number) => {
    if (wrap === CLAMP) return Math.min(1 - 1e-9, Math.max(0, value));
    const cycle = value - Math.floor(value);
    return wrap === MIRROR && Math.floor(value) % 2 !== 0 ? 1 - cycle : cycle;
  };
  const x = Math.min(width - 1, Math.floor(within(u, info.getWrapS()) * width));
  const y = Math.min(height - 1, Math.floor(within(v, info.getWrapT()) * height));
  return [0, 1, 2, 3].map((k) => data[(y * width + x) * 4 + k] / 255);
}
