import { createMesh, type PolygonMesh, type Vec3 } from '@kinkajou/core/scene/document';
import { steps, thinned } from './scale.ts';

/** Collects polygons with a normal and a UV per corner, and gives them as one mesh. */
export class ShapeBuilder {
  private readonly points: number[] = [];
  private readonly normals: number[] = [];
  private readonly uvs: number[] = [];
  private readonly faceCounts: number[] = [];
  private readonly corners: { point: number; normal: number; uv: number }[] = [];

  point(p: Vec3): number {
    return this.points.push(...p) / 3 - 1;
  }

  normal(n: Vec3): number {
    const length = Math.hypot(...n) || 1;
    return this.normals.push(n[0] / length, n[1] / length, n[2] / length) / 3 - 1;
  }

  uv(u: number, v: number): number {
    return this.uvs.push(u, v) / 2 - 1;
  }

  face(corners: { point: number; normal: number; uv: number }[]): void {
    this.faceCounts.push(corners.length);
    this.corners.push(...corners);
  }

  finish(name: string): PolygonMesh {
    const pick = (key: 'point' | 'normal' | 'uv') => Uint32Array.from(this.corners, (corner) => corner[key]);
    return createMesh(name, {
      points: Float64Array.from(this.points),
      faceCounts: Uint32Array.from(this.faceCounts),
      faceCorners: pick('point'),
      normals: {
        name: 'normal',
        size: 3,
        domain: 'corner',
        values: Float64Array.from(this.normals),
        index: pick('normal'),
      },
      uvSets: [
        { name: 'map1', size: 2, domain: 'corner', values: Float64Array.from(this.uvs), index: pick('uv') },
      ],
    });
  }
}

/** A point of a profile: radius, height. A list of them between two creases is smooth. */
export type Profile = [radius: number, height: number][];

/** How a profile is turned into a body, and how a texture lies on it. */
export interface LatheOptions {
  segments?: number;
  /** How often the texture goes round, and its size along the profile in profile units. */
  repeatU?: number;
  lengthV?: number;
  /** Where v starts. */
  startV?: number;
}

/**
 * Turns smooth profile pieces around the Y axis, from bottom to top along the outside. Pieces that touch
 * share points but not normals, so that edges between them are hard. Ends of radius 0 close as triangles.
 */
export function lathe(
  name: string,
  pieces: Profile[],
  { segments = 64, repeatU = 1, lengthV, startV = 0 }: LatheOptions = {},
): PolygonMesh {
  const shape = new ShapeBuilder();
  const around = steps(segments);
  const total = pieces.reduce((sum, piece) => sum + profileLength(piece), 0);
  let along = 0;
  let lastRing: { key: string; points: number[] } | null = null;
  for (const piece of pieces) {
    const slopes = profileNormals(piece);
    const rings = piece.map(([radius, height], i) => {
      if (i > 0) along += Math.hypot(radius - piece[i - 1][0], height - piece[i - 1][1]);
      const key = `${radius},${height}`;
      const shared = i === 0 && lastRing?.key === key ? lastRing.points : null;
      const points = shared ?? ringPoints(shape, radius, height, around);
      if (i === piece.length - 1) lastRing = { key, points };
      const v = startV + along / (lengthV ?? total);
      const normals = Array.from({ length: around }, (_, s) => {
        const angle = (s / around) * Math.PI * 2;
        return shape.normal([slopes[i][0] * Math.sin(angle), slopes[i][1], slopes[i][0] * Math.cos(angle)]);
      });
      const uvs = Array.from({ length: around + 1 }, (_, s) => shape.uv((s / around) * repeatU, v));
      return { points, normals, uvs, closed: radius === 0 };
    });
    for (let i = 0; i + 1 < rings.length; i += 1) {
      const [low, high] = [rings[i], rings[i + 1]];
      for (let s = 0; s < around; s += 1) {
        const next = (s + 1) % around;
        const corner = (ring: typeof low, at: number, uv: number) => ({
          point: ring.points[ring.closed ? 0 : at],
          normal: ring.normals[at],
          uv: ring.uvs[uv],
        });
        const quad = [
          corner(low, s, s),
          corner(low, next, s + 1),
          corner(high, next, s + 1),
          corner(high, s, s),
        ];
        shape.face(cornersOf(low, quad, high));
      }
    }
  }
  return shape.finish(name);
}

function cornersOf(
  low: { points: number[]; normals: number[]; uvs: number[]; closed: boolean },
  quad: { point: number; normal: number; uv: number }[],
  high: { points: number[]; normals: number[]; uvs: number[]; closed: boolean },
): { point: number; normal: number; uv: number }[] {
  if (low.closed) return [quad[0], quad[2], quad[3]];
  return high.closed ? quad.slice(0, 3) : quad;
}

