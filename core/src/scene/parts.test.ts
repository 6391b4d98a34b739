import fc from 'fast-check';
import { SphereGeometry } from 'three';
import { describe, expect, it } from 'vitest';
import { box } from '../../../demo/src/shapes.ts';
import { takeOff } from '../shape/takeoff.ts';
import { addCollision } from './collision.ts';
import { cutParts } from './cutParts.ts';
import {
  createDocument,
  createMesh,
  createNode,
  type PolygonMesh,
  type SceneDocument,
  type Vec3,
} from './document.ts';
import { createMaterial } from './material.ts';
import { measureBounds } from './measure.ts';
import type { Collision } from './partChange.ts';
import { solidsOf } from './solids.ts';
import { groupsOf, splitDocument } from './split.ts';
import { createCutter, subMesh } from './submesh.ts';

/** Several meshes as one, points one after the other. */
function joined(meshes: PolygonMesh[], faceMaterial?: number[]): PolygonMesh {
  const starts = meshes.map((_, i) =>
    meshes.slice(0, i).reduce((sum, mesh) => sum + mesh.points.length / 3, 0),
  );
  return createMesh('joined', {
    points: Float64Array.from(meshes.flatMap(({ points }) => [...points])),
    faceCounts: Uint32Array.from(meshes.flatMap(({ faceCounts }) => [...faceCounts])),
    faceCorners: Uint32Array.from(
      meshes.flatMap(({ faceCorners }, i) => [...faceCorners].map((corner) => corner + starts[i])),
    ),
    ...(faceMaterial ? { faceMaterial: Int32Array.from(faceMaterial) } : {}),
  });
}

function documentOf(meshes: PolygonMesh[], materials: string[][] = [], metresPerUnit = 1): SceneDocument {
  const names = [...new Set(materials.flat())];
  return {
    ...createDocument('fbx', 'test'),
    metresPerUnit,
    meshes,
    materials: names.map((name) => createMaterial(name, 'metalRough')),
    nodes: meshes.map((mesh, i) =>
      createNode(mesh.name, 'mesh', -1, {
        mesh: i,
        materials: (materials[i] ?? []).map((name) => names.indexOf(name)),
      }),
    ),
  };
}

