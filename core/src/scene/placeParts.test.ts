import { describe, expect, it } from 'vitest';
import { nodeKeys } from '../asset/asset.ts';
import { describeSource } from '../asset/describeSource.ts';
import { partsOf } from '../asset/parts.ts';
import { riggedCrane } from '../test/rigged.ts';
import { changeParts } from './changeParts.ts';
import { createDocument, createMesh, createNode, type SceneDocument, type Vec3, Z_UP } from './document.ts';
import { transformPoint, worldMatrices } from './matrix.ts';
import type { PartChange, Placement } from './partChange.ts';

const STILL: Placement = { about: [0, 0, 0], move: [0, 0, 0], turn: [0, 0, 0], scale: 1 };

/** A post in centimetres with a lamp on it, turned a quarter about Z; a crate beside. */
function pier(): SceneDocument {
  const document = createDocument('fbx', 'made');
  Object.assign(document, { axes: Z_UP, metresPerUnit: 0.01, unitStated: true });
  document.meshes.push(
    createMesh('plate', {
      points: Float64Array.of(0, 0, 0, 100, 0, 0, 0, 100, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  const post = createNode('Post', 'mesh', -1, { mesh: 0, materials: [] });
  Object.assign(post.transform, {
    translation: [200, 0, 0],
    rotation: [0, 0, 90],
    rotationPivot: [10, 0, 0],
  });
  const lamp = createNode('Lamp', 'mesh', 0, { mesh: 0, materials: [] });
  lamp.transform.translation = [0, 0, 300];
  document.nodes.push(post, lamp, createNode('Crate', 'mesh', -1, { mesh: 0, materials: [] }));
  return document;
}

function placed(parts: string[], placement: Partial<Placement>, document = pier()) {
  const change: PartChange = { do: 'place', parts, ...STILL, ...placement };
  return { change, ...changeParts(document, nodeKeys(document.nodes), [change], () => null) };
}

/** Where a point of each part's own space stands, in metres. */
function standing({ nodes, metresPerUnit }: SceneDocument, point: Vec3 = [0, 0, 0]): number[][] {
  return worldMatrices(nodes).map((world) =>
    transformPoint(world, ...point).map((value) => Math.round(value * metresPerUnit * 1e6) / 1e6 + 0),
  );
}

describe('a part that is placed', () => {
  it('is moved by metres along the axes of the model, with what hangs on it, and keeps its pivots', () => {
    const { document } = placed(['Post'], { move: [1, 0, 0.5] });
    const before = standing(pier());
    expect(standing(document)).toEqual([
      [before[0][0] + 1, before[0][1], 0.5],
      [before[1][0] + 1, before[1][1], 3.5],
      [0, 0, 0],
    ]);
    expect(document.nodes[0].transform).toMatchObject({ rotation: [0, 0, 90], rotationPivot: [10, 0, 0] });
    // Of a part in a turned space, along the same axes.
    expect(standing(placed(['Lamp'], { move: [1, 0, 0] }).document)[1]).toEqual([
      before[1][0] + 1,
      before[1][1],
      3,
    ]);
  });

  it('is turned and sized about the place that is named', () => {
    // By hand: a half turn about Z around (1, 0, 0) takes (0, 0, 0) to (2, 0, 0); twice the size from there.
    const { document } = placed(['Crate'], { about: [1, 0, 0], turn: [0, 0, 180], scale: 2 });
    expect(standing(document)[2]).toEqual([3, 0, 0]);
    expect(standing(document, [100, 0, 0])[2]).toEqual([1, 0, 0]);
    // A quarter about X first, then about Z: Y goes up and stays there; X goes to Y.
    const turned = placed(['Crate'], { turn: [90, 0, 90] }).document;
    expect(standing(turned, [0, 100, 0])[2]).toEqual([0, 0, 1]);
    expect(standing(turned, [100, 0, 0])[2]).toEqual([0, 1, 0]);
  });

  it('is placed once where it hangs on another that is placed', () => {
    const both = placed(['Post', 'Lamp'], { move: [0, 2, 0] }).document;
    expect(standing(both)).toEqual(standing(placed(['Post'], { move: [0, 2, 0] }).document));
  });

  it('is where the list of parts has it', () => {
    const source = describeSource(pier(), 'pier.fbx', []);
    const { change, document } = placed(['Post'], {
      about: [2, 0, 0],
      move: [0, 0, 1],
      turn: [0, 0, 90],
      scale: 3,
    });
    const after = describeSource(document, 'pier.fbx', []);
    const [told, measured] = [partsOf(source, { parts: [change] }), partsOf(after, {})];
    const rounded = (values: readonly number[] | undefined) =>
      values?.map((value) => Math.round(value * 1e6) / 1e6 + 0);
    told.forEach((part, i) => {
      expect(rounded(part.bounds?.min)).toEqual(rounded(measured[i].bounds?.min));
      expect(rounded(part.bounds?.max)).toEqual(rounded(measured[i].bounds?.max));
      expect(rounded(part.pivot ?? undefined)).toEqual(rounded(measured[i].pivot ?? undefined));
      expect(part.form?.area).toBeCloseTo(measured[i].form?.area as number, 9);
    });
  });

  it('falls apart into solids that stand where it does', () => {
    const document = pier();
    document.nodes.length = 1;
    const two = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [(i & 1) + (i > 3 ? 50 : 0), (i >> 1) & 1, 0]);
    document.meshes[0] = createMesh('plates', {
      points: Float64Array.from(two),
      faceCounts: Uint32Array.of(4, 4),
      faceCorners: Uint32Array.of(0, 1, 3, 2, 4, 5, 7, 6),
    });
    const cut: PartChange = { do: 'cut', parts: ['Post'], by: 'solids' };
    const place: PartChange = {
      do: 'place',
      parts: ['Post'],
      ...STILL,
      move: [0, 1, 0],
      turn: [0, 0, 90],
      scale: 3,
    };
    const boxes = (changes: PartChange[], by: SceneDocument) =>
      partsOf(describeSource(by, 'pier.fbx', []), { parts: changes })
        .filter(({ polygons }) => polygons > 0)
        .map(({ bounds, form }) => [
          [...(bounds?.min ?? []), ...(bounds?.max ?? [])].map((value) => Math.round(value * 1e6) / 1e6 + 0),
          form?.area.toFixed(6),
        ]);
    const after = changeParts(document, ['Post'], [place, cut], () => null).document;
    expect(boxes([place, cut], document)).toEqual(boxes([], after));
    expect(boxes([place, cut], document)).toHaveLength(2);
  });

  it('takes its motion along; what is skinned stays with its joints', () => {
    const crane = riggedCrane();
    const hook = crane.nodes.findIndex(({ name }) => name === 'Hook');
    const moved = placed(['Hook'], { turn: [0, 90, 0], move: [1, 2, 3] }, crane);
    const keysOf = ({ clips }: SceneDocument) =>
      clips.flatMap(({ tracks }) => tracks.filter(({ node }) => node === hook).map(({ path }) => path));
    expect(new Set(keysOf(moved.document))).toEqual(new Set(['translation', 'quaternion', 'scale']));
    expect(moved.losses).toEqual([]);
    const skinned = placed(['Jib'], { move: [1, 0, 0] }, crane);
    expect(skinned.losses).toEqual([{ code: 'part.skinnedPlace', part: 'Jib' }]);
    expect(skinned.document.nodes).toEqual(crane.nodes);
  });
});
