import type { Document, GLTF, Material as GltfMaterial, Texture, TextureInfo } from '@gltf-transform/core';
import type {
  Anisotropy,
  Clearcoat,
  EmissiveStrength,
  IOR,
  PBRSpecularGlossiness,
  Sheen,
  Specular,
  Transform,
  Transmission,
  Volume,
} from '@gltf-transform/extensions';
import { addUncarried, type Remark, type SceneDocument } from '../../scene/document.ts';
import {
  type ChannelName,
  type Component,
  createMapUse,
  createMaterial,
  type ImageEntry,
  type MapUse,
  type Material,
  type Rgb,
  sayColours,
  type WrapMode,
} from '../../scene/material.ts';
import { fromGltfTransform } from '../../scene/uvTransform.ts';
import { PASSED_COLOURS } from './readPrimitives.ts';

/** Of the sampler's filters, the one that takes texels one by one. */
const NEAREST = 9728;
const WRAPS: Record<number, WrapMode> = { 10497: 'repeat', 33071: 'clamp', 33648: 'mirror' };
const EXTENSIONS: Record<string, string> = {
  'image/jpeg': 'jpg',
  'image/png': 'png',
  'image/webp': 'webp',
  'image/ktx2': 'ktx2',
  'image/avif': 'avif',
};

/** Reads every material into the document, with the images they use. */
export function readGltfMaterials(gltf: Document, json: GLTF.IGLTF, document: SceneDocument): void {
  const images = readImages(gltf, json, document);
  for (const [i, source] of gltf.getRoot().listMaterials().entries())
    document.materials.push(new MaterialReader(source, i, images, document.remarks).read());
  readColours(gltf, document);
}

/** What glTF calls colours is shown; what only programs know of is not. Said where it is not what is usual. */
function readColours(gltf: Document, { materials }: SceneDocument): void {
  const root = gltf.getRoot();
  const readOf = new Map(root.listMaterials().map((source, i) => [source, materials[i]]));
  for (const primitive of root.listMeshes().flatMap((mesh) => mesh.listPrimitives())) {
    const source = primitive.getMaterial();
    const material = source && readOf.get(source);
    if (!material) continue;
    if (primitive.getAttribute('COLOR_0')) material.colours = 'shown';
    else if (primitive.getAttribute(PASSED_COLOURS)) material.colours ??= 'passed';
  }
  for (const material of materials) if (material.colours) sayColours(material, material.colours === 'shown');
}

/** One entry per image: its URI as written, or its content where the file carries it. */
function readImages(gltf: Document, json: GLTF.IGLTF, document: SceneDocument): Map<Texture, ImageEntry> {
  const out = new Map<Texture, ImageEntry>();
  const byWritten = new Map<string, ImageEntry>();
  gltf
    .getRoot()
    .listTextures()
    .forEach((texture, i) => {
      const uri = texture.getURI();
      const carried = texture.getImage();
      const outside =
        uri !== '' && !uri.startsWith('data:') && json.images?.some((image) => image.uri === uri);
      const written = outside
        ? decoded(uri)
        : `${texture.getName() || `image_${i + 1}`}.${EXTENSIONS[texture.getMimeType()] ?? 'png'}`;
      let entry = byWritten.get(written);
      if (!entry || (!outside && entry.embedded !== carried)) {
        const key = byWritten.has(written) ? `${written} (${i + 1})` : written;
        entry = {
          key,
          written,
          relative: outside ? written : null,
          embedded: outside || !carried || carried.length === 0 ? null : carried,
        };
        byWritten.set(key, entry);
        document.images.push(entry);
      }
      out.set(texture, entry);
    });
  return out;
}

function decoded(uri: string): string {
  try {
    return decodeURIComponent(uri);
  } catch {
    return uri;
  }
}

/** Where a number's map lies: an image, how it is laid, and which component holds it. */
interface ScalarTexture {
  texture: Texture | null;
  info: TextureInfo | null;
  component: Component;
}

class MaterialReader {
  private readonly material: Material;

  constructor(
    private readonly source: GltfMaterial,
    number: number,
    private readonly images: Map<Texture, ImageEntry>,
    private readonly remarks: Remark[],
  ) {
    const name = source.getName() || `material_${number + 1}`;
    this.material = createMaterial(
      name,
      source.getExtension('KHR_materials_pbrSpecularGlossiness') ? 'specGloss' : 'metalRough',
    );
  }

