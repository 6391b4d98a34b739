import { createMesh, type PolygonMesh, type Vec3 } from '../../scene/document.ts';
import { turnFaces } from '../../scene/reorient.ts';
import { normalised } from '../../scene/vectors.ts';
import type { ComposedPrim } from './compose.ts';
import { get, numberOf, textOf } from './values.ts';

/** Sides of what is round, and rings of a sphere: a chord is off by half a percent of the radius. */
const SIDES = 32;
const RINGS = 16;

/** A point of a profile: away from the axis and along it, with the surface's normal in the same two. */
interface ProfilePoint {
  radius: number;
  height: number;
  normal: readonly [number, number];
}

/** A profile that is turned about the axis; each run of points is smooth in itself, from bottom to top. */
type Profile = readonly ProfilePoint[][];

/** Shapes that UsdGeom states by a formula, with the fallbacks of its schema. */
const SHAPES: Record<string, (size: (name: string, fallback: number) => number) => PolygonMesh> = {
  Cube: (size) => boxMesh(size('size', 2) / 2),
  Sphere: (size) => turnedMesh([ballProfile(size('radius', 1), 0, [-90, 90])]),
  Cylinder: (size) => cylinder(size('height', 2), size('radius', 1), size('radius', 1)),
  Cylinder_1: (size) => cylinder(size('height', 2), size('radiusBottom', 1), size('radiusTop', 1)),
  Cone: (size) => cylinder(size('height', 2), size('radius', 1), 0),
  Capsule: (size) => capsule(size('height', 1), size('radius', 0.5), size('radius', 0.5)),
  Capsule_1: (size) => capsule(size('height', 1), size('radiusBottom', 0.5), size('radiusTop', 0.5)),
  Plane: (size) => planeMesh(size('width', 2) / 2, size('length', 2) / 2),
};

/** Where x, y and z of a shape about z go, by the axis that it stands along instead. */
const AXES: Record<string, readonly [number, number, number]> = { X: [1, 2, 0], Y: [2, 0, 1], Z: [0, 1, 2] };

/** Whether prims of this type state a body by a formula, which is carried as polygons. */
export function isSolidShape(typeName: string): boolean {
  return Object.hasOwn(SHAPES, typeName);
}

/**
 * The polygons of a Cube, Sphere, Cylinder, Cone, Capsule or Plane in the prim's own space, with normals and
 * without UVs, as the schemas of UsdGeom have them. The schema is the source of the fallbacks: a cube of side
 * 2, radius 1 (0.5 of capsules), height 2 (1), along Z.
 */
export function readSolidShape(prim: ComposedPrim, name: string): PolygonMesh {
  const size = (attribute: string, fallback: number) => Math.abs(numberOf(get(prim, attribute)) ?? fallback);
  const mesh = { ...SHAPES[prim.typeName](size), name };
  const order = AXES[textOf(get(prim, 'axis')) ?? 'Z'] ?? AXES.Z;
  const turned = prim.typeName === 'Plane' ? planeAlong(mesh, order) : along(mesh, order);
  return textOf(get(prim, 'orientation')) === 'leftHanded' ? turnFaces(turned) : turned;
}

function along(mesh: PolygonMesh, order: readonly number[]): PolygonMesh {
  return {
    ...mesh,
    points: permuted(mesh.points, order),
    normals: mesh.normals && { ...mesh.normals, values: permuted(mesh.normals.values, order) },
  };
}

/** A plane's width stays along x where it can: it lies along z only where the plane looks along x. */
function planeAlong(mesh: PolygonMesh, order: readonly number[]): PolygonMesh {
  if (order === AXES.Z) return mesh;
  const swapped = order === AXES.X ? [2, 1, 0] : [0, 2, 1];
  return turnFaces(along(mesh, swapped));
}

function permuted(values: ArrayLike<number>, order: readonly number[]): Float64Array {
  const out = new Float64Array(values.length);
  for (let i = 0; i < values.length; i += 3) for (let k = 0; k < 3; k += 1) out[i + order[k]] = values[i + k];
  return out;
}

function cylinder(height: number, bottom: number, top: number): PolygonMesh {
  const normal = [height, bottom - top] as const;
  return turnedMesh([
    [
      { radius: bottom, height: -height / 2, normal },
      { radius: top, height: height / 2, normal },
    ],
  ]);
}

/** The hull of two balls: their seams with the side lie where it touches both. */
function capsule(height: number, bottom: number, top: number): PolygonMesh {
  const slope = height > 0 ? Math.min(1, Math.max(-1, (bottom - top) / height)) : 0;
  const seam = (Math.asin(slope) * 180) / Math.PI;
  return turnedMesh([
    [...ballProfile(bottom, -height / 2, [-90, seam]), ...ballProfile(top, height / 2, [seam, 90])],
  ]);
}

