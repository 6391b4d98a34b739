import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { compareGeometry } from './compareGeometry.ts';
import { worldParts } from './worldParts.ts';

const compareShown = (a: SceneDocument, b: SceneDocument) => compareGeometry(worldParts(a), worldParts(b));

/** A crane with its hook, and a buoy; `hidden` are not shown by the file. */
function crane(...hidden: string[]): SceneDocument {
  const document = createDocument('usd', 'made');
  const face = {
    points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
    faceCounts: Uint32Array.of(3),
    faceCorners: Uint32Array.of(0, 1, 2),
  };
  document.meshes.push(createMesh('plate', face));
  document.nodes.push(
    createNode('Crane', 'group', -1, {}),
    createNode('Hook', 'mesh', 0, { mesh: 0 }),
    createNode('Buoy', 'mesh', -1, { mesh: 0 }),
  );
  document.nodes[2].transform.translation = [3, 0, 0];
  for (const node of document.nodes) node.visible = !hidden.includes(node.name);
  return document;
}

describe('what files show', () => {
  it('is the same where the same parts are hidden, however', () => {
    expect(compareShown(crane(), crane())).toEqual([]);
    // By what it hangs on, and by itself.
    expect(compareShown(crane('Crane'), crane('Hook'))).toEqual([]);
  });

  it('lacks a part that is there and hidden, and has one too many that was', () => {
    expect(compareShown(crane(), crane('Crane'))).toMatchObject([
      { code: 'part.missing', part: 'Hook', measured: 'hidden', allowed: 'shown' },
    ]);
    expect(compareShown(crane('Buoy'), crane())).toMatchObject([
      { code: 'part.added', part: 'Buoy', measured: 'shown', allowed: 'hidden' },
    ]);
  });

  it('is a side or both, and faces or what is made of them, where the format says it of parts', () => {
    const changed = (change: (document: SceneDocument) => void, format: SceneDocument['format'] = 'usd') => {
      const document = crane();
      document.materials.push({ ...createMaterial('Paint', 'metalRough'), doubleSided: true });
      for (const node of document.nodes) node.materials = [0];
      change(document);
      document.format = format;
      return document;
    };
    const oneSided = ({ nodes }: SceneDocument) => Object.assign(nodes[2], { oneSided: true });
    const both = changed(() => {});
    expect(compareShown(both, changed(oneSided))).toMatchObject([
      { code: 'sides', part: 'Buoy', message: 'Buoy shows one side, not both sides' },
    ]);
    expect(compareShown(changed(oneSided), both)).toMatchObject([{ code: 'sides', allowed: 'one side' }]);
    // A material that shows one side leaves nothing to say of the part; what it says itself is told of it.
    const plain = changed(({ materials }) => Object.assign(materials[0], { doubleSided: false }));
    for (const pair of [
      [plain, changed(oneSided)],
      [changed(oneSided), plain],
      [plain, both],
    ])
      expect(compareShown(pair[0], pair[1])).toEqual([]);
    const cage = ({ meshes, nodes }: SceneDocument) => {
      meshes.push({ ...meshes[0], subdivision: 'loop' });
      nodes[1].mesh = 1;
    };
    expect(compareShown(both, changed(cage))).toMatchObject([
      { code: 'shape.faces', part: 'Hook', measured: 'loop', allowed: 'none' },
    ]);
    for (const change of [oneSided, cage]) expect(compareShown(both, changed(change, 'gltf'))).toEqual([]);
  });

  it('goes by the place of a part that has another name', () => {
    const other = crane('Buoy');
    other.nodes[2].name = 'Marker';
    expect(compareShown(crane(), other)).toMatchObject([{ code: 'part.missing', part: 'Buoy' }]);
  });
});
