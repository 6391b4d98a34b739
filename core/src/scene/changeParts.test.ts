import { describe, expect, it } from 'vitest';
import { measureShape } from '../shape/shapeFacts.ts';
import { BOX_QUADS } from '../test/boxes.ts';
import { riggedCrane } from '../test/rigged.ts';
import { facesToTurn } from './agreeFaces.ts';
import { changeParts } from './changeParts.ts';
import {
  createDocument,
  createMesh,
  createNode,
  type PolygonMesh,
  type SceneDocument,
  type SceneNode,
  type Vec3,
  Y_UP,
} from './document.ts';
import { geometricMatrix, multiply, transformPoint, worldMatrices } from './matrix.ts';
import type { PartChange } from './partChange.ts';
import { turnFaces } from './reorient.ts';

/** A box of one unit whose lowest corner lies at a place. */
function box(name: string, [x, y, z]: Vec3): PolygonMesh {
  return createMesh(name, {
    points: Float64Array.from(
      Array.from({ length: 8 }, (_, i) => [(i & 1) + x, ((i >> 1) & 1) + y, ((i >> 2) & 1) + z]).flat(),
    ),
    faceCounts: new Uint32Array(6).fill(4),
    faceCorners: Uint32Array.from(BOX_QUADS.flat()),
  });
}

/** A pier turned and moved, with a post, two lamps of one mesh on it, and a sign beside it. */
function pier(): SceneDocument {
  const document = createDocument('fbx', 'text');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1 });
  document.meshes.push(box('post', [0, 0, 0]), box('lamp', [3, 0, 0]), box('sign', [0, 0, 5]));
  const group = createNode('Pier', 'group', -1);
  Object.assign(group.transform, { translation: [10, 0, 0], rotation: [0, 90, 0] });
  const post = createNode('Post', 'mesh', 0, { mesh: 0, materials: [0] });
  Object.assign(post.transform, { translation: [0, 1, 0], scale: [2, 2, 2], rotationPivot: [0.5, 0.5, 0.5] });
  const lamp = createNode('Lamp', 'mesh', 1, { mesh: 1, materials: [1] });
  lamp.transform.rotation = [0, 0, 30];
  const second = createNode('Lamp', 'mesh', 1, { mesh: 1, materials: [1] });
  second.transform.translation = [0, 4, 0];
  document.nodes.push(group, post, lamp, second, createNode('Sign', 'mesh', -1, { mesh: 2, materials: [0] }));
  return document;
}

const KEYS = ['Pier', 'Post', 'Lamp', 'Lamp (2)', 'Sign'];
const balance = (mesh: PolygonMesh) => measureShape(mesh).balance;
const changed = (changes: PartChange[], document = pier(), keys = KEYS) =>
  changeParts(document, keys, changes, balance);

/** Where every corner of every part stands, by the part's name; in the order of nodes. */
function standing({ nodes, meshes }: SceneDocument): [string, number[][]][] {
  const worlds = worldMatrices(nodes);
  return nodes.flatMap((node, i): [string, number[][]][] => {
    if (node.mesh < 0) return [];
    const { points } = meshes[node.mesh];
    const world = multiply(worlds[i], geometricMatrix(node.transform));
    return [
      [
        node.name,
        Array.from({ length: points.length / 3 }, (_, p) =>
          transformPoint(world, points[p * 3], points[p * 3 + 1], points[p * 3 + 2]),
        ),
      ],
    ];
  });
}

function expectSame(found: [string, number[][]][], expected: [string, number[][]][]): void {
  expect(found.map(([name]) => name)).toEqual(expected.map(([name]) => name));
  found.forEach(([, corners], i) =>
    corners.forEach((corner, p) =>
      corner.forEach((value, k) => expect(value).toBeCloseTo(expected[i][1][p][k], 9)),
    ),
  );
}

const pivotOf = ({ nodes }: SceneDocument, name: string): Vec3 => {
  const index = nodes.findIndex((node) => node.name === name);
  const { parent, transform } = nodes[index];
  const { translation, rotationOffset, rotationPivot } = transform;
  const own = [0, 1, 2].map((k) => translation[k] + rotationOffset[k] + rotationPivot[k]) as Vec3;
  return parent < 0 ? own : transformPoint(worldMatrices(nodes)[parent], ...own);
};

