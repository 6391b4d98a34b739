import { Document, type Material } from '@gltf-transform/core';
import sharp from 'sharp';
import { gltfIo } from '../formats/gltf/io.ts';

/** A GLB of one upright square with UVs, and a material of its own name that is dressed by the caller. */
export async function quadGlb(
  name: string,
  dress: (material: Material, gltf: Document) => Promise<void>,
): Promise<Uint8Array> {
  const gltf = new Document();
  const buffer = gltf.createBuffer();
  const material = gltf.createMaterial(name).setMetallicFactor(0);
  await dress(material, gltf);
  const of = (
    type: 'VEC3' | 'VEC2' | 'SCALAR',
    array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
  ) => gltf.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = gltf
    .createPrimitive()
    .setAttribute('POSITION', of('VEC3', Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0])))
    .setAttribute('NORMAL', of('VEC3', Float32Array.from([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1])))
    .setAttribute('TEXCOORD_0', of('VEC2', Float32Array.from([0, 1, 1, 1, 1, 0, 0, 0])))
    .setIndices(of('SCALAR', Uint16Array.from([0, 1, 2, 0, 2, 3])))
    .setMaterial(material);
  gltf.createScene().addChild(gltf.createNode(name).setMesh(gltf.createMesh(name).addPrimitive(primitive)));
  return (await gltfIo()).writeBinary(gltf);
}

/** A texture of 8-bit codes, three a pixel. */
export async function textureOf(gltf: Document, name: string, side: number, codes: readonly number[]) {
  const image = await sharp(Buffer.from(codes), { raw: { width: side, height: side, channels: 3 } })
    .png()
    .toBuffer();
  return gltf.createTexture(name).setImage(new Uint8Array(image)).setMimeType('image/png');
}
