import { Document } from '@gltf-transform/core';
import { beforeAll, describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { compareRig } from '../compare/compareRig.ts';
import { DESTINATIONS } from '../destinations/destinations.ts';
import { handOff } from '../handoff/handoff.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { createMesh, type SceneDocument } from '../scene/document.ts';
import { worldMatrices } from '../scene/matrix.ts';
import { partsOffJoints } from '../scene/partsOffJoints.ts';
import { BOX_QUADS, boxPoints } from '../test/boxes.ts';
import { lens } from '../test/lens.ts';
import { riggedCrane } from '../test/rigged.ts';
import { threeSees } from '../test/witness.ts';
import { writeFbx } from './fbx/writeFbx.ts';
import { gltfIo } from './gltf/io.ts';
import { addGeometry } from './gltf/writeScene.ts';

/** The crane whose middle bone is a box, whose last one is the jib that all of them bend, with a lens. */
function crane(): SceneDocument {
  const document = riggedCrane();
  const box = createMesh('box', {
    points: Float64Array.from(boxPoints(-0.1, 0.1)),
    faceCounts: new Uint32Array(6).fill(4),
    faceCorners: Uint32Array.from(BOX_QUADS.flat()),
  });
  document.meshes.push(box);
  const [, root, mid, tip, jib] = document.nodes;
  Object.assign(mid, { mesh: 1, materials: [0] });
  mid.transform.geometricTranslation = [0, 0.05, 0];
  Object.assign(tip, { mesh: 0, materials: [0], skin: 0 });
  Object.assign(jib, { kind: 'group', mesh: -1, skin: -1, materials: [] });
  root.camera = document.cameras.push(lens()) - 1;
  return document;
}

async function asGlb(document: SceneDocument): Promise<Uint8Array> {
  const gltf = new Document();
  gltf.createBuffer('crane');
  const steel = gltf.createMaterial('Steel');
  addGeometry(
    gltf,
    document,
    () => steel,
    (name) => name,
  );
  return (await gltfIo()).writeBinary(gltf);
}

let document: SceneDocument;
beforeAll(() => {
  document = crane();
});

describe('what hangs on a bone itself', () => {
  it('is a node of its name below it where a joint can carry nothing', () => {
    const apart = partsOffJoints(document, new Set([1, 2, 3]));
    const added = apart.nodes.slice(6);
    expect(
      added.map(({ name, kind, parent, mesh, skin, camera }) => [name, kind, parent, mesh, skin, camera]),
    ).toEqual([
      ['Root', 'camera', 1, -1, -1, 0],
      ['Mid', 'mesh', 2, 1, -1, -1],
      ['Tip', 'mesh', 3, 0, 0, -1],
    ]);
    // As they stood: the offset of geometry goes along, the bone's own place does not count twice.
    const [before, after] = [worldMatrices(document.nodes), worldMatrices(apart.nodes)];
    expect([...after[7]]).toEqual([...before[2]]);
    expect(added[1].transform.geometricTranslation).toEqual([0, 0.05, 0]);
    expect(apart.nodes[2]).toMatchObject({ mesh: -1, kind: 'bone', materials: [] });
  });

  it('is the document itself where bones carry nothing', () => {
    const bare = riggedCrane();
    expect(partsOffJoints(bare, new Set([1, 2, 3]))).toBe(bare);
  });

  it('keeps its shapes moving', () => {
    const weights = {
      node: 3,
      path: 'weights',
      times: Float64Array.of(0),
      values: Float64Array.of(1, 0),
    } as const;
    const clip = {
      name: 'sag',
      start: 0,
      end: 1,
      tracks: [{ ...weights, interpolation: 'linear' as const }],
    };
    const apart = partsOffJoints({ ...document, clips: [clip] }, new Set([3]));
    expect(apart.clips[0].tracks[0].node).toBe(6);
  });

  it('is seen by a reader of FBX for which a bone is nothing else', async () => {
    const { bytes, losses } = writeFbx(document);
    const told = losses.filter(({ code }) => code === 'fbx.onBone');
    expect(told.map(({ part }) => part)).toEqual(['Root', 'Mid', 'Tip']);
    // Three quads of the jib and six of the box.
    expect((await threeSees('fbx', bytes)).triangles).toBe(18);
  });

  it('goes out to every destination, and the receipt holds', async () => {
    const source = memorySource('quay', { 'crane.glb': await asGlb(document) });
    for (const destination of DESTINATIONS) {
      const asset = await openAsset(source, 'crane.glb');
      const state = initialState(asset.source);
      const { receipt } = await handOff({ ...asset, state, edits: [], findings: [], destination });
      const failed = receipt.readBack.checks.filter(({ ok }) => !ok);
      expect([destination.id, failed]).toEqual([destination.id, []]);
    }
  });
});

describe('joints in Compare', () => {
  it('are met though one was numbered, since a part has its name', () => {
    const [a, b] = [riggedCrane(), riggedCrane()];
    a.nodes[4].name = 'Tip';
    b.nodes[4].name = 'Tip';
    b.nodes[3].name = 'Tip_2';
    expect(compareRig(a, b)).toEqual([]);
    b.nodes[3].transform.translation = [0, 5, 0];
    b.nodes[3].name = 'Other';
    expect(compareRig(a, b).map(({ code }) => code)).toContain('rig.skin');
  });
});