describe('a part', () => {
  it('that is dropped goes with all that hangs on it, and with meshes that nothing else shows', () => {
    const { document, losses } = changed([{ do: 'drop', parts: ['Post'] }]);
    expect([document.nodes.map(({ name }) => name), document.meshes.map(({ name }) => name), losses]).toEqual(
      [['Pier', 'Sign'], ['sign'], []],
    );
    const one = changed([{ do: 'drop', parts: ['Lamp (2)'] }]).document;
    expect(one.nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['Pier', -1],
      ['Post', 0],
      ['Lamp', 1],
      ['Sign', -1],
    ]);
  });

  it('that is brought back is there with what it hangs on and what hangs on it, and nothing else', () => {
    const back = (part: string) =>
      changed([
        { do: 'drop', parts: ['Pier', 'Lamp'] },
        { do: 'restore', parts: [part] },
      ]).document;
    expect(back('Lamp').nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['Pier', -1],
      ['Post', 0],
      ['Lamp', 1],
      ['Sign', -1],
    ]);
    expectSame(standing(back('Pier')), standing(pier()));
  });

  it('stays dropped where it is moved to, and goes with what it is moved to', () => {
    const after = (...changes: PartChange[]) => changed(changes).document.nodes.map(({ name }) => name);
    expect(after({ do: 'drop', parts: ['Post'] }, { do: 'move', parts: ['Lamp'], under: 'Sign' })).toEqual([
      'Pier',
      'Sign',
    ]);
    expect(after({ do: 'drop', parts: ['Post'] }, { do: 'move', parts: ['Sign'], under: 'Lamp' })).toEqual([
      'Pier',
    ]);
    // Another part that gets the key of one that was dropped and let go is not dropped.
    const [group, drop]: PartChange[] = [
      { do: 'group', parts: ['Sign'], name: 'Set' },
      { do: 'drop', parts: ['Set'] },
    ];
    expect(
      after(group, drop, { do: 'ungroup', parts: ['Set'] }, { do: 'group', parts: ['Post'], name: 'Set' }),
    ).toEqual(['Pier', 'Set', 'Post', 'Lamp', 'Lamp']);
  });

  it('keeps the joints of a skin that stays, and loses its clips', () => {
    const crane = riggedCrane();
    const keys = crane.nodes.map(({ name }) => name);
    const skinned = crane.nodes.findIndex(({ skin }) => skin >= 0);
    const [joint] = crane.skins[crane.nodes[skinned].skin].joints;
    const { document } = changed([{ do: 'drop', parts: [keys[joint]] }], crane, keys);
    expect(document.skins[0].joints.map((index) => document.nodes[index].name)).toEqual(
      crane.skins[0].joints.map((index) => crane.nodes[index].name),
    );
    const without = changed([{ do: 'drop', parts: [keys[skinned]] }], crane, keys).document;
    expect([without.skins.length, without.nodes.some(({ skin }) => skin >= 0)]).toEqual([0, false]);
    for (const clip of without.clips)
      for (const track of clip.tracks) expect(without.nodes[track.node]).toBeDefined();
  });

  it('takes another name and hangs elsewhere without moving', () => {
    const { document } = changed([
      { do: 'rename', names: [{ part: 'Lamp (2)', name: 'Lantern' }] },
      { do: 'move', parts: ['Lamp (2)', 'Sign'], under: 'Pier' },
      { do: 'move', parts: ['Lamp'], under: null },
    ]);
    expect(document.nodes.map(({ name, parent }) => [name, document.nodes[parent]?.name ?? null])).toEqual([
      ['Pier', null],
      ['Post', 'Pier'],
      ['Lamp', null],
      ['Lantern', 'Pier'],
      ['Sign', 'Pier'],
    ]);
    expectSame(
      standing(document),
      standing(pier()).map(([name, corners], i) => [i === 2 ? 'Lantern' : name, corners]),
    );
  });

  it('stays where it is when what it should hang on is not there', () => {
    const { document } = changed([{ do: 'move', parts: ['Lamp'], under: 'Ghost' }]);
    expect(document.nodes.map(({ name, parent }) => [name, parent])).toEqual(
      pier().nodes.map(({ name, parent }) => [name, parent]),
    );
  });

  it('never hangs below itself', () => {
    const { document } = changed([{ do: 'move', parts: ['Pier'], under: 'Lamp' }]);
    expect(document.nodes.map(({ parent }) => parent)).toEqual(pier().nodes.map(({ parent }) => parent));
  });

  it('is grouped and ungrouped, parents before children, everything where it was', () => {
    const { document } = changed([{ do: 'group', parts: ['Post', 'Sign'], name: 'Set' }]);
    expect(document.nodes.map(({ name, parent }) => [name, document.nodes[parent]?.name ?? null])).toEqual([
      ['Pier', null],
      ['Set', 'Pier'],
      ['Post', 'Set'],
      ['Lamp', 'Post'],
      ['Lamp', 'Post'],
      ['Sign', 'Set'],
    ]);
    document.nodes.forEach(({ parent }, i) => expect(parent).toBeLessThan(i));
    expectSame(standing(document), standing(pier()));
    const back = changed([
      { do: 'group', parts: ['Post', 'Sign'], name: 'Set' },
      { do: 'ungroup', parts: ['Set', 'Pier', 'Set'] },
    ]).document;
    expect(back.nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['Post', -1],
      ['Lamp', 0],
      ['Lamp', 0],
      ['Sign', -1],
    ]);
    expectSame(standing(back), standing(pier()));
  });

  it('is merged with others into the first, with their materials, and what hung on them hangs on it', () => {
    const { document, losses } = changed([{ do: 'merge', parts: ['Sign', 'Post'], name: 'Whole' }]);
    expect(losses).toEqual([]);
    expect(document.nodes.map(({ name, parent }) => [name, document.nodes[parent]?.name ?? null])).toEqual([
      ['Pier', null],
      ['Whole', null],
      ['Lamp', 'Whole'],
      ['Lamp', 'Whole'],
    ]);
    const before = new Map(standing(pier()));
    const [whole] = standing(document);
    const expected = [...(before.get('Sign') ?? []), ...(before.get('Post') ?? [])];
    whole[1].forEach((corner, p) =>
      corner.forEach((value, k) => expect(value).toBeCloseTo(expected[p][k], 9)),
    );
    expect(measureShape(document.meshes[document.nodes[1].mesh])).toMatchObject({
      solids: 2,
      closed: 2,
      volume: expect.closeTo(1 + 8, 9),
      inward: { solids: 0 },
    });
    const materials = changed([{ do: 'merge', parts: ['Post', 'Lamp'], name: 'Lit' }]).document;
    const lit = materials.nodes[1];
    expect([lit.materials, [...(materials.meshes[lit.mesh].faceMaterial ?? [])]]).toEqual([
      [0, 1],
      [0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1],
    ]);
  });

  it('is merged with what it hangs on, and stands in its place', () => {
    const { document } = changed([{ do: 'merge', parts: ['Lamp', 'Sign', 'Post'], name: 'Whole' }]);
    expect(document.nodes.map(({ name, parent }) => [name, document.nodes[parent]?.name ?? null])).toEqual([
      ['Pier', null],
      ['Whole', 'Pier'],
      ['Lamp', 'Whole'],
    ]);
    const before = new Map(standing(pier()).reverse());
    const [[, whole], [, left]] = standing(document);
    const all = (corners: number[][]) =>
      corners.map((corner) => corner.map((value) => Math.round(value * 1e6) + 0).join(' ')).sort();
    const post = before.get('Post') ?? [];
    const firstLamp = standing(pier())[1][1];
    expect(all(whole)).toEqual(all([...firstLamp, ...(before.get('Sign') ?? []), ...post]));
    expect(all(left)).toEqual(all(standing(pier())[2][1]));
  });

  it('that carries a joint is ungrouped, and keys stay with their parts', () => {
    const crane = riggedCrane();
    const keys = crane.nodes.map(({ name }) => name);
    const skinned = crane.nodes.find(({ skin }) => skin >= 0) as SceneNode;
    const [joint] = crane.skins[skinned.skin].joints;
    crane.nodes[joint] = { ...crane.nodes[joint], kind: 'group' };
    const { document } = changed(
      [
        { do: 'ungroup', parts: [keys[joint]] },
        { do: 'rename', names: [{ part: keys.at(-1) as string, name: 'Renamed' }] },
      ],
      crane,
      keys,
    );
    expect(document.nodes.filter(({ name }) => name === 'Renamed')).toHaveLength(1);
    expect(document.nodes.map(({ name }) => name).filter((name) => name !== 'Renamed')).toEqual(
      keys.slice(0, -1),
    );
  });

  it('is cut alone, others of the same mesh stay', () => {
    const document = pier();
    document.meshes[1] = { ...box('lamp', [3, 0, 0]), faceMaterial: Int32Array.of(0, 0, 0, 1, 1, 1) };
    document.nodes[2].materials = [0, 1];
    document.nodes[3].materials = [0, 1];
    const cut = changed([{ do: 'cut', parts: ['Lamp'], by: 'materials' }], document).document;
    const cutInTwo = cut.nodes.filter(({ parent }) => parent === 2);
    expect(cutInTwo.map(({ mesh }) => cut.meshes[mesh].faceCounts.length)).toEqual([3, 3]);
    expect(cut.meshes[cut.nodes[3].mesh].faceCounts).toHaveLength(6);
  });
});

