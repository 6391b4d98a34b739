import { Document, NodeIO } from '@gltf-transform/core';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { gltfIo } from './io.ts';
import { readGltf } from './readGltf.ts';
import { addGeometry } from './writeScene.ts';

/** Plates by name, each a node of its own that stands where `place` puts it. */
async function readPlates(
  place: (gltf: Document, plate: (name: string) => ReturnType<Document['createNode']>) => void,
) {
  const gltf = new Document();
  const buffer = gltf.createBuffer();
  const position = gltf
    .createAccessor()
    .setType('VEC3')
    .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
    .setBuffer(buffer);
  const mesh = gltf.createMesh().addPrimitive(gltf.createPrimitive().setAttribute('POSITION', position));
  place(gltf, (name) => gltf.createNode(name).setMesh(mesh));
  return readGltf(await new NodeIO().writeBinary(gltf), 'quay.glb', memorySource('quay', {}));
}

const shown = ({ nodes }: { nodes: { name: string; visible: boolean }[] }) =>
  nodes.filter(({ visible }) => visible).map(({ name }) => name);

describe('nodes of glTF', () => {
  it('are shown where the scene that the file opens with holds them, and hidden where another does, or none', async () => {
    const document = await readPlates((gltf, plate) => {
      gltf.createScene('yard').addChild(plate('shed'));
      plate('spare').addChild(plate('bolt'));
      gltf
        .getRoot()
        .setDefaultScene(gltf.createScene('quay').addChild(plate('deck').addChild(plate('rail'))));
    });
    expect(document.nodes.map(({ name }) => name).sort()).toEqual(['bolt', 'deck', 'rail', 'shed', 'spare']);
    // What hangs on a hidden node is not shown either.
    expect(shown(document).sort()).toEqual(['bolt', 'deck', 'rail']);
    expect(document.nodes[document.nodes.findIndex(({ name }) => name === 'bolt')].parent).toBe(
      document.nodes.findIndex(({ name }) => name === 'spare'),
    );
    expect(document.remarks).toMatchObject([{ subject: 'further scenes', severity: 'note', count: 2 }]);
    expect(document.remarks[0].message).toMatch(/shed/);
    expect(document.remarks[0].message).toMatch(/spare/);
  });

  it('are of the first scene where the file names none, and bones need none', async () => {
    const document = await readPlates((gltf, plate) => {
      const bone = gltf.createNode('bone');
      const flag = plate('flag').setSkin(gltf.createSkin().addJoint(bone));
      gltf.createScene('first').addChild(flag);
      gltf.createScene('second').addChild(plate('pole'));
    });
    expect(shown(document).sort()).toEqual(['bone', 'flag']);
  });

  it('that an extension hides are hidden, and are written so', async () => {
    const document = await readPlates((gltf, plate) =>
      gltf.createScene().addChild(plate('deck')).addChild(plate('mark')),
    );
    document.nodes[1].visible = false;
    const gltf = new Document();
    addGeometry(
      gltf,
      document,
      () => null,
      (name) => name,
    );
    const bytes = await (await gltfIo()).writeBinary(gltf);
    const { json } = await new NodeIO().binaryToJSON(bytes);
    expect(json.extensionsUsed).toEqual(['KHR_node_visibility']);
    expect(json.extensionsRequired).toBeUndefined();
    expect(json.nodes?.map(({ extensions }) => extensions ?? null)).toEqual([
      null,
      { KHR_node_visibility: { visible: false } },
    ]);
    const back = await readGltf(bytes, 'quay.glb', memorySource('quay', {}));
    expect(shown(back)).toEqual(['deck']);
    expect(back.remarks).toEqual([]);
  });
});
