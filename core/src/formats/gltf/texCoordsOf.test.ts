import { Document } from '@gltf-transform/core';
import { KHRMaterialsClearcoat } from '@gltf-transform/extensions';
import { expect, it } from 'vitest';
import { createDocument, createMesh, createNode, Y_UP } from '../../scene/document.ts';
import { texCoordsOf } from './texCoordsOf.ts';
import { addGeometry } from './writeScene.ts';

it('a material wants as many UV sets as its images are read by, those of extensions among them', () => {
  const gltf = new Document();
  const texture = gltf.createTexture('a');
  const material = gltf.createMaterial('Oak');
  expect([texCoordsOf(null), texCoordsOf(material)]).toEqual([0, 0]);
  material.setRoughnessFactor(0.4).getNormalTextureInfo()?.setTexCoord(3);
  expect(texCoordsOf(material)).toBe(0);
  material.setBaseColorTexture(texture);
  expect(texCoordsOf(material)).toBe(1);
  material.setOcclusionTexture(texture).getOcclusionTextureInfo()?.setTexCoord(1);
  expect(texCoordsOf(material)).toBe(2);
  const coat = gltf.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatTexture(texture);
  coat.getClearcoatTextureInfo()?.setTexCoord(2);
  material.setExtension('KHR_materials_clearcoat', coat);
  expect(texCoordsOf(material)).toBe(3);
});

it('faces without UVs whose material has images get a set in which all lie at one place, and each part is told', () => {
  const document = Object.assign(createDocument('gltf', 'made'), {
    axes: Y_UP,
    metresPerUnit: 1,
    unitStated: true,
  });
  document.meshes.push(
    createMesh('sign', {
      points: new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0]),
      faceCounts: new Uint32Array([3]),
      faceCorners: new Uint32Array([0, 1, 2]),
    }),
  );
  for (const name of ['Sign', 'Twin'])
    document.nodes.push(createNode(name, 'mesh', -1, { mesh: 0, materials: [0] }));
  const gltf = new Document();
  gltf.createBuffer('a');
  const material = gltf.createMaterial('Oak').setBaseColorTexture(gltf.createTexture('a'));
  const losses = addGeometry(
    gltf,
    document,
    () => material,
    (name) => name,
  );
  expect(losses).toEqual([
    { code: 'gltf.noUv', part: 'Sign' },
    { code: 'gltf.noUv', part: 'Twin' },
  ]);
  const uv = gltf.getRoot().listMeshes()[0].listPrimitives()[0].getAttribute('TEXCOORD_0');
  expect([...(uv?.getArray() ?? [])]).toEqual([0, 0, 0, 0, 0, 0]);
});