  read(): Material {
    const { source, material } = this;
    material.doubleSided = source.getDoubleSided();
    material.alphaMode = alphaModeOf(source);
    material.alphaCutoff = source.getAlphaCutoff();
    if (material.workflow === 'specGloss') this.readSpecGloss();
    else this.readMetalRough();
    this.readOcclusion();
    this.readNormal();
    this.readEmission();
    this.readExtensions();
    return material;
  }

  private readMetalRough(): void {
    const { source } = this;
    const [r, g, b, a] = source.getBaseColorFactor();
    this.colour('baseColor', [r, g, b], source.getBaseColorTexture(), source.getBaseColorTextureInfo());
    this.readOpacity(a, source.getBaseColorTexture(), source.getBaseColorTextureInfo());
    const texture = source.getMetallicRoughnessTexture();
    const info = source.getMetallicRoughnessTextureInfo();
    this.scalar('metalness', source.getMetallicFactor(), { texture, info, component: 'b' });
    this.scalar('roughness', source.getRoughnessFactor(), { texture, info, component: 'g' });
  }

  private readSpecGloss(): void {
    const extension = this.source.getExtension<PBRSpecularGlossiness>('KHR_materials_pbrSpecularGlossiness');
    if (!extension) return;
    const [r, g, b, a] = extension.getDiffuseFactor();
    this.colour('baseColor', [r, g, b], extension.getDiffuseTexture(), extension.getDiffuseTextureInfo());
    this.readOpacity(a, extension.getDiffuseTexture(), extension.getDiffuseTextureInfo());
    const texture = extension.getSpecularGlossinessTexture();
    const info = extension.getSpecularGlossinessTextureInfo();
    this.colour('specularColor', [...extension.getSpecularFactor()], texture, info);
    this.scalar('glossiness', extension.getGlossinessFactor(), { texture, info, component: 'a' });
  }

  /** Opacity rides in the alpha of factor and base image; an opaque material ignores it. */
  private readOpacity(factor: number, texture: Texture | null, info: TextureInfo | null): void {
    if (this.material.alphaMode === 'opaque') return;
    this.scalar('opacity', factor, { texture, info, component: 'a' });
  }

  /** The strength brings what is dark towards white: 1 + strength (x - 1). */
  private readOcclusion(): void {
    const texture = this.source.getOcclusionTexture();
    if (!texture) return;
    const strength = this.source.getOcclusionStrength();
    const use = this.use('occlusion', texture, this.source.getOcclusionTextureInfo(), 'r');
    this.set(
      'occlusion',
      1,
      use && strength !== 1 ? { ...use, gain: strength, offset: 1 - strength } : use,
      'occlusionTexture',
    );
  }

  private readNormal(): void {
    const texture = this.source.getNormalTexture();
    if (!texture) return;
    const scale = this.source.getNormalScale();
    const use = this.use('normal', texture, this.source.getNormalTextureInfo(), 'rgb');
    this.set('normal', [1, 1, 1], use && scale !== 1 ? { ...use, strength: scale } : use, 'normalTexture');
  }

  private readEmission(): void {
    const factor = this.source.getEmissiveFactor();
    const strength =
      this.source.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ??
      1;
    const texture = this.source.getEmissiveTexture();
    if (!texture && factor.every((component) => component === 0)) return;
    this.colour(
      'emission',
      factor.map((component) => component * strength) as Rgb,
      texture,
      this.source.getEmissiveTextureInfo(),
    );
  }

