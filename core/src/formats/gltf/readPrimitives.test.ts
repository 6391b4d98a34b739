import { type Accessor, Document, type Primitive } from '@gltf-transform/core';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import { gltfIo } from './io.ts';

type Kit = {
  gltf: Document;
  numbers(
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4',
    values: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
  ): Accessor;
  primitive(): Primitive;
};
const FIVE = Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 0, 1);

async function mesh(change: (kit: Kit) => Primitive[]) {
  const gltf = new Document();
  const buffer = gltf.createBuffer();
  const numbers: Kit['numbers'] = (type, values) =>
    gltf.createAccessor().setType(type).setArray(values).setBuffer(buffer);
  const primitive = () => gltf.createPrimitive().setAttribute('POSITION', numbers('VEC3', FIVE));
  const made = gltf.createMesh('plate');
  for (const one of change({ gltf, numbers, primitive })) made.addPrimitive(one);
  gltf.createScene().addChild(gltf.createNode('plate').setMesh(made));
  const document = await readModel(
    'a.glb',
    memorySource('test', { 'a.glb': await (await gltfIo()).writeBinary(gltf) }),
  );
  return { ...document.meshes[0], remarks: document.remarks.map(({ code }) => code) };
}
const faces = async (mode: 0 | 1 | 4 | 5 | 6, indices: number[] | null) => {
  const { faceCorners, remarks } = await mesh(({ primitive, numbers }) => {
    const one = primitive().setMode(mode);
    if (indices) one.setIndices(numbers('SCALAR', Uint16Array.from(indices)));
    return [one];
  });
  return [[...faceCorners], remarks];
};

describe('primitives of glTF', () => {
  it('are triangles from lists, strips and fans', async () => {
    expect(await faces(4, [0, 1, 2, 0, 2, 3])).toEqual([[0, 1, 2, 0, 2, 3], []]);
    // Every second triangle of a strip runs the other way.
    expect(await faces(5, [0, 1, 2, 3])).toEqual([[0, 1, 2, 2, 1, 3], []]);
    expect(await faces(5, [0, 1, 1, 2])).toEqual([[], []]);
    expect(await faces(6, [0, 1, 2, 3])).toEqual([[0, 1, 2, 0, 2, 3], []]);
  });

  it('leave out triangles that name missing points', async () => {
    expect(await faces(4, [0, 1, 2, 0, 2, 9])).toEqual([[0, 1, 2], ['read.indexRange']]);
  });

  it('follow any number of joints, and keep their shapes by name', async () => {
    const found = await mesh(({ gltf, primitive, numbers }) => {
      const one = primitive().setIndices(numbers('SCALAR', Uint16Array.of(0, 1, 2)));
      const joints = (values: number[]) => numbers('VEC4', Uint16Array.from(values));
      const weights = (values: number[]) => numbers('VEC4', Float32Array.from(values));
      one
        .setAttribute('JOINTS_0', joints([1, 2, 0, 0, ...new Array(16).fill(0)]))
        .setAttribute('WEIGHTS_0', weights([0.5, 0.25, 0, 0, 1, 0, 0, 0, ...new Array(12).fill(0)]));
      one
        .setAttribute('JOINTS_1', joints([3, 0, 0, 0, ...new Array(16).fill(0)]))
        .setAttribute('WEIGHTS_1', weights([0.25, 0, 0, 0, ...new Array(16).fill(0)]));
      const offsets = new Float32Array(15);
      offsets[5] = 2;
      one.addTarget(gltf.createPrimitiveTarget().setAttribute('POSITION', numbers('VEC3', offsets)));
      return [one];
    });
    const { starts, joints, weights } = found.influences ?? { starts: [], joints: [], weights: [] };
    expect([[...starts], [...joints], [...weights]]).toEqual([
      [0, 3, 4, 4, 4, 4],
      [1, 2, 3, 0],
      [0.5, 0.25, 0.25, 1],
    ]);
    expect(found.shapes).toEqual([
      {
        name: 'shape_1',
        points: Uint32Array.of(1),
        offsets: Float64Array.of(0, 0, 2),
        normalOffsets: null,
        weight: 0,
      },
    ]);
  });

  it('of one mesh are joined, each with its own points', async () => {
    const found = await mesh(({ primitive, numbers }) =>
      [0, 1].map(() => primitive().setIndices(numbers('SCALAR', Uint16Array.of(0, 1, 2)))),
    );
    expect([...found.faceCorners]).toEqual([0, 1, 2, 5, 6, 7]);
    expect(found.points).toHaveLength(30);
  });

  it('keep shapes of the primitives that have them, by name, with the normals that there are', async () => {
    const vectors = (values: Record<number, number>) =>
      Float32Array.from({ length: 15 }, (_, i) => values[i] ?? 0);
    const found = await mesh(({ gltf, primitive, numbers }) => {
      const target = (
        position: Record<number, number> | null,
        normal: Record<number, number> | null,
        name = '',
      ) => {
        const one = gltf.createPrimitiveTarget(name);
        if (position) one.setAttribute('POSITION', numbers('VEC3', vectors(position)));
        if (normal) one.setAttribute('NORMAL', numbers('VEC3', vectors(normal)));
        return one;
      };
      const triangle = () => primitive().setIndices(numbers('SCALAR', Uint16Array.of(0, 1, 2)));
      gltf
        .getRoot()
        .listMeshes()[0]
        .setExtras({ targetNames: ['bulge', 7] });
      return [
        // The second point moves, the fourth turns alone.
        triangle()
          .addTarget(target({ 3: 0.5 }, { 10: 1 }, 'bulge'))
          .addTarget(target({ 0: 1 }, null)),
        // Normals alone are no shape of points.
        triangle()
          .addTarget(target(null, { 0: 1 }, 'bulge'))
          .addTarget(target({ 14: 2 }, null)),
      ];
    });
    expect(found.shapes).toEqual([
      {
        name: 'bulge',
        points: Uint32Array.of(1, 3),
        offsets: Float64Array.of(0.5, 0, 0, 0, 0, 0),
        normalOffsets: Float64Array.of(0, 0, 0, 0, 1, 0),
        weight: 0,
      },
      {
        name: 'shape_2',
        points: Uint32Array.of(0, 9),
        offsets: Float64Array.of(1, 0, 0, 0, 0, 2),
        normalOffsets: null,
        weight: 0,
      },
    ]);
  });
});

