import {
  type Accessor,
  Document,
  type Material,
  type Mesh,
  type Node,
  TextureInfo,
} from '@gltf-transform/core';
import {
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import { gltfIo } from '@kinkajou/core/formats/gltf/io';
import sharp from 'sharp';
import { Lot } from './lot.ts';

type Numbers = Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;

/** Names as people give them: twice, with blanks, other letters, slashes, or none. */
const NAMES = ['Post', 'Post', 'Rail', 'Deck plate', 'Pöller', 'a/b', ''];
const SCALES: [number, number, number][] = [
  [2, 2, 2],
  [1, 2, 0.5],
  [-1, 1, 1],
  [0.01, 0.01, 0.01],
];
const WRAPS = [10497, 33071, 33648] as const;
const SIDES = [16, 32];

/**
 * A glTF model that is valid and odd: materials of every mode and several extensions, faces without material,
 * UVs or normals, parts of one name that share a mesh, stretched and mirrored ones that hold others, colours
 * with alpha, morph targets, steps of motion. The same seed gives the same bytes.
 */
export async function strangeModel(seed: number): Promise<Uint8Array> {
  return (await gltfIo()).writeBinary(await new Maker(seed).document());
}

class Maker extends Lot {
  private readonly gltf = new Document();
  private readonly buffer = this.gltf.createBuffer();
  private images = 0;

  async document(): Promise<Document> {
    const sets = 1 + this.below(2);
    const materials: Material[] = [];
    for (let i = 0; i <= this.below(3); i += 1) materials.push(await this.material(`Paint${i}`, sets));
    const meshes = Array.from({ length: 1 + this.below(3) }, (_, i) =>
      this.mesh(`Mesh${i}`, materials, sets),
    );
    const nodes = this.hang(meshes);
    if (this.chance(0.3)) this.swing(this.pick(nodes));
    return this.gltf;
  }

  private colour(): [number, number, number] {
    return [this.between(0, 1), this.between(0, 1), this.between(0, 1)];
  }

  private accessor(type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', numbers: Numbers): Accessor {
    return this.gltf.createAccessor().setType(type).setArray(numbers).setBuffer(this.buffer);
  }

  private async texture(components: 1 | 3 | 4, isNormal = false) {
    const [width, height] = [this.pick(SIDES), this.pick(SIDES)];
    const pixels = Buffer.alloc(width * height * components);
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1)
        pixels.set(
          isNormal ? bump(x / width, y / height) : stripes(x, y, components, width),
          (y * width + x) * components,
        );
    const png = await sharp(pixels, { raw: { width, height, channels: components } })
      .png()
      .toBuffer();
    this.images += 1;
    return this.gltf
      .createTexture(`image_${this.images}`)
      .setImage(new Uint8Array(png))
      .setMimeType('image/png');
  }

  private lay(info: ReturnType<Material['getBaseColorTextureInfo']>, sets: number): void {
    if (!info) return;
    if (sets > 1 && this.chance(0.25)) info.setTexCoord(1);
    if (this.chance(0.25)) {
      const transform = this.gltf
        .createExtension(KHRTextureTransform)
        .createTransform()
        .setOffset([this.between(0, 1), this.between(0, 1)])
        .setScale([this.between(0.5, 2), this.between(0.5, 2)]);
      if (this.chance(0.5)) transform.setRotation(this.between(0, 3));
      info.setExtension('KHR_texture_transform', transform);
    }
    if (this.chance(0.3)) info.setWrapS(this.pick(WRAPS)).setWrapT(this.pick(WRAPS));
    if (this.chance(0.2)) info.setMagFilter(TextureInfo.MagFilter.NEAREST);
  }

  private async material(name: string, sets: number): Promise<Material> {
    const material = this.gltf
      .createMaterial(name)
      .setBaseColorFactor([...this.colour(), this.chance(0.3) ? this.between(0.2, 1) : 1])
      .setMetallicFactor(this.pick([0, 1, this.between(0, 1)]))
      .setRoughnessFactor(this.between(0, 1))
      .setDoubleSided(this.chance(0.4))
      .setAlphaMode(this.pick(['OPAQUE', 'MASK', 'BLEND']))
      .setAlphaCutoff(this.between(0.05, 0.95));
    if (this.chance(0.6)) material.setBaseColorTexture(await this.texture(this.pick([3, 4])));
    if (this.chance(0.5)) material.setMetallicRoughnessTexture(await this.texture(3));
    if (this.chance(0.4))
      material.setNormalTexture(await this.texture(3, true)).setNormalScale(this.pick([1, 0.5, 2]));
    if (this.chance(0.4))
      material
        .setOcclusionTexture(await this.texture(this.pick([1, 3])))
        .setOcclusionStrength(this.pick([1, 0.5]));
    if (this.chance(0.4)) {
      material.setEmissiveFactor(this.colour());
      if (this.chance(0.5)) material.setEmissiveTexture(await this.texture(3));
    }
    for (const info of [
      material.getBaseColorTextureInfo(),
      material.getMetallicRoughnessTextureInfo(),
      material.getNormalTextureInfo(),
      material.getOcclusionTextureInfo(),
      material.getEmissiveTextureInfo(),
    ])
      this.lay(info, sets);
    await this.extend(material);
    return material;
  }

  private async extend(material: Material): Promise<void> {
    const { gltf } = this;
    if (this.chance(0.15))
      material.setExtension(
        'KHR_materials_emissive_strength',
        gltf
          .createExtension(KHRMaterialsEmissiveStrength)
          .createEmissiveStrength()
          .setEmissiveStrength(this.between(1, 8)),
      );
    if (this.chance(0.15))
      material.setExtension(
        'KHR_materials_ior',
        gltf.createExtension(KHRMaterialsIOR).createIOR().setIOR(this.between(1, 2.4)),
      );
    if (this.chance(0.15))
      material.setExtension(
        'KHR_materials_transmission',
        gltf
          .createExtension(KHRMaterialsTransmission)
          .createTransmission()
          .setTransmissionFactor(this.between(0.1, 1)),
      );
    if (this.chance(0.15)) {
      const specular = gltf
        .createExtension(KHRMaterialsSpecular)
        .createSpecular()
        .setSpecularFactor(this.between(0.1, 1));
      if (this.chance(0.4)) specular.setSpecularTexture(await this.texture(4));
      material.setExtension('KHR_materials_specular', specular);
    }
    if (this.chance(0.1))
      material.setExtension(
        'KHR_materials_sheen',
        gltf.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor(this.colour()),
      );
  }

  private mesh(name: string, materials: readonly Material[], sets: number): Mesh {
    const mesh = this.gltf.createMesh(name);
    const [coloured, shaded, morphs] = [this.chance(0.3), this.chance(0.8), this.chance(0.2)];
    for (let k = 0; k <= this.below(2); k += 1) {
      const sheet = sheetOf(3 + this.below(3), k * 1.5);
      const primitive = this.gltf
        .createPrimitive()
        .setAttribute('POSITION', this.accessor('VEC3', Float32Array.from(sheet.points)))
        .setIndices(this.accessor('SCALAR', Uint16Array.from(sheet.corners)));
      if (this.chance(0.95))
        sheet.uvs
          .slice(0, sets)
          .forEach((uvs, i) =>
            primitive.setAttribute(`TEXCOORD_${i}`, this.accessor('VEC2', Float32Array.from(uvs))),
          );
      if (shaded) primitive.setAttribute('NORMAL', this.accessor('VEC3', Float32Array.from(sheet.normals)));
      if (coloured)
        primitive.setAttribute('COLOR_0', this.accessor('VEC4', Float32Array.from(sheet.colours)));
      if (this.chance(0.9)) primitive.setMaterial(this.pick(materials));
      if (morphs)
        primitive.addTarget(
          this.gltf
            .createPrimitiveTarget('open')
            .setAttribute('POSITION', this.accessor('VEC3', Float32Array.from(sheet.lifted))),
        );
      mesh.addPrimitive(primitive);
    }
    return morphs ? mesh.setWeights([0]) : mesh;
  }

  private hang(meshes: readonly Mesh[]): Node[] {
    const scene = this.gltf.createScene();
    const nodes: Node[] = [];
    for (let k = 0; k < 2 + this.below(3); k += 1) {
      const angle = this.between(0, 3);
      const node = this.gltf
        .createNode(this.pick(NAMES))
        .setTranslation([this.between(-3, 3), this.between(-3, 3), this.between(-3, 3)]);
      if (this.chance(0.5)) node.setRotation([0, Math.sin(angle / 2), 0, Math.cos(angle / 2)]);
      if (this.chance(0.4)) node.setScale(this.pick(SCALES));
      if (k === 0 || this.chance(0.85)) node.setMesh(this.pick(meshes));
      const parent = nodes.length > 0 && this.chance(0.4) ? this.pick(nodes) : scene;
      parent.addChild(node);
      nodes.push(node);
    }
    return nodes;
  }

  private swing(node: Node): void {
    const sampler = this.gltf
      .createAnimationSampler()
      .setInput(this.accessor('SCALAR', Float32Array.of(0, 1, 2)))
      .setOutput(this.accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0)))
      .setInterpolation(this.pick(['LINEAR', 'STEP']));
    const channel = this.gltf
      .createAnimationChannel()
      .setTargetNode(node)
      .setTargetPath('translation')
      .setSampler(sampler);
    this.gltf.createAnimation('swing').addSampler(sampler).addChannel(channel);
  }
}

