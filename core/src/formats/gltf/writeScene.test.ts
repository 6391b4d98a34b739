import { Document } from '@gltf-transform/core';
import { KHRLightsPunctual, type Light as PunctualLight } from '@gltf-transform/extensions';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import { type Camera, createMesh, createNode, type Light, type SceneDocument } from '../../scene/document.ts';
import { lens } from '../../test/lens.ts';
import { writtenScene as write } from '../../test/writtenScene.ts';
import { gltfIo } from './io.ts';

const TRIANGLE = {
  points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
  faceCounts: Uint32Array.of(3),
  faceCorners: Uint32Array.of(0, 1, 2),
};
const camera: Camera = lens({ name: 'quay', width: 10 });
const light: Light = {
  name: 'lamp',
  kind: 'spot',
  colour: [1, 0.5, 0],
  intensity: 3,
  castsShadow: true,
  innerAngle: 30,
  outerAngle: 40,
  size: [0, 0],
};

describe('nodes of glTF as written', () => {
  it('are placed by three parts and keep what was added to them', () => {
    const { node } = write((document) => {
      const made = createNode('jib', 'group', -1, { custom: { owner: 'Harrow', spot: [1, 2] } });
      Object.assign(made.transform, { translation: [1, 2, 3], rotation: [0, 90, 0], scale: [2, 2, 2] });
      document.nodes.push(made, createNode('hook', 'group', 0));
    });
    expect([node('jib').getTranslation(), node('jib').getScale(), node('jib').getExtras()]).toEqual([
      [1, 2, 3],
      [2, 2, 2],
      { owner: 'Harrow', spot: [1, 2] },
    ]);
    const half = Math.SQRT1_2;
    node('jib')
      .getRotation()
      .forEach((value, k) => expect(value).toBeCloseTo([0, half, 0, half][k], 9));
    expect(node('hook').getParentNode()?.getName()).toBe('jib');
  });

  it('have cameras by angle, aspect and range', () => {
    const seen = (more: Partial<Camera>) =>
      write((document) => {
        document.cameras.push({ ...camera, ...more });
        document.nodes.push(createNode('quay', 'camera', -1, { camera: 0 }));
      })
        .node('quay')
        .getCamera();
    const lens = seen({});
    expect([lens?.getType(), lens?.getAspectRatio(), lens?.getZNear(), lens?.getZFar()]).toEqual([
      'perspective',
      1.5,
      0.1,
      100,
    ]);
    expect(lens?.getYFov()).toBeCloseTo(2 * Math.atan(12 / 35), 9);
    expect(seen({ far: Number.POSITIVE_INFINITY })?.getZFar()).toBeUndefined();
    expect(seen({ near: 0 })?.getZNear()).toBe(1e-4);
    const flat = seen({ projection: 'orthographic' });
    expect([flat?.getType(), flat?.getXMag(), flat?.getZFar()]).toEqual(['orthographic', 5, 100]);
    expect(flat?.getYMag()).toBeCloseTo(5 / 1.5, 9);
    expect(seen({ projection: 'orthographic', far: Number.POSITIVE_INFINITY })?.getZFar()).toBe(1e4);
  });

  it('have lights by kind, colour, strength and cone, and tell of those that glTF has not', () => {
    const made = (more: Partial<Light>) => {
      const { node, losses } = write((document) => {
        document.lights.push({ ...light, ...more });
        document.nodes.push(createNode('lamp', 'light', -1, { light: 0 }));
      });
      return {
        found: node('lamp').getExtension<PunctualLight>('KHR_lights_punctual'),
        losses: losses.map(({ code }) => code),
      };
    };
    const { found, losses } = made({});
    expect([found?.getType(), found?.getColor(), found?.getIntensity(), losses]).toEqual([
      'spot',
      [1, 0.5, 0],
      3,
      [],
    ]);
    expect(found?.getOuterConeAngle()).toBeCloseTo(Math.PI / 9, 9);
    expect(found?.getInnerConeAngle()).toBeCloseTo(Math.PI / 12, 9);
    expect(made({ innerAngle: 60 }).found?.getInnerConeAngle()).toBeCloseTo((Math.PI / 9) * (1 - 1e-5), 9);
    // A cone opens to a half space at most, and is never none.
    expect(made({ outerAngle: 300 }).found?.getOuterConeAngle()).toBeCloseTo(Math.PI / 2, 9);
    expect(made({ outerAngle: 0, innerAngle: 0 }).found?.getOuterConeAngle()).toBeCloseTo(1e-3, 9);
    expect(made({ kind: 'point' }).found?.getType()).toBe('point');
    // A colour beyond 1 is strength, since glTF has none.
    const strong = made({ colour: [1000, 500, -1] }).found;
    expect([strong?.getColor(), strong?.getIntensity()]).toEqual([[1, 0.5, 0], 3000]);
    expect(made({ kind: 'directional', intensity: -1 }).found?.getIntensity()).toBe(0);
    expect(made({ kind: 'dome' })).toEqual({ found: null, losses: ['gltf.lights'] });
    expect(made({ kind: 'area' })).toEqual({ found: null, losses: ['gltf.lights'] });
    expect(made({ fading: 'linear' }).losses).toEqual(['light.fading']);
  });
});