describe('JSON of glTF', () => {
  const glb = (json: Uint8Array, binary = new Uint8Array(0), filler = 0x20) => {
    const padded = new Uint8Array((Math.floor(json.length / 4) + 1) * 4).fill(filler);
    padded.set(json);
    const words = (...list: number[]) => new Uint8Array(Uint32Array.from(list).buffer);
    const chunk = binary.length > 0 ? [...words(binary.length, 0x004e4942), ...binary] : [];
    const length = 20 + padded.length + chunk.length;
    return new Uint8Array([...words(0x46546c67, 2, length, padded.length, 0x4e4f534a), ...padded, ...chunk]);
  };
  const opened = (bytes: Uint8Array) => readModel('a.glb', memorySource('test', { 'a.glb': bytes }));

  it('that is not UTF-8 is refused where it ceases to be', async () => {
    const json = new TextEncoder().encode('{"asset":{"version":"2.0"},"nodes":[{"name":"a?"}]}');
    json[json.indexOf(0x3f)] = 0xdd;
    await expect(opened(glb(json))).rejects.toMatchObject({
      code: 'gltf.broken',
      message: 'its JSON has a letter that is not UTF-8, behind 46 others',
    });
  });

  it('of a GLB may refer to images and buffers beside it', async () => {
    const points = new Uint8Array(Float32Array.of(0, 0, 0, 2, 0, 0, 0, 3, 0).buffer);
    const uvs = new Uint8Array(Float32Array.of(0, 0, 1, 0, 0, 1).buffer);
    const json = {
      asset: { version: '2.0' },
      extensionsUsed: ['EXT_quay_of_nobody'],
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0, name: 'Sail' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0, TEXCOORD_0: 1 }, material: 0 }] }],
      accessors: [
        { componentType: 5126, count: 3, type: 'VEC3', bufferView: 0 },
        { componentType: 5126, count: 3, type: 'VEC2', bufferView: 1 },
      ],
      bufferViews: [
        { buffer: 0, byteLength: 36 },
        { buffer: 1, byteLength: 24 },
      ],
      buffers: [{ byteLength: 36 }, { byteLength: 24, uri: 'uvs.bin' }],
      materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
      textures: [{ source: 0 }],
      images: [{ uri: 'sail%20cloth.png' }],
    };
    // Filled up with zeros, as some do.
    const bytes = glb(new TextEncoder().encode(JSON.stringify(json)), points, 0);
    const document = await readModel('a.glb', memorySource('test', { 'a.glb': bytes, 'uvs.bin': uvs }));
    expect([...document.meshes[0].points]).toEqual([0, 0, 0, 2, 0, 0, 0, 3, 0]);
    // Upwards here, downwards in the file.
    expect([...document.meshes[0].uvSets[0].values]).toEqual([0, 1, 1, 1, 0, 0]);
    expect(document.images.map(({ written }) => written)).toEqual(['sail cloth.png']);
  });

  it('whose numbers point nowhere is refused with the property', async () => {
    const json = {
      asset: { version: '2.0' },
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      accessors: [{ componentType: 5126, count: 3, type: 'VEC3', bufferView: 7 }],
      // What the standard's validator only remarks on is not what is wrong.
      extensionsUsed: ['EXT_quay_of_nobody'],
    };
    const error = await opened(glb(new TextEncoder().encode(JSON.stringify(json)))).catch((fault) => fault);
    expect(error).toMatchObject({ code: 'gltf.broken', place: { file: 'a.glb' } });
    expect(error.message).toMatch(/^\/accessors\/0\/bufferView: [^.]+$/);
  });

  it.each<[string, object[], string]>([
    [
      'its own ancestor',
      [{ children: [1] }, { children: [2] }, { children: [0] }],
      'node 0 is its own ancestor',
    ],
    ['its own child', [{}, { children: [1] }], 'node 1 is its own ancestor'],
    ['the parent of nothing', [{ children: [3] }], 'node 0 names child 3, which is not there'],
    ['the parent of a number', [{ children: 0 }], 'the children of node 0 are no list'],
  ])('whose node is %s is refused with the node', async (_, nodes, message) => {
    const json = { asset: { version: '2.0' }, scenes: [{ nodes: [0] }], nodes };
    await expect(opened(glb(new TextEncoder().encode(JSON.stringify(json))))).rejects.toMatchObject({
      code: 'gltf.broken',
      message,
    });
  });

  it('may share a node between two parents, which is no circle', async () => {
    const nodes = [{ children: [1, 2] }, { children: [3] }, { children: [3] }, { name: 'Ring' }];
    const json = { asset: { version: '2.0' }, scenes: [{ nodes: [0] }], nodes };
    const document = await opened(glb(new TextEncoder().encode(JSON.stringify(json))));
    expect(document.nodes.some(({ name }) => name === 'Ring')).toBe(true);
  });
});
