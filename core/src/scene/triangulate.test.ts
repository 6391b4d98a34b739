import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { createMesh, type PolygonMesh } from './document.ts';
import { computeNormals, normalsByAngle } from './normals.ts';
import { toTriangles, triangulate } from './triangulate.ts';

type Vector = readonly [number, number, number];

/** A mesh of points, and faces as lists of them. */
function meshOf(points: Vector[], faces: number[][], smoothing?: number[]): PolygonMesh {
  return createMesh('Hull', {
    points: Float64Array.from(points.flat()),
    faceCounts: Uint32Array.from(faces, (face) => face.length),
    faceCorners: Uint32Array.from(faces.flat()),
    ...(smoothing ? { faceSmoothing: Int32Array.from(smoothing) } : {}),
  });
}

/** Area times direction of a triangle of points. */
function areaVector(a: Vector, b: Vector, c: Vector): number[] {
  const [u, v] = [b, c].map((end) => end.map((value, k) => value - a[k]));
  return [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]].map(
    (value) => value / 2,
  );
}

describe('polygons as triangles', () => {
  it('cover what the polygon covers, once, and look where it looks, whichever way it lies', () => {
    // Outlines that are seen whole from the middle, some of their corners turned in.
    const outline = fc
      .array(fc.double({ min: 0.2, max: 2, noNaN: true }), { minLength: 4, maxLength: 9 })
      .map((radii) =>
        radii.map((radius, i) => {
          const angle = (2 * Math.PI * i) / radii.length;
          return [radius * Math.cos(angle), radius * Math.sin(angle)] as const;
        }),
      );
    fc.assert(
      fc.property(outline, fc.integer({ min: 0, max: 2 }), fc.boolean(), (flat, axis, turned) => {
        const points = flat.map(([x, y]) => {
          const point = [3, 3, 3];
          point[(axis + 1) % 3] = x;
          point[(axis + 2) % 3] = y;
          return point as unknown as Vector;
        });
        const ring = points.map((_, i) => (turned ? points.length - 1 - i : i));
        // Another face before it, so that its corners do not begin at 0.
        const mesh = meshOf(points, [[0, 1, 2], ring]);
        const { corners, faces } = triangulate(mesh);
        expect([...faces]).toEqual([0, ...new Array(points.length - 2).fill(1)]);
        let area = 0;
        for (let i = 3; i < corners.length; i += 3) {
          const triangle = [0, 1, 2].map((k) => points[mesh.faceCorners[corners[i + k]]]);
          expect([...corners.slice(i, i + 3)].every((corner) => corner >= 3)).toBe(true);
          const vector = areaVector(triangle[0], triangle[1], triangle[2]);
          expect(vector[axis] * (turned ? -1 : 1)).toBeGreaterThan(-1e-9);
          area += Math.abs(vector[axis]);
        }
        const required = flat.reduce((sum, [x, y], i) => {
          const [nextX, nextY] = flat[(i + 1) % flat.length];
          return sum + (x * nextY - nextX * y) / 2;
        }, 0);
        expect(area).toBeCloseTo(required, 8);
      }),
    );
  });

  it('cover it as well where corners lie upon its edges or on each other, however many there are', () => {
    const radii = fc.array(fc.double({ min: 0.2, max: 2, noNaN: true }), { minLength: 4, maxLength: 30 });
    // Corners on an edge are found there exactly: halves and quarters of whole numbers.
    const round = (value: number) => Math.round(value * 64) * 4;
    fc.assert(
      fc.property(
        radii,
        fc.array(fc.constantFrom(0, 1, 2, 4), { minLength: 30, maxLength: 30 }),
        (all, extra) => {
          const outline = all.map((radius, i): [number, number] => {
            const angle = (2 * Math.PI * i) / all.length;
            return [round(radius * Math.cos(angle)), round(radius * Math.sin(angle))];
          });
          const points = outline.flatMap(([x, y], i): Vector[] => {
            const [toX, toY] = outline[(i + 1) % outline.length];
            const along = (share: number): Vector => [x + (toX - x) * share, y + (toY - y) * share, 5];
            if (extra[i] === 1) return [along(0), along(0)];
            return Array.from({ length: Math.max(1, extra[i]) }, (_, k) => along(k / Math.max(1, extra[i])));
          });
          const { corners } = triangulate(meshOf(points, [points.map((_, i) => i)]));
          expect(corners).toHaveLength((points.length - 2) * 3);
          let area = 0;
          for (let i = 0; i < corners.length; i += 3) {
            const [a, b, c] = [...corners.slice(i, i + 3)].map((corner) => points[corner]);
            const [, , z] = areaVector(a, b, c);
            expect(z).toBeGreaterThanOrEqual(0);
            area += z;
          }
          const required = outline.reduce((sum, [x, y], i) => {
            const [toX, toY] = outline[(i + 1) % outline.length];
            return sum + (x * toY - toX * y) / 2;
          }, 0);
          expect(area).toBeCloseTo(required, 6);
        },
      ),
    );
  });

  it.each<[string, Vector[]]>([
    ['with three corners on each other', new Array<Vector>(3).fill([5, 0, 0])],
    [
      'with a spike, out and back on one line',
      [
        [5, 0, 0],
        [5, -2, 0],
        [5, 0, 0],
      ],
    ],
    [
      'with a spike into it',
      [
        [5, 0, 0],
        [5, 0.5, 0],
        [5, 0, 0],
      ],
    ],
  ])('cover a comb of many teeth %s', (_, extra) => {
    const teeth = 20;
    const comb: Vector[] = [
      [0, 0, 0],
      ...extra,
      [teeth, 0, 0],
      ...Array.from({ length: teeth }, (_, i): Vector[] => {
        const from = teeth - 1 - i;
        return [
          [from + 1, 3, 0],
          [from + 0.5, 3, 0],
          [from + 0.5, 1, 0],
          [from, 1, 0],
        ];
      }).flat(),
    ];
    for (const [points, front] of [
      [comb, 1],
      [[...comb].reverse(), -1],
    ] as const) {
      const { corners } = triangulate(meshOf([...points], [points.map((_, i) => i)]));
      const areas = Array.from({ length: comb.length - 2 }, (_, i) => {
        const [a, b, c] = [...corners.slice(i * 3, i * 3 + 3)].map((corner) => points[corner]);
        return areaVector(a, b, c)[2] * front;
      });
      expect(Math.min(...areas)).toBeGreaterThanOrEqual(0);
      // The back, one high, and teeth half as wide, two high.
      expect(areas.reduce((sum, area) => sum + area, 0)).toBeCloseTo(teeth + teeth, 6);
    }
  });

  it('follow a wall that is bent round, as one outline', () => {
    const steps = 12;
    const arc = (height: number, k: number): Vector => {
      const angle = (Math.PI * k) / steps;
      return [Math.cos(angle), height, Math.sin(angle)];
    };
    const ring = Array.from({ length: steps + 1 }, (_, k) => k);
    const points = [...ring.map((k) => arc(0, k)), ...ring.reverse().map((k) => arc(3, k))];
    const { corners } = triangulate(meshOf(points, [points.map((_, i) => i)]));
    let area = 0;
    for (let i = 0; i < corners.length; i += 3) {
      const [a, b, c] = [...corners.slice(i, i + 3)].map((corner) => points[corner]);
      area += Math.hypot(...areaVector(a, b, c));
    }
    // Twelve flat strips, each as wide as its chord.
    expect(area).toBeCloseTo(steps * 3 * 2 * Math.sin(Math.PI / steps / 2), 6);
  });

  it('cut a bent quad where it takes less area', () => {
    // The other diagonal is the shorter one, and makes a tenth more area.
    const bent: Vector[] = [
      [0.3, 1.8, 2],
      [3.4, 1.8, 1.5],
      [2.5, 2.5, 1.5],
      [1.6, 2.8, 0.9],
    ];
    expect([...triangulate(meshOf(bent, [[0, 1, 2, 3]])).corners]).toEqual([0, 1, 2, 0, 2, 3]);
    const turned = [1, 2, 3, 0].map((k) => bent[k]);
    expect([...triangulate(meshOf(turned, [[0, 1, 2, 3]])).corners]).toEqual([0, 1, 3, 1, 2, 3]);
  });

  it('cut a convex quad along its shorter diagonal, a dented one through its dent', () => {
    const cut = (points: Vector[]) => [...triangulate(meshOf(points, [[0, 1, 2, 3]])).corners];
    const kite = (near: number): Vector[] => [
      [-near, 0, 0],
      [0, -1, 0],
      [near, 0, 0],
      [0, 1, 0],
    ];
    expect(cut(kite(0.5))).toEqual([0, 1, 2, 0, 2, 3]);
    expect(cut(kite(2))).toEqual([0, 1, 3, 1, 2, 3]);
    const dented: Vector[] = [
      [0, 0, 0],
      [4, -1, 0],
      [1, 0, 0],
      [4, 1, 0],
    ];
    for (let first = 0; first < 4; first += 1) {
      const ring = [0, 1, 2, 3].map((i) => dented[(i + first) % 4]);
      expect(cut(ring)).toEqual(first % 2 === 0 ? [0, 1, 2, 0, 2, 3] : [0, 1, 3, 1, 2, 3]);
    }
  });

  it('take layers, materials and smoothing along, and lose faces of two corners', () => {
    const mesh: PolygonMesh = {
      ...meshOf(
        [
          [0, 0, 0],
          [1, 0, 0],
          [1, 1, 0],
          [0, 1.5, 0],
        ],
        [
          [0, 1],
          [0, 1, 2, 3],
          [2, 1, 0],
        ],
        [7, 8, 9],
      ),
      faceMaterial: Int32Array.of(4, 5, 6),
    };
    const indexed = { name: 'st', size: 2, domain: 'corner', values: new Float64Array(12) } as const;
    mesh.uvSets = [{ ...indexed, index: Uint32Array.of(9, 9, 3, 2, 1, 0, 5, 4, 3) }];
    mesh.colours = [
      { name: 'byFace', size: 3, domain: 'face', values: new Float64Array(9), index: null },
      { name: 'byPoint', size: 3, domain: 'point', values: new Float64Array(12), index: null },
    ];
    const cut = toTriangles(mesh);
    expect([...cut.faceCounts]).toEqual([3, 3, 3]);
    expect([...cut.faceCorners]).toEqual([0, 1, 2, 0, 2, 3, 2, 1, 0]);
    expect([[...(cut.faceMaterial ?? [])], [...(cut.faceSmoothing ?? [])]]).toEqual([
      [5, 5, 6],
      [8, 8, 9],
    ]);
    expect([...(cut.uvSets[0].index ?? [])]).toEqual([3, 2, 1, 3, 1, 0, 5, 4, 3]);
    expect([...(cut.colours[0].index ?? [])]).toEqual([1, 1, 2]);
    expect(cut.colours[1].index).toBeNull();
  });
});