function ringPoints(shape: ShapeBuilder, radius: number, height: number, segments: number): number[] {
  if (radius === 0) return [shape.point([0, height, 0])];
  return Array.from({ length: segments }, (_, s) => {
    const angle = (s / segments) * Math.PI * 2;
    return shape.point([radius * Math.sin(angle), height, radius * Math.cos(angle)]);
  });
}

function profileLength(piece: Profile): number {
  let sum = 0;
  for (let i = 1; i < piece.length; i += 1)
    sum += Math.hypot(piece[i][0] - piece[i - 1][0], piece[i][1] - piece[i - 1][1]);
  return sum;
}

/** Outward normal (radial, up) at each profile point, from its neighbours. */
function profileNormals(piece: Profile): [number, number][] {
  return piece.map((_, i) => {
    const a = piece[Math.max(0, i - 1)];
    const b = piece[Math.min(piece.length - 1, i + 1)];
    return [b[1] - a[1], a[0] - b[0]];
  });
}

/** Smooth curve through the given profile points, with `pieces` between each two (Catmull-Rom). */
export function smoothProfile(points: Profile, pieces = 6): Profile {
  const out: Profile = [];
  const count = steps(pieces, 2);
  for (let i = 0; i + 1 < points.length; i += 1) {
    const [p0, p1, p2, p3] = [
      points[Math.max(0, i - 1)],
      points[i],
      points[i + 1],
      points[Math.min(points.length - 1, i + 2)],
    ];
    for (let s = 0; s < count; s += 1) {
      const t = s / count;
      out.push(
        [0, 1].map(
          (k) =>
            0.5 *
            (2 * p1[k] +
              (p2[k] - p0[k]) * t +
              (2 * p0[k] - 5 * p1[k] + 4 * p2[k] - p3[k]) * t * t +
              (3 * p1[k] - p0[k] - 3 * p2[k] + p3[k]) * t ** 3),
        ) as [number, number],
      );
    }
  }
  out.push(points[points.length - 1]);
  return out.map(([radius, height]) => [Math.max(0, radius), height]);
}

/** How a path becomes a tube. */
export interface TubeOptions {
  segments?: number;
  closed?: boolean;
  /** Length of one texture repeat along the tube. */
  lengthU?: number;
}

/** Sweeps a circle along a path; open ends are closed with n-gons. */
export function tube(
  name: string,
  wholePath: Vec3[],
  radius: number,
  { segments: wholeSegments = 12, closed = false, lengthU }: TubeOptions = {},
): PolygonMesh {
  const shape = new ShapeBuilder();
  const path = thinned(wholePath);
  const segments = steps(wholeSegments);
  const count = path.length;
  const frames = pathFrames(path, closed);
  const repeat = lengthU ?? radius * Math.PI * 2;
  let along = 0;
  const rings = frames.map(({ side, up }, i) => {
    if (i > 0) along += distance(path[i], path[i - 1]);
    return ring(shape, path[i], side, up, radius, segments, along / repeat);
  });
  if (closed) {
    along += distance(path[0], path[count - 1]);
    const turns = Math.round(along / repeat) || 1;
    rings.push({
      ...rings[0],
      uvs: Array.from({ length: segments + 1 }, (_, s) => shape.uv(turns, s / segments)),
    });
  }
  for (let i = 0; i + 1 < rings.length; i += 1) {
    for (let s = 0; s < segments; s += 1) {
      const next = (s + 1) % segments;
      const corner = (r: (typeof rings)[0], at: number, uv: number) => ({
        point: r.points[at],
        normal: r.normals[at],
        uv: r.uvs[uv],
      });
      shape.face([
        corner(rings[i], s, s),
        corner(rings[i + 1], s, s),
        corner(rings[i + 1], next, s + 1),
        corner(rings[i], next, s + 1),
      ]);
    }
  }
  if (!closed) {
    capEnd(shape, rings[0].points, minus(path[0], path[1]), false);
    capEnd(shape, rings[count - 1].points, minus(path[count - 1], path[count - 2]), true);
  }
  return shape.finish(name);
}

function ring(
  shape: ShapeBuilder,
  centre: Vec3,
  side: Vec3,
  up: Vec3,
  radius: number,
  segments: number,
  u: number,
) {
  const points: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  for (let s = 0; s <= segments; s += 1) {
    uvs.push(shape.uv(u, s / segments));
    if (s === segments) break;
    const angle = (s / segments) * Math.PI * 2;
    const n = [0, 1, 2].map((k) => side[k] * Math.cos(angle) + up[k] * Math.sin(angle)) as Vec3;
    normals.push(shape.normal(n));
    points.push(shape.point([0, 1, 2].map((k) => centre[k] + n[k] * radius) as Vec3));
  }
  return { points, normals, uvs };
}