describe('cutting', () => {
  it('keeps faces with their points and layers', () => {
    const cube = box('cube', [2, 2, 2]);
    const top = subMesh(cube, Uint8Array.of(0, 0, 0, 0, 1, 0), 'top');
    expect([...top.faceCounts]).toEqual([4]);
    expect(top.points.length / 3).toBe(4);
    expect([...top.points].filter((_, i) => i % 3 === 1)).toEqual([1, 1, 1, 1]);
    // The face's own normal and UVs alone.
    expect([...(top.normals?.values ?? [])]).toEqual([0, 1, 0]);
    expect(top.uvSets[0].values.length / 2).toBe(4);
  });

  it('finds solids by what lies in one place, seams or not', () => {
    expect(solidsOf(joined([box('a', [1, 1, 1]), box('b', [1, 1, 1], [3, 0, 0])])).count).toBe(2);
    // The second box meets the first in a whole side, with points of its own.
    expect(solidsOf(joined([box('a', [1, 1, 1]), box('b', [1, 1, 1], [1, 0, 0])])).count).toBe(1);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 6 }), (count) => {
        const apart = Array.from({ length: count }, (_, i) => box(`${i}`, [1, 1, 1], [i * 2, 0, 0]));
        const { solid, count: found } = solidsOf(joined(apart));
        expect(found).toBe(count);
        expect([...solid]).toEqual(apart.flatMap((_, i) => new Array<number>(6).fill(i)));
      }),
    );
  });

  it('carries hard edges, shapes and weights of the points that stay', () => {
    const mesh: PolygonMesh = {
      ...joined([box('a', [1, 1, 1]), box('b', [1, 1, 1], [3, 0, 0])]),
      hardEdges: Uint32Array.of(0, 1, 9, 8, 2, 10),
      shapes: [
        {
          name: 'bulge',
          points: Uint32Array.of(9, 0),
          offsets: Float64Array.of(9, 9, 9, 1, 1, 1),
          normalOffsets: null,
          weight: 0,
        },
      ],
      influences: {
        starts: Uint32Array.from({ length: 17 }, (_, i) => i),
        joints: Uint32Array.from({ length: 16 }, (_, i) => i),
        weights: new Float32Array(16).fill(1),
      },
    };
    const cut = createCutter(mesh);
    const [first, second] = [
      [0, 1, 2, 3, 4, 5],
      [6, 7, 8, 9, 10, 11],
    ].map((faces) => cut(faces, 'piece'));
    const pointsOf = (piece: PolygonMesh, edges: ArrayLike<number>) =>
      Array.from(edges, (point) => [...piece.points.slice(point * 3, point * 3 + 3)]);
    // The edge between the two boxes belongs to neither.
    expect(pointsOf(first, first.hardEdges as Uint32Array)).toEqual(pointsOf(mesh, [0, 1]));
    expect(pointsOf(second, second.hardEdges as Uint32Array)).toEqual(pointsOf(mesh, [9, 8]));
    expect(pointsOf(second, second.shapes[0].points)).toEqual(pointsOf(mesh, [9]));
    expect([[...first.shapes[0].offsets], [...second.shapes[0].offsets]]).toEqual([
      [1, 1, 1],
      [9, 9, 9],
    ]);
    // Each joint bears the number of its point.
    expect(pointsOf(mesh, second.influences?.joints ?? [])).toEqual(
      pointsOf(
        second,
        Array.from({ length: 8 }, (_, i) => i),
      ),
    );
  });

  it('makes a group of a part and puts its pieces under it', () => {
    const mesh = joined(
      [box('a', [1, 1, 1]), box('b', [1, 1, 1], [3, 0, 0])],
      [0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1],
    );
    const whole = documentOf([mesh], [['Oak', 'Iron']]);
    whole.nodes[0].transform.translation = [0, 5, 0];
    const byMaterial = cutParts(whole, 'materials').document;
    expect(byMaterial.nodes.map(({ name, kind, parent }) => `${name} ${kind} ${parent}`)).toEqual([
      'joined group -1',
      'joined_Oak mesh 0',
      'joined_Iron mesh 0',
    ]);
    expect(measureBounds(byMaterial)).toEqual(measureBounds(whole));
    expect(byMaterial.meshes.map(({ faceCounts }) => faceCounts.length)).toEqual([6, 6]);
    const bySolid = cutParts(whole, 'solids').document;
    expect(bySolid.nodes.map(({ name }) => name)).toEqual(['joined', 'joined_1', 'joined_2']);
    // One of one piece stays as it is.
    const single = documentOf([box('c', [1, 1, 1])], [['Oak']]);
    expect(cutParts(single, 'solids').document.nodes).toEqual(single.nodes);
  });
});

describe('splitting', () => {
  const kit = (): SceneDocument => {
    const document = documentOf(
      [box('a', [1, 1, 1]), box('b', [1, 1, 1], [3, 0, 0]), box('c', [1, 1, 1], [6, 0, 0])],
      [['Oak'], ['Iron'], ['Oak']],
    );
    const shifted = document.nodes.map((node, i) => ({ ...node, parent: i < 2 ? 1 : 2 }));
    const holders = [
      createNode('kit', 'group', -1),
      createNode('posts', 'group', 0),
      createNode('rails', 'group', 0),
    ];
    return { ...document, nodes: [...holders, ...shifted] };
  };

  it('takes the groups below what holds everything', () => {
    expect(groupsOf([-1, 0, 0, 1, 1, 2], [false, false, false, true, true, true])).toEqual([
      0, 1, 2, 1, 1, 2,
    ]);
    const pieces = splitDocument(kit(), 'groups');
    expect(pieces.map(({ name }) => name)).toEqual(['posts', 'rails']);
    expect(pieces[0].document.nodes.map(({ name }) => name)).toEqual(['kit', 'posts', 'a', 'b']);
    expect(pieces[1].document.materials.map(({ name }) => name)).toEqual(['Oak']);
    expect(pieces[1].document.meshes).toHaveLength(1);
  });

  it('splits by node and by material without losing a face', () => {
    expect(splitDocument(kit(), 'nodes').map(({ name }) => name)).toEqual(['a', 'b', 'c']);
    const mixed = documentOf(
      [joined([box('a', [1, 1, 1]), box('b', [1, 1, 1], [3, 0, 0])], [0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1])],
      [['Oak', 'Iron']],
    );
    const pieces = splitDocument(mixed, 'materials');
    expect(
      pieces.map(({ name, document }) => [
        name,
        document.meshes[0].faceCounts.length,
        document.materials.map((material) => material.name),
      ]),
    ).toEqual([
      ['Oak', 6, ['Oak']],
      ['Iron', 6, ['Iron']],
    ]);
    expect(measureBounds(pieces[1].document)?.min[0]).toBe(2.5);
  });
});

