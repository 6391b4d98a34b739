import { Document } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { compareHierarchy } from '../compare/compareHierarchy.ts';
import { compareRig } from '../compare/compareRig.ts';
import { poseOf } from '../compare/posed.ts';
import { prepareDocument } from '../convert.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { createNode, type Influences, type SceneDocument, Z_UP } from '../scene/document.ts';
import { reorient } from '../scene/reorient.ts';
import { lens } from '../test/lens.ts';
import { riggedCrane } from '../test/rigged.ts';
import { gltfIo } from './gltf/io.ts';
import { addGeometry } from './gltf/writeScene.ts';
import { writeModel } from './writeModel.ts';

async function through(document: SceneDocument, format: string): Promise<SceneDocument> {
  const [extension] = format.split(' ');
  const name = `crane.${extension}`;
  const ready = prepareDocument(document, extension, {});
  const form = format.endsWith('text') ? 'text' : 'binary';
  const files =
    extension === 'glb' ? new Map([[name, await asGlb(ready)]]) : writeModel(ready, name, { form }).files;
  return readModel(name, memorySource('crane', Object.fromEntries(files)));
}

async function asGlb(document: SceneDocument): Promise<Uint8Array> {
  const gltf = new Document();
  gltf.createBuffer('crane');
  addGeometry(
    gltf,
    document,
    () => null,
    (name) => name,
  );
  return (await gltfIo()).writeBinary(gltf);
}

/** Clips that formats cannot hold, and say so when writing. */
const LOST: Record<string, string[]> = { usda: ['lift'], usdc: ['lift'] };
const found = (a: SceneDocument, b: SceneDocument, format: string) =>
  compareRig(a, b).filter(({ part }) => !LOST[format]?.includes(part ?? ''));

describe('what moves a model goes through every format that holds it', () => {
  it.each(['fbx', 'fbx text', 'usda', 'usdc', 'glb'])('%s', async (format) => {
    const source = riggedCrane();
    const back = await through(source, format);
    expect(found(source, back, format)).toEqual([]);
    expect(compareHierarchy(source, back)).toEqual([]);
  });

  it.each(['fbx', 'usda', 'glb'])('%s, from centimetres that are Z up', async (format) => {
    const source = reorient(riggedCrane(), Z_UP, 0.01);
    expect(found(riggedCrane(), await through(source, format), format)).toEqual([]);
  });
});

