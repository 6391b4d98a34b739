import type { Document, Material, Texture, TextureInfo } from '@gltf-transform/core';
import {
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import type { MetalRough } from '../../materials/metalRough.ts';
import type { MapUse } from '../../scene/material.ts';
import { toGltfTransform } from '../../scene/uvTransform.ts';
import type { HandoffPlan, PlannedMaterial } from '../plan/plan.ts';
import type { PlannedImage } from '../plan/planImage.ts';

const NEAREST = 9728;
const WRAP = { repeat: 10497, clamp: 33071, mirror: 33648 } as const;

/** Adds the planned materials with their textures; `bytesOf` gives each planned image's file content. */
export function addMaterials(
  gltf: Document,
  plan: HandoffPlan,
  bytesOf: (file: string) => Uint8Array,
  uvIndexOf: (material: string, set: string | null) => number,
): Material[] {
  const textures = new Map<string, Texture>();
  const textureOf = (image: PlannedImage) => {
    let texture = textures.get(image.file);
    if (!texture) {
      texture = gltf
        .createTexture(image.file.replace(/\.\w+$/, ''))
        .setImage(bytesOf(image.file))
        .setMimeType(image.file.endsWith('.jpg') ? 'image/jpeg' : 'image/png')
        .setURI(`maps/${image.file}`);
      textures.set(image.file, texture);
    }
    return texture;
  };
  return plan.materials.map((planned) => {
    const set = (
      image: PlannedImage | undefined,
      place: (texture: Texture) => unknown,
      info: () => TextureInfo | null,
    ) => {
      if (!image) return;
      place(textureOf(image));
      const target = info();
      if (target) readLike(gltf, target, image.use, uvIndexOf(planned.key, image.use.uvSet));
    };
    return createMaterial(gltf, planned, set);
  });
}

/** A material that is being made. */
interface Target {
  gltf: Document;
  material: Material;
  set: SetTexture;
}

type SetTexture = (
  image: PlannedImage | undefined,
  place: (texture: Texture) => unknown,
  info: () => TextureInfo | null,
) => void;

function createMaterial(
  gltf: Document,
  { name, shading, images }: PlannedMaterial,
  set: SetTexture,
): Material {
  const material = gltf.createMaterial(name);
  const target = { gltf, material, set };
  const opaque = shading.alphaMode === 'opaque';
  material
    .setBaseColorFactor([...clampColour(shading.baseColor.value), opaque ? 1 : clamp(shading.opacity.value)])
    .setMetallicFactor(clamp(shading.metalness.value))
    .setRoughnessFactor(clamp(shading.roughness.value))
    .setAlphaMode(alphaModeOf(opaque, shading))
    .setDoubleSided(shading.doubleSided);
  if (shading.alphaMode === 'mask') material.setAlphaCutoff(shading.alphaCutoff);
  const packed = images.occlusionRoughnessMetalness;
  set(
    images.baseColor,
    (texture) => material.setBaseColorTexture(texture),
    () => material.getBaseColorTextureInfo(),
  );
  if (shading.roughness.map || shading.metalness.map) {
    set(
      packed,
      (texture) => material.setMetallicRoughnessTexture(texture),
      () => material.getMetallicRoughnessTextureInfo(),
    );
  }
  if (shading.occlusion)
    set(
      images.occlusion ?? packed,
      (texture) => material.setOcclusionTexture(texture),
      () => material.getOcclusionTextureInfo(),
    );
  set(
    images.normal,
    (texture) => material.setNormalTexture(texture),
    () => material.getNormalTextureInfo(),
  );
  setEmission(target, shading.emission.value, images.emission);
  setGlass(target, shading, images.transmission);
  setCoat(target, shading, images);
  setSheen(target, shading, images.sheenColor);
  setSpecular(target, shading, images);
  return material;
}

function alphaModeOf(opaque: boolean, shading: MetalRough) {
  if (opaque) return 'OPAQUE';
  return shading.alphaMode === 'mask' ? 'MASK' : 'BLEND';
}

function setEmission(
  { gltf, material, set }: Target,
  value: readonly number[],
  image: PlannedImage | undefined,
): void {
  const strength = Math.max(1, ...value);
  material.setEmissiveFactor(value.map((component) => component / strength) as [number, number, number]);
  if (strength > 1) {
    const extension = gltf.createExtension(KHRMaterialsEmissiveStrength);
    material.setExtension(
      'KHR_materials_emissive_strength',
      extension.createEmissiveStrength().setEmissiveStrength(strength),
    );
  }
  set(
    image,
    (texture) => material.setEmissiveTexture(texture),
    () => material.getEmissiveTextureInfo(),
  );
}

function setGlass(
  { gltf, material, set }: Target,
  shading: PlannedMaterial['shading'],
  image: PlannedImage | undefined,
): void {
  if (Math.abs(shading.ior - 1.5) > 1e-6) {
    material.setExtension(
      'KHR_materials_ior',
      gltf.createExtension(KHRMaterialsIOR).createIOR().setIOR(shading.ior),
    );
  }
  if (shading.transmission.value <= 0 && !image) return;
  const transmission = gltf
    .createExtension(KHRMaterialsTransmission)
    .createTransmission()
    .setTransmissionFactor(clamp(shading.transmission.value));
  material.setExtension('KHR_materials_transmission', transmission);
  if (shading.thickness > 0)
    material.setExtension(
      'KHR_materials_volume',
      gltf.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(shading.thickness),
    );
  set(
    image,
    (texture) => transmission.setTransmissionTexture(texture),
    () => transmission.getTransmissionTextureInfo(),
  );
}

/** The coat's weight is read from red, its roughness from green; grey images have both. */
function setCoat(
  { gltf, material, set }: Target,
  { coat, coatRoughness }: PlannedMaterial['shading'],
  images: PlannedMaterial['images'],
): void {
  if (coat.value <= 0 && !images.coat && !images.coatRoughness) return;
  const clearcoat = gltf.createExtension(KHRMaterialsClearcoat).createClearcoat();
  material.setExtension(
    'KHR_materials_clearcoat',
    clearcoat.setClearcoatFactor(clamp(coat.value)).setClearcoatRoughnessFactor(clamp(coatRoughness.value)),
  );
  set(
    images.coat,
    (texture) => clearcoat.setClearcoatTexture(texture),
    () => clearcoat.getClearcoatTextureInfo(),
  );
  set(
    images.coatRoughness,
    (texture) => clearcoat.setClearcoatRoughnessTexture(texture),
    () => clearcoat.getClearcoatRoughnessTextureInfo(),
  );
}

function setSheen(
  { gltf, material, set }: Target,
  { sheenColor, sheenRoughness }: PlannedMaterial['shading'],
  image: PlannedImage | undefined,
): void {
  if (!image && sheenColor.value.every((component) => component <= 0)) return;
  const sheen = gltf.createExtension(KHRMaterialsSheen).createSheen();
  material.setExtension(
    'KHR_materials_sheen',
    sheen.setSheenColorFactor(clampColour(sheenColor.value)).setSheenRoughnessFactor(clamp(sheenRoughness)),
  );
  set(
    image,
    (texture) => sheen.setSheenColorTexture(texture),
    () => sheen.getSheenColorTextureInfo(),
  );
}

/** The weight is read from alpha, the tint from the colours of the same image where both are laid alike. */
function setSpecular(
  { gltf, material, set }: Target,
  { specular, specularColor }: PlannedMaterial['shading'],
  images: PlannedMaterial['images'],
): void {
  const isPlain = specular.value >= 1 && specularColor.value.every((component) => component === 1);
  if (!specular.map && !specularColor.map && isPlain) return;
  const extension = gltf.createExtension(KHRMaterialsSpecular).createSpecular();
  material.setExtension('KHR_materials_specular', extension.setSpecularFactor(clamp(specular.value)));
  if (specular.map)
    set(
      images.specular ?? images.specularColor,
      (texture) => extension.setSpecularTexture(texture),
      () => extension.getSpecularTextureInfo(),
    );
  extension.setSpecularColorFactor(specularColor.value);
  if (specularColor.map)
    set(
      images.specularColor,
      (texture) => extension.setSpecularColorTexture(texture),
      () => extension.getSpecularColorTextureInfo(),
    );
}

function readLike(gltf: Document, info: TextureInfo, use: MapUse, uvIndex: number): void {
  info.setWrapS(WRAP[use.wrap[0]]).setWrapT(WRAP[use.wrap[1]]).setTexCoord(uvIndex);
  // Smooth filtering is left to the reader, as it mostly is.
  if (use.filter === 'nearest') info.setMagFilter(NEAREST).setMinFilter(NEAREST);
  if (!use.transform) return;
  const { offset, scale, rotation } = toGltfTransform(use.transform);
  const transform = gltf.createExtension(KHRTextureTransform).createTransform();
  info.setExtension(
    'KHR_texture_transform',
    transform.setOffset(offset).setScale(scale).setRotation(rotation),
  );
}

function clamp(value: number): number {
  return Math.min(1, Math.max(0, value));
}

function clampColour(colour: readonly number[]): [number, number, number] {
  return [clamp(colour[0]), clamp(colour[1]), clamp(colour[2])];
}
