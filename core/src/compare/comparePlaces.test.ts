import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { comparePlaces } from './comparePlaces.ts';

/** A crane with a hook to hang things on, in centimetres; the jib under it shows something. */
function crane(change: (document: SceneDocument) => void = () => {}): SceneDocument {
  const document = createDocument('fbx', 'binary');
  document.metresPerUnit = 0.01;
  document.meshes.push(
    createMesh('plate', {
      points: new Float64Array(9),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  document.nodes.push(
    createNode('Crane', 'group', -1),
    createNode('Jib', 'mesh', 0, { mesh: 0 }),
    createNode('Hook', 'group', 0),
    createNode('Bone', 'bone', 0),
  );
  document.nodes[2].transform.translation = [100, 200, 0];
  document.skins.push({ name: 'jib', joints: [3], inverseBind: new Float64Array(16) });
  change(document);
  return document;
}
const against = (change: (document: SceneDocument) => void) => comparePlaces(crane(), crane(change), 2);
const move = (index: number, by: number) => (document: SceneDocument) => {
  document.nodes[index].transform.translation[1] += by;
};

describe('places to hang something on', () => {
  it('are the same within a hundred thousandth of the whole, in any unit', () => {
    expect(comparePlaces(crane(), crane(), 2)).toEqual([]);
    expect(against(move(2, 0.001))).toEqual([]);
    const metres = crane((document) => {
      document.metresPerUnit = 1;
      document.nodes[2].transform.translation = [1, 2, 0];
    });
    expect(comparePlaces(crane(), metres, 2)).toEqual([]);
  });

  it('are told where they stand elsewhere, by themselves or by what they hang on', () => {
    const [moved] = against(move(2, 30));
    expect(moved).toMatchObject({ code: 'part.moved', part: 'Hook' });
    expect(moved.measured).toBeCloseTo(0.3, 9);
    expect(against(move(0, 30)).map(({ part }) => part)).toEqual(['Hook']);
  });

  it('are neither joints nor what holds something to be seen, nor of names that stand for several', () => {
    expect(against(move(3, 30))).toEqual([]);
    expect(against(move(1, 30))).toEqual([]);
    const under = (by: number) => (document: SceneDocument) => {
      document.nodes.push(createNode('Rig', 'group', -1), createNode('Tip', 'bone', 4));
      document.skins[0].joints.push(5);
      move(4, by)(document);
    };
    expect(comparePlaces(crane(under(0)), crane(under(30)), 2)).toEqual([]);
    const twice = crane(({ nodes }) => nodes.push(createNode('Hook', 'group', -1)));
    expect(comparePlaces(twice, crane(move(2, 30)), 2)).toEqual([]);
    expect(comparePlaces(crane(), { ...crane(move(2, 30)), format: 'obj' }, 2)).toEqual([]);
  });
});