describe('a pivot', () => {
  const PLACES: [string, PartChange & { do: 'pivot' }, Vec3][] = [
    ['the middle of what hangs on it', { do: 'pivot', parts: ['Sign'], at: 'centre' }, [0.5, 0.5, 5.5]],
    ['the middle of the bottom', { do: 'pivot', parts: ['Sign'], at: 'bottom' }, [0.5, 0, 5.5]],
    ['the origin', { do: 'pivot', parts: ['Sign'], at: 'origin' }, [0, 0, 0]],
    ['the balance point', { do: 'pivot', parts: ['Sign'], at: 'balance' }, [0.5, 0.5, 5.5]],
    ['a picked point', { do: 'pivot', parts: ['Sign'], at: [1, 2, 3] }, [1, 2, 3]],
  ];

  it.each(PLACES)('goes to %s, and nothing is seen to move', (_, change, place) => {
    const { document } = changed([change]);
    pivotOf(document, 'Sign').forEach((value, k) => expect(value).toBeCloseTo(place[k], 9));
    expectSame(standing(document), standing(pier()));
  });

  it('of a turned, sized part with pivots of its own and children goes there too', () => {
    for (const at of ['centre', 'bottom', 'origin', 'balance', [4, 5, 6]] as const) {
      const { document } = changed([
        { do: 'pivot', parts: ['Post'], at: typeof at === 'string' ? at : [...at] },
      ]);
      expectSame(standing(document), standing(pier()));
      if (at === 'origin') pivotOf(document, 'Post').forEach((value) => expect(value).toBeCloseTo(0, 9));
      // Both lamps still show one mesh.
      expect(document.nodes[2].mesh).toBe(document.nodes[3].mesh);
    }
  });

  it('keeps what moves about where it moves, and tells of turns', () => {
    const document = pier();
    document.clips.push({
      name: 'sway',
      start: 0,
      end: 1,
      tracks: [
        {
          node: 4,
          path: 'translation',
          times: Float64Array.of(0, 1),
          values: Float64Array.of(0, 0, 0, 2, 0, 0),
          interpolation: 'linear',
        },
      ],
    });
    const { document: moved, losses } = changed([{ do: 'pivot', parts: ['Sign'], at: [1, 2, 3] }], document);
    expect([...moved.clips[0].tracks[0].values]).toEqual([1, 2, 3, 3, 2, 3]);
    expect(losses).toEqual([{ code: 'part.pivotMotion', part: 'Sign' }]);
  });
});