describe('shapes for collision', () => {
  const shapeOf = async (
    mesh: PolygonMesh,
    shape: 'box' | 'orientedBox' | 'hull' | 'mesh',
    fit: Omit<Collision, 'shape'> = {},
  ) => {
    const document = await addCollision(
      documentOf([mesh], [['Oak']]),
      { shape, ...fit },
      (part) => `${part}_shape`,
    );
    return { document, added: document.nodes[1], solid: document.meshes[document.nodes[1].mesh] };
  };

  it('are boxes that hold the part, closed and turned outwards', async () => {
    const { document, added, solid } = await shapeOf(box('post', [2, 3, 4], [1, 0, 0]), 'box');
    expect(added).toMatchObject({ name: 'post_shape', parent: 0, materials: [] });
    expect(solid.points.length / 3).toBe(8);
    const [, row] = takeOff(document);
    expect([row.area, row.volume]).toEqual([52, 24]);
    expect(signedVolume(solid)).toBeCloseTo(24, 9);
  });

  it('are the smallest box of a part that lies askew, turned outwards', async () => {
    const turned = box('beam', [4, 2, 1]);
    const [cosine, sine] = [0.8, 0.6];
    for (let i = 0; i < turned.points.length; i += 3) {
      const [x, y] = [turned.points[i], turned.points[i + 1]];
      turned.points.set([cosine * x - sine * y + 5, sine * x + cosine * y], i);
    }
    const { solid } = await shapeOf(turned, 'orientedBox');
    expect(signedVolume(solid)).toBeCloseTo(8, 9);
    // Along the axes it would be 4.4 by 4 by 1.
    expect(signedVolume((await shapeOf(turned, 'box')).solid)).toBeCloseTo(17.6, 9);
    expect(signedVolume((await shapeOf(box('post', [1, 2, 3]), 'orientedBox')).solid)).toBeCloseTo(6, 9);
  });

  it('are several hulls, numbered, that fill what is dented', async () => {
    // An angle of two beams: 3 by 1 by 1 along x, and 1 by 2 by 1 upon its end.
    const outline = [0, 0, 3, 0, 3, 1, 1, 1, 1, 3, 0, 3];
    const points = [0, 1].flatMap((z) =>
      Array.from({ length: 6 }, (_, i) => [outline[i * 2], outline[i * 2 + 1], z]).flat(),
    );
    const sides = Array.from({ length: 6 }, (_, i) => [i, (i + 1) % 6, ((i + 1) % 6) + 6, i + 6]);
    const angle = createMesh('angle', {
      points: Float64Array.from(points),
      faceCounts: Uint32Array.from([6, 6, 4, 4, 4, 4, 4, 4]),
      faceCorners: Uint32Array.from([...[5, 4, 3, 2, 1, 0], ...[6, 7, 8, 9, 10, 11], ...sides.flat()]),
    });
    expect(signedVolume(angle)).toBeCloseTo(5, 9);
    expect(signedVolume((await shapeOf(angle, 'hull')).solid)).toBeCloseTo(7, 9);
    const document = await addCollision(
      documentOf([angle], [['Oak']]),
      { shape: 'hulls' },
      (part) => `${part}_shape`,
    );
    expect(document.nodes.slice(1).map(({ name, parent }) => [name, parent])).toEqual([
      ['angle_shape_01', 0],
      ['angle_shape_02', 0],
    ]);
    const volumes = document.nodes.slice(1).map(({ mesh }) => signedVolume(document.meshes[mesh]));
    expect(volumes.reduce((sum, volume) => sum + volume, 0)).toBeCloseTo(5, 9);
    // A square ring, 4 across with a hole of 2, is four beams of together 12, though one cut alone spares
    // nothing.
    const square = (reach: number, z: number) => [
      -reach,
      -reach,
      z,
      reach,
      -reach,
      z,
      reach,
      reach,
      z,
      -reach,
      reach,
      z,
    ];
    const around = [0, 1, 2, 3].flatMap((i) => {
      const j = (i + 1) % 4;
      return [
        [i, j, j + 8, i + 8],
        [j + 4, i + 4, i + 12, j + 12],
        [j, i, i + 4, j + 4],
        [i + 8, j + 8, j + 12, i + 12],
      ];
    });
    const ring = createMesh('ring', {
      points: Float64Array.from([...square(2, 0), ...square(1, 0), ...square(2, 1), ...square(1, 1)]),
      faceCounts: new Uint32Array(16).fill(4),
      faceCorners: Uint32Array.from(around.flat()),
    });
    expect(signedVolume(ring)).toBeCloseTo(12, 9);
    const beams = await addCollision(documentOf([ring], [['Oak']]), { shape: 'hulls' }, (part) => part);
    expect(
      beams.nodes.slice(1).reduce((sum, { mesh }) => sum + signedVolume(beams.meshes[mesh]), 0),
    ).toBeCloseTo(12, 9);
    // Two bodies apart are a hull each, and one that is convex is its own.
    const apart = await addCollision(
      documentOf([joined([box('a', [1, 1, 1]), box('b', [1, 1, 1], [3, 0, 0])])], [['Oak']]),
      { shape: 'hulls' },
      (part) => part,
    );
    expect(apart.nodes.slice(1).map(({ mesh }) => signedVolume(apart.meshes[mesh]))).toEqual([
      expect.closeTo(1, 9),
      expect.closeTo(1, 9),
    ]);
    expect(
      (
        await addCollision(
          documentOf([box('post', [1, 1, 1])], [['Oak']]),
          { shape: 'hulls' },
          (part) => `${part}_shape`,
        )
      ).nodes.map(({ name }) => name),
    ).toEqual(['post', 'post_shape']);
  });

  it('are as many hulls, and as close, as was asked for', async () => {
    // Two beams in an angle: 3 by 1 by 1, and 1 by 2 by 1 upon its end. Their one hull is 7, so that the cut
    // spares 2 of 7.
    const angle = joined([box('foot', [3, 1, 1], [1.5, 0.5, 0]), box('post', [1, 2, 1], [0.5, 2, 0])]);
    const volumes = async (fit: Omit<Collision, 'shape'>, mesh = angle) => {
      const document = await addCollision(
        documentOf([mesh], [['Oak']]),
        { shape: 'hulls', ...fit },
        (part) => part,
      );
      return document.nodes
        .slice(1)
        .map(({ mesh }) => signedVolume(document.meshes[mesh]))
        .sort();
    };
    const near = (value: number) => expect.closeTo(value, 9);
    expect(await volumes({})).toEqual([near(2), near(3)]);
    expect(await volumes({ hulls: 1 })).toEqual([near(7)]);
    expect(await volumes({ error: 0.3 })).toEqual([near(7)]);
    expect(await volumes({ error: 0.28 })).toEqual([near(2), near(3)]);
    // A stray point makes nothing larger that could be spared.
    const stray = { ...angle, points: Float64Array.from([...angle.points, 90, 90, 90]) };
    expect(await volumes({}, stray)).toEqual([near(2), near(3)]);
  });

  it('are the faces with fewer triangles, whose outline stays, far away too', async () => {
    const side = 20;
    const at = (x: number, y: number) => x + y * (side + 1);
    const cells = Array.from({ length: side * side }, (_, i) => [i % side, Math.floor(i / side)]);
    const grid = createMesh('deck', {
      points: Float64Array.from(
        Array.from({ length: (side + 1) ** 2 }, (_, i) => [
          4e6 + (i % (side + 1)),
          Math.floor(i / (side + 1)),
          7,
        ]).flat(),
      ),
      faceCounts: new Uint32Array(side * side).fill(4),
      faceCorners: Uint32Array.from(
        cells.flatMap(([x, y]) => [at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y + 1)]),
      ),
    });
    const { document, solid } = await shapeOf(grid, 'mesh', { keep: 0.05 });
    expect(solid.faceCounts.length).toBeLessThanOrEqual(40);
    expect(solid.points.length / 3).toBeLessThan((side + 1) ** 2 / 4);
    expect(measureBounds(document)).toEqual({ min: [4e6, 0, 7], max: [4e6 + side, side, 7] });
    expect(takeOff(documentOf([solid], [['Oak']]))[0].area).toBeCloseTo(side * side, 6);
    // A ball keeps about its size: 0.25 of its triangles enclose nearly what all do.
    const round = new SphereGeometry(1, 48, 32);
    const ball = createMesh('ball', {
      points: Float64Array.from(round.getAttribute('position').array),
      faceCounts: new Uint32Array((round.index?.count ?? 0) / 3).fill(3),
      faceCorners: Uint32Array.from(round.index?.array ?? []),
    });
    const small = (await shapeOf(ball, 'mesh', { keep: 0.25 })).solid;
    expect(small.faceCounts.length / ball.faceCounts.length).toBeLessThanOrEqual(0.25);
    expect(signedVolume(small)).toBeGreaterThan(0.95 * signedVolume(ball));
    // Asked for next to nothing, a box stays one, and no place of a ball moves by more than 0.2 inwards: 0.8
    // to the third power; asked for all, polygons stay polygons.
    expect(signedVolume((await shapeOf(box('post', [1, 2, 3]), 'mesh', { keep: 0.01 })).solid)).toBeCloseTo(
      6,
      9,
    );
    expect(signedVolume((await shapeOf(ball, 'mesh', { keep: 0.01 })).solid)).toBeGreaterThan(
      0.8 ** 3 * signedVolume(ball),
    );
    expect([...(await shapeOf(box('post', [1, 1, 1]), 'mesh', { keep: 1 })).solid.faceCounts]).toEqual([
      4, 4, 4, 4, 4, 4,
    ]);
  });

  it('are hulls without what lies inside', async () => {
    const corners: Vec3[] = [
      [0, 0, 0],
      [2, 0, 0],
      [0, 2, 0],
      [0, 0, 2],
      [0.2, 0.2, 0.2],
    ];
    const mesh = createMesh('tetra', {
      points: Float64Array.from(corners.flat()),
      faceCounts: Uint32Array.of(3, 3, 3),
      faceCorners: Uint32Array.of(0, 2, 1, 0, 1, 4, 0, 3, 4),
    });
    const { solid } = await shapeOf(mesh, 'hull');
    expect(solid.points.length / 3).toBe(4);
    // A tetrahedron on three edges of 2: 8 / 6.
    expect(signedVolume(solid)).toBeCloseTo(8 / 6, 9);
    // A stray point that no face has belongs to none of them.
    const stray = createMesh('stray', { ...mesh, points: Float64Array.from([...corners.flat(), 9, 9, 9]) });
    for (const shape of ['hull', 'box', 'orientedBox'] as const) {
      const { solid: around } = await shapeOf(stray, shape);
      expect(Math.max(...around.points)).toBeCloseTo(2, 9);
    }
    expect((await shapeOf(box('flat', [1, 0, 1]), 'hull')).solid.points.length / 3).toBeGreaterThan(3);
    expect((await shapeOf(box('post', [1, 1, 1]), 'mesh')).solid.faceCounts.length).toBe(6);
  });
});