describe('what glTF makes sound', () => {
  it('is told by part and by the number of corners or points, and not of what shows no mesh', () => {
    const { losses } = write((document) => {
      const normals = {
        name: '',
        size: 3 as const,
        domain: 'corner' as const,
        values: Float64Array.of(0, 0, 1, 0, 0, 0, 0, 0, 2),
        index: null,
      };
      document.meshes.push(createMesh('sound', TRIANGLE), createMesh('plate', { ...TRIANGLE, normals }));
      document.nodes.push(
        createNode('group', 'group', -1),
        createNode('sound', 'mesh', -1, { mesh: 0 }),
        createNode('plate', 'mesh', -1, { mesh: 1 }),
      );
    });
    // One corner has none; a length of 2 says a direction all the same.
    expect(losses).toEqual([{ code: 'gltf.normals', part: 'plate', count: 1 }]);
  });
});

describe('meshes of glTF as written', () => {
  const meshOf = (
    parts: Partial<Parameters<typeof createMesh>[1]>,
    change: (document: SceneDocument) => void = () => {},
  ) => {
    const { node } = write((document) => {
      document.meshes.push(createMesh('plate', { ...TRIANGLE, ...parts }));
      document.nodes.push(createNode('plate', 'mesh', -1, { mesh: 0 }));
      change(document);
    });
    return node('plate').getMesh();
  };
  const numbers = (list: ArrayLike<number> | null | undefined) =>
    Array.from(list ?? [], (value) => Math.round(value * 1e6) / 1e6 + 0);

  it('are triangles with normals, UVs downwards and colours', () => {
    const corner = (size: 2 | 3, name: string, values: number[]) => ({
      name,
      size,
      domain: 'corner' as const,
      values: Float64Array.from(values),
      index: null,
    });
    const mesh = meshOf({
      uvSets: [corner(2, 'map1', [0, 0, 1, 0, 0, 1])],
      colours: [corner(3, 'colour', [1, 0, 0, 0, 1, 0, 0, 0, 1])],
    });
    const [primitive] = mesh?.listPrimitives() ?? [];
    expect(numbers(primitive.getIndices()?.getArray())).toEqual([0, 1, 2]);
    expect(numbers(primitive.getAttribute('POSITION')?.getArray())).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0]);
    expect(numbers(primitive.getAttribute('NORMAL')?.getArray())).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1]);
    expect(numbers(primitive.getAttribute('TEXCOORD_0')?.getArray())).toEqual([0, 1, 1, 1, 0, 0]);
    expect(numbers(primitive.getAttribute('COLOR_0')?.getArray())).toEqual([
      1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1,
    ]);
  });

  it('have no colours beyond 0..1, which is told', () => {
    const values = Float64Array.of(-1, 0, 0.5, 1, 2, 0.25, 0, 1, Number.NaN);
    const { node, losses } = write((document) => {
      const colours = [{ name: 'c', size: 3 as const, domain: 'corner' as const, values, index: null }];
      document.meshes.push(createMesh('plate', { ...TRIANGLE, colours }));
      document.nodes.push(createNode('plate', 'mesh', -1, { mesh: 0 }));
    });
    const [primitive] = node('plate').getMesh()?.listPrimitives() ?? [];
    expect(numbers(primitive.getAttribute('COLOR_0')?.getArray())).toEqual([
      0, 0, 0.5, 1, 1, 1, 0.25, 1, 0, 1, 0, 1,
    ]);
    expect(losses).toContainEqual({ code: 'gltf.colours', part: 'plate', count: 3 });
  });

  it('take the geometric transform into their points, and turn where it mirrors', () => {
    const mesh = meshOf({}, (document) =>
      Object.assign(document.nodes[0].transform, {
        geometricTranslation: [10, 0, 0],
        geometricScale: [-1, 1, 1],
      }),
    );
    const [primitive] = mesh?.listPrimitives() ?? [];
    expect(numbers(primitive.getAttribute('POSITION')?.getArray())).toEqual([10, 0, 0, 9, 0, 0, 10, 1, 0]);
    expect(numbers(primitive.getIndices()?.getArray())).toEqual([0, 2, 1]);
    expect(numbers(primitive.getAttribute('NORMAL')?.getArray()).slice(0, 3)).toEqual([0, 0, 1]);
  });

  it('have indices of 16 bits up to 65,535 vertices', () => {
    const indices = (count: number) => {
      const points = new Float64Array(count * 3);
      for (let i = 0; i < count; i += 1) points.set([i % 300, Math.floor(i / 300), i % 7], i * 3);
      const corners = Uint32Array.from({ length: Math.ceil(count / 3) * 3 }, (_, i) =>
        Math.min(i, count - 1),
      );
      return meshOf({ points, faceCounts: new Uint32Array(corners.length / 3).fill(3), faceCorners: corners })
        ?.listPrimitives()[0]
        .getIndices()
        ?.getArray();
    };
    expect(indices(65_535)).toBeInstanceOf(Uint16Array);
    expect(indices(65_538)).toBeInstanceOf(Uint32Array);
  });

  it('follow at most four joints, the heaviest, whose weights add up to one', () => {
    const influences = {
      starts: Uint32Array.of(0, 5, 6, 6),
      joints: Uint32Array.of(0, 1, 2, 3, 4, 2),
      weights: Float32Array.of(0.1, 0.4, 0.2, 0.25, 0.05, 0.5),
    };
    const mesh = meshOf({ influences }, (document) => {
      for (let joint = 0; joint < 5; joint += 1)
        document.nodes.push(createNode(`joint ${joint}`, 'bone', -1));
      const identities = new Float64Array(80);
      for (let joint = 0; joint < 5; joint += 1)
        for (let k = 0; k < 4; k += 1) identities[joint * 16 + k * 5] = 1;
      document.skins.push({ name: 'skin', joints: [1, 2, 3, 4, 5], inverseBind: identities });
      document.nodes[0].skin = 0;
    });
    const [primitive] = mesh?.listPrimitives() ?? [];
    expect(numbers(primitive.getAttribute('JOINTS_0')?.getArray())).toEqual([
      1, 3, 2, 0, 2, 0, 0, 0, 5, 0, 0, 0,
    ]);
    const total = 0.4 + 0.25 + 0.2 + 0.1;
    const expected = [0.4 / total, 0.25 / total, 0.2 / total, 0.1 / total, 1, 0, 0, 0, 1, 0, 0, 0];
    Array.from(primitive.getAttribute('WEIGHTS_0')?.getArray() ?? []).forEach((weight, i) =>
      expect(weight).toBeCloseTo(expected[i], 6),
    );
  });

  it('move to their shapes by offsets of every vertex', () => {
    const shapes = [
      {
        name: 'open',
        weight: 0.25,
        points: Uint32Array.of(1),
        offsets: Float64Array.of(0, 0, 2),
        normalOffsets: Float64Array.of(0, 1, 0),
      },
    ];
    const mesh = meshOf({ shapes });
    expect([mesh?.getWeights(), mesh?.getExtras()]).toEqual([[0.25], { targetNames: ['open'] }]);
    const [target] = mesh?.listPrimitives()[0].listTargets() ?? [];
    expect(numbers(target.getAttribute('POSITION')?.getArray())).toEqual([0, 0, 0, 0, 0, 2, 0, 0, 0]);
    expect(numbers(target.getAttribute('NORMAL')?.getArray())).toEqual([0, 0, 0, 0, 1, 0, 0, 0, 0]);
  });

  it('without faces are left out, and one mesh serves all nodes that show it alike', () => {
    const { root, node } = write((document) => {
      document.meshes.push(
        createMesh('plate', TRIANGLE),
        createMesh('none', {
          points: new Float64Array(0),
          faceCounts: new Uint32Array(0),
          faceCorners: new Uint32Array(0),
        }),
      );
      document.nodes.push(
        createNode('a', 'mesh', -1, { mesh: 0 }),
        createNode('b', 'mesh', -1, { mesh: 0 }),
        createNode('c', 'mesh', -1, { mesh: 1 }),
      );
    });
    expect(root.listMeshes()).toHaveLength(1);
    expect(node('a').getMesh()).toBe(node('b').getMesh());
    expect(node('c').getMesh()).toBeNull();
  });
});