describe('a transform', () => {
  it('is applied: the part stands where it stood, its own words say nothing, and its children stay', () => {
    const { document } = changed([{ do: 'apply', parts: ['Post'] }]);
    expect(document.nodes[1].transform).toMatchObject({
      translation: [0, 0, 0],
      scale: [1, 1, 1],
      rotationPivot: [0, 0, 0],
    });
    expectSame(standing(document), standing(pier()));
  });

  it('that mirrors is applied with faces that still look outwards; another part of the mesh stays as it is', () => {
    const document = pier();
    document.nodes[2].transform.scale = [-1, 1, 1];
    const { document: applied } = changed([{ do: 'apply', parts: ['Lamp'] }], document);
    const [own, other] = [applied.nodes[2].mesh, applied.nodes[3].mesh];
    expect(own).not.toBe(other);
    expect([
      measureShape(applied.meshes[own]).inward.solids,
      measureShape(applied.meshes[other]).inward.solids,
    ]).toEqual([0, 0]);
  });

  it('stays where a clip moves the part, and is applied where one only hides it or moves another', () => {
    const after = (node: number, path: 'translation' | 'visible') => {
      const document = pier();
      const [times, interpolation] = [Float64Array.of(0, 1), 'linear' as const];
      const values = path === 'visible' ? Float64Array.of(1, 0) : Float64Array.of(0, 0, 0, 2, 0, 0);
      const still = {
        node: 0,
        path: 'visible' as const,
        times,
        values: Float64Array.of(1, 1),
        interpolation,
      };
      document.clips.push({
        name: 'swing',
        start: 0,
        end: 1,
        tracks: [still, { node, path, times, values, interpolation }],
      });
      const { document: applied, losses } = changed([{ do: 'apply', parts: ['Post'] }], document);
      return [losses, applied.nodes[1].transform.translation.some((component) => component !== 0)];
    };
    expect(pier().nodes[1].transform.translation.some((component) => component !== 0)).toBe(true);
    expect(after(1, 'translation')).toEqual([[{ code: 'part.notApplied', part: 'Post' }], true]);
    expect(after(1, 'visible')).toEqual([[], false]);
    expect(after(2, 'translation')).toEqual([[], false]);
  });

  it('is reset to where the parent stands', () => {
    const { document } = changed([{ do: 'reset', parts: ['Lamp (2)'] }]);
    expect(document.nodes[3].transform.translation).toEqual([0, 0, 0]);
  });
});