function capEnd(shape: ShapeBuilder, points: number[], direction: Vec3, forward: boolean): void {
  const normal = shape.normal(direction);
  const corners = points.map((point, s) => {
    const angle = (s / points.length) * Math.PI * 2;
    return { point, normal, uv: shape.uv(0.5 + 0.5 * Math.cos(angle), 0.5 + 0.5 * Math.sin(angle)) };
  });
  shape.face(forward ? corners.reverse() : corners);
}

/** Frames carried along the path with as little twist as possible. */
function pathFrames(path: Vec3[], closed: boolean): { side: Vec3; up: Vec3 }[] {
  const count = path.length;
  const tangent = (i: number): Vec3 => {
    const before = closed ? path[(i - 1 + count) % count] : path[Math.max(0, i - 1)];
    const after = closed ? path[(i + 1) % count] : path[Math.min(count - 1, i + 1)];
    return unit(minus(after, before));
  };
  const first = tangent(0);
  let side = unit(cross(first, Math.abs(first[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]));
  return path.map((_, i) => {
    const t = tangent(i);
    side = unit(minus(side, scale(t, dot(side, t))));
    return { side, up: cross(side, t) };
  });
}

/** A box about a centre, every face with its own square of the texture, `metres` of it on the longer side. */
export function box(
  name: string,
  [wide, high, deep]: Vec3,
  [x, y, z]: Vec3 = [0, 0, 0],
  metres = 1,
): PolygonMesh {
  const shape = new ShapeBuilder();
  const corner = Array.from({ length: 8 }, (_, i) =>
    shape.point([
      x + (i & 1 ? 0.5 : -0.5) * wide,
      y + (i & 2 ? 0.5 : -0.5) * high,
      z + (i & 4 ? 0.5 : -0.5) * deep,
    ]),
  );
  const side = (normal: Vec3, points: number[], u: number, v: number) => {
    const n = shape.normal(normal);
    const uvs = [
      shape.uv(0, 0),
      shape.uv(u / metres, 0),
      shape.uv(u / metres, v / metres),
      shape.uv(0, v / metres),
    ];
    shape.face(points.map((point, i) => ({ point: corner[point], normal: n, uv: uvs[i] })));
  };
  side([0, 0, 1], [4, 5, 7, 6], wide, high);
  side([0, 0, -1], [1, 0, 2, 3], wide, high);
  side([1, 0, 0], [5, 1, 3, 7], deep, high);
  side([-1, 0, 0], [0, 4, 6, 2], deep, high);
  side([0, 1, 0], [6, 7, 3, 2], wide, deep);
  side([0, -1, 0], [0, 1, 5, 4], wide, deep);
  return shape.finish(name);
}

/** Points of a level circle about the y axis. */
export function circlePath(radius: number, height: number, count: number, centre: Vec3 = [0, 0, 0]): Vec3[] {
  return Array.from({ length: count }, (_, i) => {
    const angle = (i / count) * Math.PI * 2;
    return [centre[0] + radius * Math.sin(angle), centre[1] + height, centre[2] + radius * Math.cos(angle)];
  });
}

/** Moves and turns a mesh: Euler angle around Y in radians after the given function of each point. */
export function placed(
  mesh: PolygonMesh,
  move: (p: Vec3) => Vec3,
  turn: (n: Vec3) => Vec3 = (n) => n,
): PolygonMesh {
  const each = (values: ArrayLike<number>, f: (p: Vec3) => Vec3) => {
    const out = new Float64Array(values.length);
    for (let i = 0; i < values.length; i += 3) out.set(f([values[i], values[i + 1], values[i + 2]]), i);
    return out;
  };
  const normals = mesh.normals && { ...mesh.normals, values: each(mesh.normals.values, turn) };
  return { ...mesh, points: each(mesh.points, move), normals };
}

function minus(a: Vec3, b: Vec3): Vec3 {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
}
function scale(a: Vec3, s: number): Vec3 {
  return [a[0] * s, a[1] * s, a[2] * s];
}
function dot(a: Vec3, b: Vec3): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}
function cross(a: Vec3, b: Vec3): Vec3 {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}
function unit(a: Vec3): Vec3 {
  const length = Math.hypot(...a) || 1;
  return scale(a, 1 / length);
}
function distance(a: Vec3, b: Vec3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}