describe('the takeoff', () => {
  it('measures in metres, whatever the unit and the transform', () => {
    const document = documentOf([box('beam', [200, 10, 10])], [['Oak']], 0.01);
    document.nodes[0].transform.scale = [1, 2, 1];
    const [row] = takeOff(document);
    // 2 m x 0.2 m x 0.1 m.
    expect(row).toMatchObject({ part: 'beam', material: 'Oak', faces: 6 });
    expect(row.area).toBeCloseTo(2 * (2 * 0.2 + 2 * 0.1 + 0.2 * 0.1), 9);
    expect(row.volume).toBeCloseTo(0.04, 9);
  });

  it('tells of open bodies, and asks each material by itself', () => {
    const cube = box('cube', [1, 1, 1]);
    expect(
      takeOff(documentOf([subMesh(cube, Uint8Array.of(1, 1, 1, 1, 1, 0), 'open')], [['Oak']]))[0].volume,
    ).toBeNull();
    const two = takeOff(
      documentOf([{ ...cube, faceMaterial: Int32Array.of(0, 0, 0, 0, 1, 1) }], [['Oak', 'Iron']]),
    );
    expect(two.map(({ material, area, volume }) => [material, area, volume])).toEqual([
      ['Oak', 4, null],
      ['Iron', 2, null],
    ]);
  });
});

/** Sum of the tetrahedra from the origin; positive where faces are turned outwards. */
function signedVolume({ points, faceCounts, faceCorners }: PolygonMesh): number {
  const entryAt = (corner: number) => [0, 1, 2].map((k) => points[faceCorners[corner] * 3 + k]);
  let [sum, start] = [0, 0];
  for (const count of faceCounts) {
    for (let k = 1; k + 1 < count; k += 1) {
      const [a, b, c] = [entryAt(start), entryAt(start + k), entryAt(start + k + 1)];
      sum +=
        (a[0] * (b[1] * c[2] - b[2] * c[1]) +
          a[1] * (b[2] * c[0] - b[0] * c[2]) +
          a[2] * (b[0] * c[1] - b[1] * c[0])) /
        6;
    }
    start += count;
  }
  return sum;
}