describe('faces and normals', () => {
  it('turn round, and normals that agreed go along while others agree now', () => {
    const document = pier();
    const flat = (sign: number) => ({
      name: 'n',
      size: 3 as const,
      domain: 'face' as const,
      values: Float64Array.from([-1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1], (v) => v * sign),
      index: null,
    });
    document.meshes[0].normals = flat(1);
    document.meshes[2].normals = flat(-1);
    const { document: turned } = changed([{ do: 'turnFaces', parts: ['Post', 'Sign'] }], document);
    for (const name of ['Post', 'Sign']) {
      const facts = measureShape(turned.meshes[turned.nodes.find((node) => node.name === name)?.mesh ?? -1]);
      expect([facts.inward.solids, facts.normals.against]).toEqual([1, 0]);
    }
  });

  it('agree with their neighbours: out where a body closes, to the side of most of it where it does not', () => {
    const document = pier();
    const [left, right] = [document.meshes[0], document.meshes[2]];
    const flat = { name: 'n', size: 3 as const, domain: 'face' as const, index: null };
    // A box with two faces turned, whose normals are right, and a box without its lid with four of five
    // turned, whose normals follow.
    const outward = [-1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, -1, 0, 0, 1];
    document.meshes[0] = {
      ...turnFaces(left, Uint8Array.of(1, 0, 0, 1, 0, 0)),
      normals: { ...flat, values: Float64Array.from(outward) },
    };
    const open = {
      ...right,
      faceCounts: right.faceCounts.slice(0, 5),
      faceCorners: right.faceCorners.slice(0, 20),
    };
    const inwards = outward.slice(0, 15).map((value, i) => (i < 12 ? -value : value));
    document.meshes[2] = {
      ...turnFaces(open, Uint8Array.of(1, 1, 1, 1, 0)),
      normals: { ...flat, values: Float64Array.from(inwards) },
    };
    expect(measureShape(document.meshes[0]).mixedEdges).toBeGreaterThan(0);
    const { document: agreed } = changed([{ do: 'agreeFaces', parts: ['Post', 'Sign'] }], document);
    expect(measureShape(agreed.meshes[0])).toMatchObject({
      mixedEdges: 0,
      inward: { solids: 0 },
      normals: { against: 0 },
      volume: expect.closeTo(1, 12),
    });
    expect([...agreed.meshes[0].faceCorners]).toEqual([...left.faceCorners]);
    const sheet = agreed.meshes[2];
    expect(measureShape(sheet)).toMatchObject({ mixedEdges: 0, normals: { against: 0 } });
    // Most of it looked inwards, and so does all of it now.
    expect([...sheet.faceCorners]).toEqual([...turnFaces(open).faceCorners]);
    // Every other square of a strip is turned back, however long it is.
    const strip = createMesh('strip', {
      points: Float64Array.from(Array.from({ length: 16 }, (_, i) => [i >> 1, i & 1, 0]).flat()),
      faceCounts: new Uint32Array(7).fill(4),
      faceCorners: Uint32Array.from(
        Array.from({ length: 7 }, (_, i) => [2 * i, 2 * i + 2, 2 * i + 3, 2 * i + 1]).flat(),
      ),
    });
    expect([...facesToTurn(turnFaces(strip, Uint8Array.of(0, 1, 0, 1, 0, 1, 0)))]).toEqual([
      0, 1, 0, 1, 0, 1, 0,
    ]);
    // Three sheets on one edge have no side in common, whichever way they go.
    const fan = createMesh('fan', {
      points: Float64Array.of(0, 0, 0, 0, 0, 1, 1, 0, 0, 1, 0, 1, -1, 1, 0, -1, 1, 1, -1, -1, 0, -1, -1, 1),
      faceCounts: Uint32Array.of(4, 4, 4),
      faceCorners: Uint32Array.of(0, 1, 3, 2, 0, 1, 5, 4, 0, 1, 7, 6),
    });
    expect([...facesToTurn(fan)]).toEqual([0, 0, 0]);
    // One that looks inwards as a whole is turned, one that looks outwards stays.
    const whole = (mesh: PolygonMesh) => [...facesToTurn(mesh)];
    expect([whole(turnFaces(left)), whole(left)]).toEqual([
      [1, 1, 1, 1, 1, 1],
      [0, 0, 0, 0, 0, 0],
    ]);
  });

  it('are computed anew: flat across a right angle at 60 degrees, round at 100', () => {
    const normals = (angle: number) => {
      const { document } = changed([{ do: 'normals', parts: ['Sign'], angle }]);
      return [...(document.meshes[2].normals?.values.slice(0, 3) ?? [])];
    };
    expect(normals(60)).toEqual([-1, 0, 0]);
    normals(100).forEach((value) => expect(value).toBeCloseTo(-1 / Math.sqrt(3), 12));
  });
});

describe('keys', () => {
  it('that are not there are passed over, and what a change makes has one', () => {
    const { document } = changed([
      { do: 'drop', parts: ['Ghost'] },
      { do: 'group', parts: ['Lamp', 'Lamp (2)'], name: 'Post' },
      { do: 'rename', names: [{ part: 'Post (2)', name: 'Lamps' }] },
      { do: 'collision', parts: ['Sign'], shape: 'hulls', hulls: 8, error: 0.05 },
    ]);
    expect(document.nodes.map(({ name }) => name)).toEqual(['Pier', 'Post', 'Lamps', 'Lamp', 'Lamp', 'Sign']);
    expect(document.nodes.map(({ collision }) => collision)).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
      undefined,
      { shape: 'hulls', hulls: 8, error: 0.05 },
    ]);
  });
});
