import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument, Z_UP } from '../scene/document.ts';
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
const compared = (a: SceneDocument, b: SceneDocument, names = true) =>
  comparePlaces(a, b, { size: 2, names });
const against = (change: (document: SceneDocument) => void) => compared(crane(), crane(change));
const move = (index: number, by: number) => (document: SceneDocument) => {
  document.nodes[index].transform.translation[1] += by;
};

describe('places to hang something on', () => {
  it('are the same within a hundred thousandth of the whole, in any unit', () => {
    expect(compared(crane(), crane())).toEqual([]);
    expect(against(move(2, 0.001))).toEqual([]);
    const metres = crane((document) => {
      document.metresPerUnit = 1;
      document.nodes[2].transform.translation = [1, 2, 0];
    });
    expect(compared(crane(), metres)).toEqual([]);
  });

  it('are told where they stand elsewhere, by themselves or by what they hang on', () => {
    const [moved] = against(move(2, 30));
    expect(moved).toMatchObject({ code: 'part.moved', part: 'Hook' });
    expect(moved.measured).toBeCloseTo(0.3, 9);
    expect(against(move(0, 30)).map(({ part }) => part)).toEqual(['Hook']);
  });

  it('are told where they are turned, and by how much', () => {
    const turn = (degrees: number) => (document: SceneDocument) => {
      document.nodes[2].transform.rotation = [0, 0, degrees];
    };
    expect(against(turn(0.02))).toEqual([]);
    const [turned] = against(turn(30));
    expect(turned).toMatchObject({ code: 'part.moved', message: 'Hook is turned by 30.0 degrees' });
    // What has other axes has nodes that are turned by quarters, and by nothing between.
    const up = (degrees: number) =>
      crane((document) => {
        turn(degrees)(document);
        document.axes = Z_UP;
        document.nodes[2].transform.translation = [100, 0, 200];
      });
    expect(compared(crane(), up(0)).map(({ code }) => code)).toEqual([]);
    expect(compared(crane(), up(90))).toEqual([]);
    expect(compared(crane(), up(30))).toMatchObject([{ code: 'part.moved', part: 'Hook' }]);
    // Flat ones are turned nowhere.
    const flat = crane(({ nodes }) => Object.assign(nodes[2].transform, { scale: [1, 0, 1] }));
    expect(compared(flat, crane(turn(30)))).toEqual([]);
  });

  it('are missing where names count and the other has none of the name, numbered or not', () => {
    const renamed = crane(({ nodes }) => Object.assign(nodes[2], { name: 'Eye' }));
    expect(compared(crane(), renamed)).toMatchObject([{ code: 'part.missing', part: 'Hook' }]);
    expect(compared(crane(), renamed, false)).toEqual([]);
    const numbered = (by: number) =>
      crane((document) => {
        document.nodes[2].name = 'Hook_2';
        move(2, by)(document);
      });
    expect(compared(crane(), numbered(0))).toEqual([]);
    expect(compared(crane(), numbered(30))).toMatchObject([{ code: 'part.moved', part: 'Hook' }]);
  });

  it('are neither joints nor what holds something to be seen, nor of names that stand for several', () => {
    expect(against(move(3, 30))).toEqual([]);
    expect(against(move(1, 30))).toEqual([]);
    const under = (by: number) => (document: SceneDocument) => {
      document.nodes.push(createNode('Rig', 'group', -1), createNode('Tip', 'bone', 4));
      document.skins[0].joints.push(5);
      move(4, by)(document);
    };
    expect(compared(crane(under(0)), crane(under(30)))).toEqual([]);
    const twice = crane(({ nodes }) => nodes.push(createNode('Hook', 'group', -1)));
    expect(compared(twice, crane(move(2, 30)))).toEqual([]);
    expect(compared(crane(), { ...crane(move(2, 30)), format: 'obj' })).toEqual([]);
  });
});