function bump(u: number, v: number): number[] {
  const [x, y] = [Math.sin(u * 6) * 0.4, Math.cos(v * 5) * 0.3];
  return [x, y, Math.sqrt(1 - x * x - y * y)].map((component) => Math.round((component * 0.5 + 0.5) * 255));
}

/** Waves without a jump, which no change of size would keep. */
function stripes(x: number, y: number, components: number, width: number): number[] {
  return Array.from({ length: components }, (_, k) =>
    k === 3 ? Math.floor((x * 255) / width) : Math.abs(((x * 13 + y * (7 + k * 5) + k * 40) % 510) - 255),
  );
}

/** A waved sheet of `n` by `n` squares, `along` the x axis. */
function sheetOf(n: number, along: number) {
  const [points, normals, colours, corners, lifted]: number[][] = [[], [], [], [], []];
  const uvs: [number[], number[]] = [[], []];
  const long = Math.hypot(0.2, 0.1, 1);
  for (let y = 0; y <= n; y += 1)
    for (let x = 0; x <= n; x += 1) {
      points.push(x / n + along, y / n, Math.sin(x + y) * 0.1);
      normals.push(0.2 / long, 0.1 / long, 1 / long);
      colours.push(x / n, y / n, 0.5, 1 - (x * y) / (2 * n * n));
      uvs[0].push((x / n) * 2 - 0.3, y / n);
      uvs[1].push(y / n, x / n);
      lifted.push(0, 0, 0.3);
    }
  for (let y = 0; y < n; y += 1)
    for (let x = 0; x < n; x += 1) {
      const at = y * (n + 1) + x;
      corners.push(at, at + 1, at + n + 2, at, at + n + 2, at + n + 1);
    }
  return { points, normals, colours, corners, lifted, uvs };
}