describe('normals of a mesh without', () => {
  // A floor of 2 by 1 and a wall of 1 by 1 upon its edge.
  const points: Vector[] = [
    [0, 0, 0],
    [0, 0, 1],
    [2, 0, 1],
    [2, 0, 0],
    [0, 1, 0],
    [0, 1, 1],
  ];
  const faces = [
    [0, 1, 2, 3],
    [0, 4, 5, 1],
  ];
  const rows = ({ values }: { values: ArrayLike<number> }) =>
    Array.from({ length: values.length / 3 }, (_, i) =>
      [0, 1, 2].map((k) => Number(values[i * 3 + k].toFixed(6)) + 0),
    );
  const [up, out] = [
    [0, 1, 0],
    [1, 0, 0],
  ];
  // The floor has twice the wall's area: (1, 2, 0) of length 1.
  const both = [Number((1 / Math.sqrt(5)).toFixed(6)), Number((2 / Math.sqrt(5)).toFixed(6)), 0];

  it('are those of the face where no group is said, and weighed by area within one', () => {
    expect(rows(computeNormals(meshOf(points, faces)))).toEqual([up, up, up, up, out, out, out, out]);
    expect(rows(computeNormals(meshOf(points, faces, [3, 3])))).toEqual([
      ...[both, both, up, up],
      ...[both, out, out, both],
    ]);
    expect(rows(computeNormals(meshOf(points, faces, [3, 4])))).toEqual([up, up, up, up, out, out, out, out]);
    expect(rows(computeNormals(meshOf(points, faces, [3, 0])))).toEqual([up, up, up, up, out, out, out, out]);
  });

  it('are smooth below the angle that is asked for, and hard above it', () => {
    const hard = rows(normalsByAngle(meshOf(points, faces), 80));
    expect(hard).toEqual([up, up, up, up, out, out, out, out]);
    const smooth = rows(normalsByAngle(meshOf(points, faces), 100));
    expect(smooth[0]).toEqual(smooth[4]);
    expect(smooth[0]).not.toEqual(up);
    expect([smooth[2], smooth[5]]).toEqual([up, out]);
  });
});
