import { describe, expect, it } from 'vitest';
import { nodeKeys } from '../asset/asset.ts';
import { changeParts } from './changeParts.ts';
import {
  type Clip,
  createDocument,
  createNode,
  type SceneDocument,
  type Track,
  type Vec3,
} from './document.ts';
import { transformPoint, worldMatrices } from './matrix.ts';
import type { PartChange } from './partChange.ts';
import { placementMatrix } from './placeParts.ts';
import { movedTransform } from './rebase.ts';
import { evaluateTrack } from './tracks.ts';

const PLACEMENT = { about: [1, 0, 0] as Vec3, move: [0, 2, 0] as Vec3, turn: [0, 35, 0] as Vec3, scale: 0.5 };

/** A boom that turns about a place of its own, angles in another order, a crate on it, and two groups. */
function quay(tracks: Track[] = []): SceneDocument {
  const document = createDocument('fbx', 'made');
  document.metresPerUnit = 1;
  const boom = createNode('Boom', 'mesh', -1);
  Object.assign(boom.transform, {
    translation: [4, 1, 0],
    rotation: [20, 30, 40],
    rotationOrder: 'ZYX',
    rotationPivot: [1, 0, 2],
    rotationOffset: [0, 0.5, 0],
    scalingPivot: [0, 3, 0],
    scale: [1, 2, 1],
  });
  const shed = createNode('Shed', 'group', -1);
  shed.transform.translation = [7, 0, -2];
  const table = createNode('Table', 'group', -1);
  Object.assign(table.transform, { translation: [1, 2, 3], rotation: [0, 50, 0] });
  const crate = createNode('Crate', 'mesh', 0);
  Object.assign(crate.transform, { translation: [0, 1, 0], rotation: [0, 0, 90], rotationPivot: [2, 0, 0] });
  document.nodes.push(boom, shed, table, crate);
  document.clips = tracks.length > 0 ? [{ name: 'Swing', tracks } as Clip] : [];
  return document;
}

function changed(document: SceneDocument, change: PartChange): SceneDocument {
  return changeParts(document, nodeKeys(document.nodes), [change], () => null).document;
}

const numberOf = ({ nodes }: SceneDocument, name: string) => nodes.findIndex((node) => node.name === name);

/** Where points of a part stand at a moment of its clip. */
function pointsAt(document: SceneDocument, name: string, time: number): number[] {
  const index = numberOf(document, name);
  const nodes = document.nodes.map((node, i) => ({
    ...node,
    transform: document.clips
      .flatMap(({ tracks }) => tracks.filter((track) => track.node === i))
      .reduce(
        (transform, track) => movedTransform(transform, track.path, evaluateTrack(track, time)),
        node.transform,
      ),
  }));
  const world = worldMatrices(nodes)[index];
  const points: Vec3[] = [
    [0, 0, 0],
    [1, 2, 3],
    [-2, 0, 5],
  ];
  return points.flatMap((point) => transformPoint(world, ...point));
}

/** The place that rotation leaves where it is: translation, offset and pivot, in the space above. */
function turnsAbout(document: SceneDocument, name: string): Vec3 {
  const { parent, transform } = document.nodes[numberOf(document, name)];
  const place = [0, 1, 2].map(
    (k) => transform.translation[k] + transform.rotationOffset[k] + transform.rotationPivot[k],
  ) as Vec3;
  return parent < 0 ? place : transformPoint(worldMatrices(document.nodes)[parent], ...place);
}

const close = (found: readonly number[], expected: readonly number[]) =>
  found.forEach((value, i) => expect(value, `${found} for ${expected}`).toBeCloseTo(expected[i], 6));

const swing = (): Track => ({
  node: 0,
  path: 'rotation',
  times: Float64Array.of(0, 1),
  values: Float64Array.of(20, 30, 40, 20, 80, 40),
  interpolation: 'linear',
});

describe('a part in another space', () => {
  it.each([
    ['below a group that stands elsewhere', { do: 'move', parts: ['Boom'], under: 'Shed' }],
    ['below a group that is turned', { do: 'move', parts: ['Boom'], under: 'Table' }],
    ['in a group of its own', { do: 'group', parts: ['Boom'], name: 'Set' }],
  ] as [string, PartChange][])('stands and turns about what it did, also while it moves: %s', (_, change) => {
    for (const tracks of [[], [swing()]]) {
      const before = quay(tracks);
      const after = changed(before, change);
      for (const time of [0, 0.4, 1])
        for (const name of ['Boom', 'Crate'])
          close(pointsAt(after, name, time), pointsAt(before, name, time));
      if (tracks.length === 0) close(turnsAbout(after, 'Boom'), [5, 1.5, 2]);
      close(turnsAbout(after, 'Crate'), turnsAbout(before, 'Crate'));
    }
  });

  it.each([
    ['the crate', { do: 'move', parts: ['Crate'], under: 'Shed' }],
    ['the crate', { do: 'group', parts: ['Shed', 'Crate'], name: 'Set' }],
    [null, { do: 'move', parts: ['Boom', 'Shed'], under: 'Table' }],
    [null, { do: 'group', parts: ['Crate'], name: 'Set' }],
  ] as [string | null, PartChange][])('tells of what follows a motion no more: %s', (left, change) => {
    const document = quay([swing()]);
    const { losses } = changeParts(document, nodeKeys(document.nodes), [change], () => null);
    const told = { code: 'part.leftMotion', part: 'Crate', detail: 'Boom' };
    expect(losses.filter(({ code }) => code === 'part.leftMotion')).toEqual(left ? [told] : []);
    const still = quay();
    expect(changeParts(still, nodeKeys(still.nodes), [change], () => null).losses).toEqual([]);
  });

  it('hangs on a part whose placement went into its points as before', () => {
    const before = quay();
    const after = changed(before, { do: 'apply', parts: ['Boom'] });
    close(pointsAt(after, 'Crate', 0), pointsAt(before, 'Crate', 0));
    close(turnsAbout(after, 'Crate'), turnsAbout(before, 'Crate'));
    close(turnsAbout(after, 'Boom'), [0, 0, 0]);
  });

  it('stands where it did, flattened as it is', () => {
    const before = quay();
    before.nodes[0].transform.scale = [1, 0, 1];
    const after = changed(before, { do: 'move', parts: ['Boom'], under: 'Table' });
    close(pointsAt(after, 'Boom', 0), pointsAt(before, 'Boom', 0));
  });

  it('is placed with what it turns about, and with its motion', () => {
    const placed = placementMatrix(PLACEMENT);
    const moved = (points: number[]) =>
      [0, 3, 6].flatMap((i) => transformPoint(placed, points[i], points[i + 1], points[i + 2]));
    for (const tracks of [[], [swing()]]) {
      const before = quay(tracks);
      const after = changed(before, { do: 'place', parts: ['Boom'], ...PLACEMENT });
      for (const time of [0, 0.4, 1])
        for (const name of ['Boom', 'Crate'])
          close(pointsAt(after, name, time), moved(pointsAt(before, name, time)));
    }
    const after = changed(quay(), { do: 'place', parts: ['Boom'], ...PLACEMENT });
    close(turnsAbout(after, 'Boom'), transformPoint(placed, 5, 1.5, 2));
  });
});