  private readExtensions(): void {
    const { source, material } = this;
    const ior = source.getExtension<IOR>('KHR_materials_ior');
    if (ior) this.set('ior', ior.getIOR(), null, 'KHR_materials_ior');
    const transmission = source.getExtension<Transmission>('KHR_materials_transmission');
    if (transmission) {
      this.scalar('transmission', transmission.getTransmissionFactor(), {
        texture: transmission.getTransmissionTexture(),
        info: transmission.getTransmissionTextureInfo(),
        component: 'r',
      });
    }
    const coat = source.getExtension<Clearcoat>('KHR_materials_clearcoat');
    if (coat) {
      this.scalar('coat', coat.getClearcoatFactor(), {
        texture: coat.getClearcoatTexture(),
        info: coat.getClearcoatTextureInfo(),
        component: 'r',
      });
      this.scalar('coatRoughness', coat.getClearcoatRoughnessFactor(), {
        texture: coat.getClearcoatRoughnessTexture(),
        info: coat.getClearcoatRoughnessTextureInfo(),
        component: 'g',
      });
      if (coat.getClearcoatNormalTexture()) this.leave('normal maps of coats');
    }
    const sheen = source.getExtension<Sheen>('KHR_materials_sheen');
    if (sheen) {
      this.colour(
        'sheenColor',
        [...sheen.getSheenColorFactor()],
        sheen.getSheenColorTexture(),
        sheen.getSheenColorTextureInfo(),
      );
      material.extras.sheenRoughness = String(sheen.getSheenRoughnessFactor());
      if (sheen.getSheenRoughnessTexture()) this.leave('roughness maps of sheens');
    }
    const specular = source.getExtension<Specular>('KHR_materials_specular');
    if (specular) {
      this.scalar('specular', specular.getSpecularFactor(), {
        texture: specular.getSpecularTexture(),
        info: specular.getSpecularTextureInfo(),
        component: 'a',
      });
      this.colour(
        'specularColor',
        [...specular.getSpecularColorFactor()],
        specular.getSpecularColorTexture(),
        specular.getSpecularColorTextureInfo(),
      );
    }
    const volume = source.getExtension<Volume>('KHR_materials_volume');
    if (volume) {
      if (volume.getThicknessFactor() > 0) material.thickness = volume.getThicknessFactor();
      if (
        Number.isFinite(volume.getAttenuationDistance()) &&
        volume.getAttenuationColor().some((component) => component !== 1)
      )
        this.leave('colours inside of glass');
    }
    if ((source.getExtension<Anisotropy>('KHR_materials_anisotropy')?.getAnisotropyStrength() ?? 0) !== 0)
      this.leave('reflections that are drawn out (anisotropy)');
    if (source.getExtension('KHR_materials_unlit')) this.leave('surfaces without light (unlit)');
  }

  /** What there is no channel for is told, since the look changes by it. */
  private leave(kind: string): void {
    addUncarried(this.remarks, kind, this.material.name, {
      why: 'there is no channel for them',
      severity: 'warning',
    });
  }

  private colour(channel: ChannelName, value: Rgb, texture: Texture | null, info: TextureInfo | null): void {
    this.set(channel, value, texture && this.use(channel, texture, info, 'rgb'), `${channel} factor`);
  }

  private scalar(
    channel: ChannelName,
    value: number | null,
    { texture, info, component }: ScalarTexture,
  ): void {
    if (value === null && !texture) return;
    this.set(
      channel,
      value ?? 1,
      texture && this.use(channel, texture, info, component),
      `${channel} factor`,
    );
  }

  private set(channel: ChannelName, value: number | Rgb, map: MapUse | null, detail: string): void {
    this.material.channels[channel] = { value, map, source: { from: 'file', detail } };
  }

  private use(
    channel: ChannelName,
    texture: Texture,
    info: TextureInfo | null,
    component: Component,
  ): MapUse | null {
    const image = this.images.get(texture);
    if (!image) return null;
    const placement = info?.getExtension<Transform>('KHR_texture_transform');
    const set = placement?.getTexCoord() ?? info?.getTexCoord() ?? 0;
    return createMapUse(image.key, channel, {
      component,
      uvSet: set > 0 ? `TEXCOORD_${set}` : null,
      wrap: [WRAPS[info?.getWrapS() ?? 10497] ?? 'repeat', WRAPS[info?.getWrapT() ?? 10497] ?? 'repeat'],
      ...(info?.getMagFilter() === NEAREST ? { filter: 'nearest' as const } : {}),
      transform: placement
        ? fromGltfTransform({
            offset: [...placement.getOffset()],
            scale: [...placement.getScale()],
            rotation: placement.getRotation(),
          })
        : null,
    });
  }
}

function alphaModeOf(source: GltfMaterial): 'opaque' | 'mask' | 'blend' {
  if (source.getAlphaMode() === 'OPAQUE') return 'opaque';
  return source.getAlphaMode() === 'MASK' ? 'mask' : 'blend';
}