describe('points that no joint moves', () => {
  it.each(['usda', 'glb'])('go where their part goes by itself in %s', async (format) => {
    const source = loose(true, false);
    const [swing] = source.clips;
    swing.tracks.push({
      node: 4,
      path: 'translation',
      times: Float64Array.of(0, 2),
      values: Float64Array.of(0, 0, 0, 0, 0, 3),
      interpolation: 'linear',
    });
    expect(found(source, await through(source, format), format)).toEqual([]);
  });

  /** The lowest two follow none; what the crane hangs on moves in the first clip, where asked. */
  const loose = (moving: boolean, apart: boolean) => {
    const document = riggedCrane();
    const { starts, joints, weights } = document.meshes[0].influences as Influences;
    document.meshes[0].influences = {
      starts: starts.map((start) => Math.max(0, start - 2)),
      joints: joints.slice(2),
      weights: weights.slice(2),
    };
    if (!moving) document.clips = [];
    // Bones that hang on nothing that the part hangs on.
    if (apart) document.nodes[1].parent = -1;
    return document;
  };

  it.each([
    ['fbx', true, false],
    ['usda', true, false],
    ['usda', false, true],
    ['glb', true, false],
    ['glb', false, false],
    ['glb', false, true],
  ] as const)('stay with their part in %s', async (format, moving, apart) => {
    const source = loose(moving, apart);
    const back = await through(source, format);
    expect(found(source, back, format)).toEqual([]);
    const joints = back.skins[0].joints.map((joint) => back.nodes[joint].name);
    expect(joints).toEqual(['Root', 'Mid', 'Tip', ...(format === 'fbx' ? [] : ['Jib_still'])]);
    if (format !== 'glb') return;
    // Joints of a skin hang below one node, as glTF wants it.
    const { issues } = await validateBytes(await asGlb(source));
    expect(issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
  });
});

it.each(['fbx', 'usda', 'glb'])('shapes follow the offset of geometry in %s', async (format) => {
  const source = riggedCrane();
  Object.assign(source.nodes[4].transform, {
    geometricTranslation: [0.3, 0.2, 0],
    geometricRotation: [0, 20, 0],
    geometricScale: [2, 1, 1],
  });
  expect(found(source, await through(source, format), format)).toEqual([]);
});

describe('joints of one name', () => {
  it('are no difference where the other side numbers them, and one that is elsewhere is', () => {
    const [one, other] = [riggedCrane(), riggedCrane()];
    one.nodes[3].name = 'Mid';
    other.nodes[2].name = 'Mid';
    other.nodes[3].name = 'Mid_second';
    expect(compareRig(one, other).filter(({ code }) => code === 'rig.skin')).toEqual([]);
    const moved = riggedCrane();
    moved.skins[0].inverseBind[12] += 0.3;
    expect(compareRig(riggedCrane(), moved).map(({ code }) => code)).toContain('rig.skin');
  });
});

describe('a part that hangs on a bone', () => {
  it.each(['usda', 'glb', 'fbx'])('%s goes where the bone goes', async (format) => {
    const source = riggedCrane();
    source.meshes.push({ ...source.meshes[0], name: 'lamp', influences: null, shapes: [] });
    const lamp = createNode('Lamp', 'mesh', 3, { mesh: 1, materials: [0] });
    lamp.transform.translation = [0.5, 0.25, 0];
    source.nodes.push(lamp);
    const back = await through(source, format);
    expect(found(source, back, format)).toEqual([]);
    // At one second the middle bone, a metre up, is turned by 40° about Z; the lamp is half a metre out and
    // 1.25 up from it.
    const [swing] = back.clips;
    const place = poseOf(back, swing, 1).worlds[back.nodes.findIndex(({ name }) => name === 'Lamp')];
    const radians = (degrees: number) => (degrees * Math.PI) / 180;
    const out = 0.5 * Math.cos(radians(40)) - 1.25 * Math.sin(radians(40));
    const up = 1 + 0.5 * Math.sin(radians(40)) + 1.25 * Math.cos(radians(40));
    // The crane stands at (1, 0, 2), turned by 30° about Y.
    const expected = [1 + out * Math.cos(radians(30)), up, 2 - out * Math.sin(radians(30))];
    [12, 13, 14].forEach((index, k) => expect(place[index] * back.metresPerUnit).toBeCloseTo(expected[k], 4));
  });
});

describe('what USD asks of names and arrays', () => {
  it.each(['usda', 'usdc'])('%s keeps joints whose names no path may hold', async (format) => {
    const source = riggedCrane();
    source.nodes[1].name = 'rig:Root.001';
    source.nodes[2].name = 'Mid/low';
    source.nodes[3].name = 'Tip 2';
    source.clips.pop();
    const back = await through(source, format);
    expect(back.nodes.filter(({ kind }) => kind === 'bone').map(({ name }) => name)).toEqual([
      'rig:Root.001',
      'Mid/low',
      'Tip 2',
    ]);
    expect(compareRig(source, back).map(({ message }) => message)).toEqual([]);
    if (format === 'usdc') return;
    const text = new TextDecoder().decode(
      writeModel(prepareDocument(source, 'usda', {}), 'crane.usda', {}).files.get('crane.usda'),
    );
    const [, joints] = /uniform token\[\] joints = \[([^\]]*)\]/.exec(text) ?? [];
    for (const joint of joints.split(', ')) expect(joint).toMatch(/^"[A-Za-z_]\w*(\/[A-Za-z_]\w*)*"$/);
  });

  it.each(['usda', 'usdc'])(
    '%s takes only whole elements of an array that a stranger cut',
    async (format) => {
      const source = riggedCrane();
      const [layer] = source.meshes[0].uvSets;
      layer.values = Float64Array.from([...layer.values, 0.5]);
      const [back] = (await through(source, format)).meshes;
      expect([...back.uvSets[0].values].map((value) => Number(value.toFixed(6)))).toEqual(
        [...layer.values.subarray(0, 24)].map((value) => Number(value.toFixed(6))),
      );
    },
  );
});

describe('cameras and lights go through the formats that hold them', () => {
  function stage(): SceneDocument {
    const document = riggedCrane();
    document.cameras.push(lens({ name: 'Quay', near: 0.2, far: 400 }));
    document.lights.push({
      name: 'Lamp',
      kind: 'spot',
      colour: [1, 0.5, 0.25],
      intensity: 7,
      innerAngle: 20,
      outerAngle: 50,
      size: [0, 0],
      castsShadow: true,
    });
    const camera = createNode('Quay', 'camera', -1, { camera: 0 });
    camera.transform.translation = [0, 2, 9];
    const lamp = createNode('Lamp', 'light', -1, { light: 0 });
    lamp.transform.translation = [0, 5, 0];
    document.nodes.push(camera, lamp);
    return document;
  }

  it.each(['fbx', 'fbx text', 'usda', 'usdc', 'glb'])('%s', async (format) => {
    const { cameras, lights } = await through(stage(), format);
    expect(cameras).toHaveLength(1);
    const [camera] = cameras;
    // The angle of view is all that every format keeps: glTF knows no millimetres.
    expect(2 * Math.atan(camera.aperture[1] / 2 / camera.focalLength)).toBeCloseTo(2 * Math.atan(12 / 35), 5);
    expect(camera.near).toBeCloseTo(0.2, 5);
    expect(camera.far).toBeCloseTo(400, 3);
    const [light] = lights;
    expect([light.kind, ...light.colour.map((component) => Number(component.toFixed(4)))]).toEqual([
      'spot',
      1,
      0.5,
      0.25,
    ]);
    expect(light.outerAngle).toBeCloseTo(50, 3);
    expect(light.innerAngle).toBeCloseTo(20, 3);
  });
});