/** Rings of a ball about a point of the axis, between two latitudes in degrees. */
function ballProfile(radius: number, centre: number, [from, to]: readonly [number, number]): ProfilePoint[] {
  const rings = Math.max(1, Math.round((RINGS * (to - from)) / 180));
  return Array.from({ length: rings + 1 }, (_, i) => {
    const latitude = ((from + ((to - from) * i) / rings) * Math.PI) / 180;
    const pole = (i === 0 && from === -90) || (i === rings && to === 90);
    const normal = [pole ? 0 : Math.cos(latitude), Math.sin(latitude)] as const;
    return { radius: radius * normal[0], height: centre + radius * normal[1], normal };
  });
}

/** Turns a profile about z. An end that does not reach the axis is closed by a flat face. */
function turnedMesh(profile: Profile): PolygonMesh {
  const out = new ShapeBuilder();
  for (const run of profile) {
    const rings = run.map((point) => out.ring(point));
    for (let i = 1; i < run.length; i += 1) out.band([run[i - 1], run[i]], [rings[i - 1], rings[i]]);
    if (run[0].radius > 0) out.face([...rings[0]].reverse(), () => [0, 0, -1]);
    if (run[run.length - 1].radius > 0) out.face(rings[run.length - 1], () => [0, 0, 1]);
  }
  return out.mesh();
}

/** A box about the origin; `half` is half its side. */
function boxMesh(half: number): PolygonMesh {
  const out = new ShapeBuilder();
  const corner = Array.from({ length: 8 }, (_, i) =>
    out.point([i & 1 ? half : -half, i & 2 ? half : -half, i & 4 ? half : -half]),
  );
  for (let axis = 0; axis < 3; axis += 1) {
    const [u, v] = [1 << ((axis + 1) % 3), 1 << ((axis + 2) % 3)];
    for (const side of [0, 1]) {
      const base = side << axis;
      const loop = [base, base | u, base | u | v, base | v].map((i) => corner[i]);
      const normal: Vec3 = [0, 0, 0];
      normal[axis] = side === 1 ? 1 : -1;
      out.face(side === 1 ? loop : loop.reverse(), () => normal);
    }
  }
  return out.mesh();
}

function planeMesh(halfWidth: number, halfLength: number): PolygonMesh {
  const out = new ShapeBuilder();
  const corners = [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([x, y]) => out.point([x * halfWidth, y * halfLength, 0]));
  out.face(corners, () => [0, 0, 1]);
  return out.mesh();
}

class ShapeBuilder {
  private readonly points: number[] = [];
  private readonly counts: number[] = [];
  private readonly corners: number[] = [];
  private readonly normals: number[] = [];

  point(place: Vec3): number {
    return this.points.push(...place) / 3 - 1;
  }

  /** Points of a ring counter-clockwise seen from above; one point where it lies on the axis. */
  ring({ radius, height }: ProfilePoint): number[] {
    if (radius === 0) return [this.point([0, 0, height])];
    return Array.from({ length: SIDES }, (_, i) => {
      const angle = (i / SIDES) * Math.PI * 2;
      return this.point([radius * Math.cos(angle), radius * Math.sin(angle), height]);
    });
  }

  /** Faces between two rings, the lower one first. */
  band([low, high]: readonly ProfilePoint[], [below, above]: readonly number[][]): void {
    if (below.length === 1 && above.length === 1) return;
    const round = (point: ProfilePoint, step: number): Vec3 => {
      const angle = (step / SIDES) * Math.PI * 2;
      const [away, up] = point.normal;
      return normalised([away * Math.cos(angle), away * Math.sin(angle), up]);
    };
    for (let i = 0; i < SIDES; i += 1) {
      const next = (i + 1) % SIDES;
      if (above.length === 1)
        this.face([below[i], below[next], above[0]], (k) =>
          k === 2 ? round(high, i + 0.5) : round(low, i + k),
        );
      else if (below.length === 1)
        this.face([below[0], above[next], above[i]], (k) =>
          k === 0 ? round(low, i + 0.5) : round(high, i + 2 - k),
        );
      else
        this.face([below[i], below[next], above[next], above[i]], (k) =>
          k < 2 ? round(low, i + k) : round(high, i + 3 - k),
        );
    }
  }

  face(corners: readonly number[], normal: (corner: number) => readonly number[]): void {
    this.counts.push(corners.length);
    this.corners.push(...corners);
    for (let i = 0; i < corners.length; i += 1) this.normals.push(...normal(i));
  }

  mesh(): PolygonMesh {
    return createMesh('', {
      points: Float64Array.from(this.points),
      faceCounts: Uint32Array.from(this.counts),
      faceCorners: Uint32Array.from(this.corners),
      normals: {
        name: 'normal',
        size: 3,
        domain: 'corner',
        values: Float64Array.from(this.normals),
        index: null,
      },
    });
  }
}
