import { Document, NodeIO } from '@gltf-transform/core';
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import { transformPoint, worldMatrices } from '../../scene/matrix.ts';

/** A bollard at (1, 0, 0) times three: as it is, moved and turned, and half as large. */
async function quay(attributes: Partial<Record<'TRANSLATION' | 'ROTATION' | 'SCALE', number[]>>) {
  const gltf = new Document();
  const buffer = gltf.createBuffer();
  const list = (type: 'VEC3' | 'VEC4', values: number[]) =>
    gltf.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const face = gltf.createPrimitive().setAttribute('POSITION', list('VEC3', [0, 0, 0, 1, 0, 0, 0, 1, 0]));
  const instances = gltf.createExtension(EXTMeshGPUInstancing).createInstancedMesh();
  for (const [name, values] of Object.entries(attributes))
    instances.setAttribute(name, list(name === 'ROTATION' ? 'VEC4' : 'VEC3', values));
  const node = gltf
    .createNode('bollard')
    .setTranslation([1, 0, 0])
    .setMesh(gltf.createMesh('bollard').addPrimitive(face));
  gltf
    .createScene()
    .addChild(
      node
        .setExtension('EXT_mesh_gpu_instancing', instances)
        .addChild(gltf.createNode('sign').setTranslation([0, 5, 0])),
    );
  const bytes = await new NodeIO().registerExtensions([EXTMeshGPUInstancing]).writeBinary(gltf);
  const document = await readModel('quay.glb', memorySource('quay', { 'quay.glb': bytes }));
  const worlds = worldMatrices(document.nodes);
  const tip = (i: number) => transformPoint(worlds[i], 1, 0, 0).map((value) => Number(value.toFixed(5)) + 0);
  return {
    document,
    tips: document.nodes.flatMap(({ name, mesh }, i) => (mesh >= 0 ? [[name, ...tip(i)]] : [])),
  };
}

describe('instances of glTF', () => {
  it('are parts of their own that share a mesh, placed under their node', async () => {
    const half = Math.SQRT1_2;
    const { document, tips } = await quay({
      TRANSLATION: [0, 0, 0, 0, 0, 4, 0, 0, 8],
      ROTATION: [0, 0, 0, 1, 0, 0, half, half, 0, 0, 0, 1],
      SCALE: [1, 1, 1, 1, 1, 1, 0.5, 0.5, 0.5],
    });
    // Turned by a quarter about z, its tip points up.
    expect(tips).toEqual([
      ['bollard_1', 2, 0, 0],
      ['bollard_2', 1, 1, 4],
      ['bollard_3', 1.5, 0, 8],
    ]);
    expect([
      document.meshes.length,
      document.nodes.map(({ name, kind, parent }) => `${name} ${kind} ${parent}`),
    ]).toEqual([
      1,
      ['bollard group -1', 'bollard_1 mesh 0', 'bollard_2 mesh 0', 'bollard_3 mesh 0', 'sign group 0'],
    ]);
    expect(document.remarks).toEqual([]);
  });

  it('stand where they are by what is said of them alone', async () => {
    expect((await quay({ SCALE: [2, 2, 2, 3, 3, 3] })).tips).toEqual([
      ['bollard_1', 3, 0, 0],
      ['bollard_2', 4, 0, 0],
    ]);
  });
});