it('nodes stand where they stand to the last digit, in GLB and beside its buffer', async () => {
  const { gltf, node } = write((document) => {
    document.meshes.push(createMesh('ring', TRIANGLE));
    document.nodes.push(createNode('ring', 'mesh', -1, { mesh: 0 }), createNode('still', 'group', -1));
  });
  const [translation, scale] = [
    [6e-6, 0, -2e-7],
    [1, 1.000001, 1],
  ] as const;
  const rotation = [1e-6, 0, 0, 1] as const;
  node('ring')
    .setTranslation([...translation])
    .setScale([...scale])
    .setRotation([...rotation]);
  const expected = { translation, rotation, scale };
  const io = await gltfIo();
  const { json } = await io.binaryToJSON(await io.writeBinary(gltf));
  expect(json.nodes?.[0]).toMatchObject(expected);
  expect(Object.keys(json.nodes?.[1] ?? {})).toEqual(['name']);
  expect((await io.writeJSON(gltf)).json.nodes?.[0]).toMatchObject(expected);
});

describe('glTF of another writer', () => {
  it('is read with cameras, lights, weights and extras in our words', async () => {
    const gltf = new Document();
    const buffer = gltf.createBuffer();
    const position = gltf
      .createAccessor()
      .setType('VEC3')
      .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
      .setBuffer(buffer);
    const target = gltf
      .createPrimitiveTarget('open')
      .setAttribute(
        'POSITION',
        gltf.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(buffer),
      );
    const mesh = gltf
      .createMesh('plate')
      .addPrimitive(gltf.createPrimitive().setAttribute('POSITION', position).addTarget(target));
    const lens = gltf
      .createCamera('')
      .setType('perspective')
      .setYFov(2 * Math.atan(12 / 35))
      .setAspectRatio(2)
      .setZNear(0.5)
      // As a file without one.
      .setZFar(undefined as unknown as number);
    const flat = gltf
      .createCamera('plan')
      .setType('orthographic')
      .setXMag(4)
      .setYMag(3)
      .setZNear(1)
      .setZFar(9);
    const lamp = gltf
      .createExtension(KHRLightsPunctual)
      .createLight('')
      .setType('spot')
      .setColor([1, 0, 0])
      .setIntensity(7)
      .setRange(20)
      .setInnerConeAngle(Math.PI / 6)
      .setOuterConeAngle(Math.PI / 4);
    const plate = gltf
      .createNode('plate')
      .setMesh(mesh)
      .setWeights([0.75])
      .setExtras({
        owner: 'Harrow',
        kept: { no: 1 },
        list: [1, 2],
        long: new Array(65).fill(0),
        words: ['a'],
      });
    const nodes = [
      plate,
      gltf.createNode('quay').setCamera(lens),
      gltf.createNode('above').setCamera(flat),
      gltf.createNode('lamp').setExtension('KHR_lights_punctual', lamp),
      gltf.createNode('').setMesh(mesh),
    ];
    const main = gltf.createScene('main');
    for (const node of nodes) main.addChild(node);
    const bytes = await (await gltfIo()).writeBinary(gltf);
    const document = await readModel('a.glb', memorySource('test', { 'a.glb': bytes }));

    expect(document.nodes.map(({ name, kind }) => [name, kind])).toEqual([
      ['plate', 'mesh'],
      ['quay', 'camera'],
      ['above', 'camera'],
      ['lamp', 'light'],
      ['plate', 'mesh'],
    ]);
    expect(document.remarks.map(({ subject }) => subject)).toEqual(['ranges where lights end']);
    expect(document.nodes[0].custom).toEqual({ owner: 'Harrow', list: [1, 2] });
    expect(document.meshes[0].shapes).toMatchObject([{ name: 'open', weight: 0.75 }]);
    expect(document.cameras).toMatchObject([
      {
        name: 'quay',
        projection: 'perspective',
        aperture: [48, 24],
        near: 0.5,
        far: Number.POSITIVE_INFINITY,
      },
      { name: 'plan', projection: 'orthographic', width: 8, aperture: [32, 24], near: 1, far: 9 },
    ]);
    expect(document.cameras[0].focalLength).toBeCloseTo(35, 5);
    expect(document.lights).toMatchObject([
      { name: 'lamp', kind: 'spot', colour: [1, 0, 0], intensity: 7, castsShadow: true },
    ]);
    // Angles here are those of the whole cone.
    expect(
      [document.lights[0].innerAngle, document.lights[0].outerAngle].map(
        (angle) => Math.round(angle * 1e4) / 1e4,
      ),
    ).toEqual([60, 90]);
  });
});
