import type { PolygonMesh, SceneDocument } from './document.ts';
import { geometricMatrix, type Matrix4, multiply, scaling, worldMatrices } from './matrix.ts';

/** How much a document holds. */
export interface Counts {
  nodes: number;
  meshes: number;
  polygons: number;
  triangles: number;
  points: number;
  /** What stands in the scene: a mesh in three places counts three times. */
  placedPolygons: number;
  placedTriangles: number;
  materials: number;
  maps: number;
  cameras: number;
  lights: number;
  clips: number;
  skins: number;
}

/** A box along the axes. */
export interface Bounds {
  min: [number, number, number];
  max: [number, number, number];
}

/**
 * What the document holds. Polygons, triangles and points count every mesh once, however often nodes use it.
 */
export function countDocument(document: SceneDocument): Counts {
  let polygons = 0;
  let triangles = 0;
  let points = 0;
  for (const mesh of document.meshes) {
    polygons += mesh.faceCounts.length;
    points += mesh.points.length / 3;
    triangles += mesh.faceCorners.length - 2 * mesh.faceCounts.length;
  }
  let placedPolygons = 0;
  let placedTriangles = 0;
  for (const { mesh } of document.nodes) {
    if (mesh < 0) continue;
    const { faceCounts, faceCorners } = document.meshes[mesh];
    placedPolygons += faceCounts.length;
    placedTriangles += faceCorners.length - 2 * faceCounts.length;
  }
  const ofKind = (kind: string) => document.nodes.filter((node) => node.kind === kind).length;
  return {
    nodes: document.nodes.length,
    meshes: document.meshes.length,
    polygons,
    triangles,
    points,
    placedPolygons,
    placedTriangles,
    materials: document.materials.length,
    maps: document.images.length,
    cameras: ofKind('camera'),
    lights: ofKind('light'),
    clips: document.clips.length,
    skins: document.skins.length,
  };
}

/** World-space bounds in metres, in the document's own axes; null without geometry. */
export function measureBounds(document: SceneDocument): Bounds | null {
  const m = document.metresPerUnit;
  return measureBoundsIn(document, scaling([m, m, m]));
}

/** Bounds after a further transform, for instance into Y-up metres; null without geometry. */
export function measureBoundsIn(document: SceneDocument, into: Matrix4): Bounds | null {
  return mergeBounds(measureParts(document, into));
}

/** The bounds of every node's own mesh, in the same order; null where it has none, or no face. */
export function measureParts(document: SceneDocument, into: Matrix4): (Bounds | null)[] {
  const worlds = worldMatrices(document.nodes);
  return document.nodes.map((node, index) => {
    if (node.mesh < 0) return null;
    const world = multiply(worlds[index], geometricMatrix(node.transform));
    return boundsIn(document.meshes[node.mesh], multiply(into, world));
  });
}

/** What a mesh reaches after a transform; null without faces. */
export function boundsIn(mesh: PolygonMesh, into: Matrix4): Bounds | null {
  const min: Bounds['min'] = [Infinity, Infinity, Infinity];
  const max: Bounds['max'] = [-Infinity, -Infinity, -Infinity];
  growBounds(min, max, shownPoints(mesh), into);
  return min[0] <= max[0] ? { min, max } : null;
}

/** The bounds of all; null where none has any. */
export function mergeBounds(all: readonly (Bounds | null)[]): Bounds | null {
  const some = all.filter((bounds) => bounds !== null);
  if (some.length === 0) return null;
  const outermost = (side: 'min' | 'max', pick: (a: number, b: number) => number) =>
    some
      .map((bounds) => bounds[side])
      .reduce<Bounds['min']>((a, b) => [pick(a[0], b[0]), pick(a[1], b[1]), pick(a[2], b[2])], some[0][side]);
  return { min: outermost('min', Math.min), max: outermost('max', Math.max) };
}

/** By the corners that they were asked for. */
const shownOf = new WeakMap<Uint32Array, Record<'points' | 'shown', PolygonMesh['points']>>();

/** The points that faces have corners at: a stray one far away is no part of what is shown. */
export function shownPoints({
  points,
  faceCorners,
}: Pick<PolygonMesh, 'points' | 'faceCorners'>): PolygonMesh['points'] {
  const before = shownOf.get(faceCorners);
  if (before?.points === points) return before.shown;
  const count = points.length / 3;
  const used = new Uint8Array(count);
  let reached = 0;
  for (let i = 0; i < faceCorners.length && reached < count; i += 1) {
    if (used[faceCorners[i]] !== 0) continue;
    used[faceCorners[i]] = 1;
    reached += 1;
  }
  const shown = reached === count ? points : points.filter((_, i) => used[Math.floor(i / 3)] !== 0);
  shownOf.set(faceCorners, { points, shown });
  return shown;
}

function growBounds(min: Bounds['min'], max: Bounds['max'], points: ArrayLike<number>, m: Matrix4): void {
  for (let i = 0; i + 2 < points.length; i += 3) {
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    for (let row = 0; row < 3; row += 1) {
      const value = m[row] * x + m[4 + row] * y + m[8 + row] * z + m[12 + row];
      if (value < min[row]) min[row] = value;
      if (value > max[row]) max[row] = value;
    }
  }
}
