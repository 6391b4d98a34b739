import { describe, expect, it } from 'vitest';
import { createDocument, createNode, type SceneDocument, type Vec3 } from '../scene/document.ts';
import { identity, rotation, scaling, translation } from '../scene/matrix.ts';
import type { PartChange } from '../scene/partChange.ts';
import { BOX_QUADS, boxPoints, meshOf } from '../test/boxes.ts';
import { nodeKeys } from './asset.ts';
import { describeSource } from './describeSource.ts';
import { appliedTo, moved, type PartPlace, pivotedAt, resetTo } from './partPlaces.ts';
import { type Part, partsOf } from './parts.ts';

const PLANK = { min: [0, 0, 0] as Vec3, max: [2, 1, 1] as Vec3 };
/** A plank in its own space, which is turned a quarter about Z: it reaches to the left. */
const TURNED: PartPlace = {
  frame: rotation([0, 0, 90]),
  box: PLANK,
  bounds: { min: [-1, 0, 0], max: [0, 2, 1] },
  pivot: [0, 0, 0],
};

const close = (found: readonly number[] | undefined, expected: readonly number[]) =>
  expected.forEach((value, k) => expect(found?.[k]).toBeCloseTo(value, 9));

describe('where a part stands', () => {
  it('is known when its transform went into its points, and it is moved then', () => {
    const { bounds, frame } = moved(appliedTo(TURNED, identity()), translation([5, 0, 0]));
    close(bounds?.min, [4, 0, 0]);
    close(bounds?.max, [5, 2, 1]);
    close([...frame], [...translation([5, 0, 0])]);
  });

  it('is known when it turns about another place, and is turned then', () => {
    const plank: PartPlace = { frame: identity(), box: PLANK, bounds: PLANK, pivot: [0, 0, 0] };
    const { bounds, pivot } = moved(pivotedAt(plank, [2, 0, 0]), rotation([0, 0, 90]));
    close(bounds?.min, [-1, 0, 0]);
    close(bounds?.max, [0, 2, 1]);
    close(pivot ?? [], [0, 2, 0]);
  });

  it('has its thickness again where its transform flattened it', () => {
    const flat: PartPlace = {
      frame: scaling([3, 0, 1]),
      box: PLANK,
      bounds: { min: [0, 0, 0], max: [6, 0, 1] },
      pivot: [0, 0, 0],
    };
    const { bounds } = resetTo(flat, translation([0, 5, 0])).place;
    close(bounds?.min, [0, 5, 0]);
    close(bounds?.max, [2, 6, 1]);
  });
});

/** A hull that mirrors, a plank on it turned an eighth, and a net that follows joints. */
function boat(): SceneDocument {
  const document = createDocument('gltf', 'made');
  document.metresPerUnit = 1;
  document.meshes.push(meshOf(boxPoints(0, 1), BOX_QUADS));
  const hull = createNode('Hull', 'mesh', -1, { mesh: 0 });
  hull.transform.scale = [-1, 1, 1];
  const plank = createNode('Plank', 'mesh', 0, { mesh: 0 });
  Object.assign(plank.transform, { translation: [3, 0, 0], rotation: [0, 0, 45], scale: [2, 1, 1] });
  const net = createNode('Net', 'mesh', -1, { mesh: 0, skin: 0 });
  document.skins.push({ joints: [], inverseBinds: [] } as unknown as SceneDocument['skins'][number]);
  document.nodes.push(hull, plank, net);
  return document;
}

function partsAfter(...changes: PartChange[]): Record<string, Part> {
  const document = boat();
  const source = describeSource(document, 'boat.glb', []);
  expect(nodeKeys(source.nodes)).toEqual(['Hull', 'Plank', 'Net']);
  return Object.fromEntries(partsOf(source, { parts: changes }).map((part) => [part.key, part]));
}

describe('parts of a mirrored boat', () => {
  const renamed: PartChange = { do: 'rename', names: [{ part: 'Net', name: 'Seine' }] };

  it('flip where their own transform does, and stand mirrored with what they hang on', () => {
    for (const parts of [partsAfter(), partsAfter(renamed)])
      expect(['Hull', 'Plank', 'Net'].map((key) => [parts[key].flips, parts[key].mirrored])).toEqual([
        [true, true],
        [false, true],
        [false, false],
      ]);
    const apart = partsAfter({ do: 'move', parts: ['Plank'], under: null });
    expect([apart.Plank.flips, apart.Plank.mirrored]).toEqual([true, true]);
  });

  it('reach as far as their mesh without their transform, and have no form that is known', () => {
    const before = partsAfter();
    const after = partsAfter({ do: 'reset', parts: ['Plank'] });
    close(after.Plank.bounds?.min, [-1, 0, 0]);
    close(after.Plank.bounds?.max, [0, 1, 1]);
    close(after.Plank.pivot ?? [], [0, 0, 0]);
    expect([before.Plank.form === null, after.Plank.form]).toEqual([false, null]);
    expect(after.Hull.form).not.toBeNull();
  });

  it('stay where their joints are', () => {
    const placement = { about: [0, 0, 0], move: [4, 0, 0], turn: [0, 0, 0], scale: 1 } as const;
    const place = (parts: string[]) => ({ do: 'place', parts, ...placement }) as unknown as PartChange;
    const { Net, Hull } = partsAfter(place(['Net', 'Hull']));
    close(Net.bounds?.min, [0, 0, 0]);
    close(Hull.bounds?.min, [3, 0, 0]);
  });
});
