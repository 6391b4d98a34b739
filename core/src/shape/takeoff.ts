import type { PolygonMesh, SceneDocument } from '../scene/document.ts';
import {
  determinant3,
  geometricMatrix,
  type Matrix4,
  multiply,
  scaling,
  worldMatrices,
} from '../scene/matrix.ts';
import { placesOf } from '../scene/solids.ts';
import { subMesh } from '../scene/submesh.ts';
import { triangulate } from '../scene/triangulate.ts';
import { cross } from '../scene/vectors.ts';
import { measureShape } from './shapeFacts.ts';

/** What one part needs of one material. */
export interface TakeoffRow {
  part: string;
  material: string;
  faces: number;
  /** Square metres. */
  area: number;
  /** Cubic metres; null where the faces do not close a body. */
  volume: number | null;
}

/**
 * Areas and volumes by part and material, in metres. Only faces that close bodies have a volume: every edge is
 * passed once each way. It is that of all bodies, whichever way each looks, less what lies within inner walls.
 * Of a part with several materials, each one's faces are asked by themselves.
 */
export function takeOff(document: SceneDocument): TakeoffRow[] {
  const m = document.metresPerUnit;
  const worlds = worldMatrices(document.nodes);
  // What many parts show is measured once.
  const volumes = document.meshes.map(() => new Map<number, number>());
  return document.nodes.flatMap((node, i) => {
    if (node.mesh < 0) return [];
    const world = multiply(scaling([m, m, m]), multiply(worlds[i], geometricMatrix(node.transform)));
    const names = new Map(
      [...new Set(document.meshes[node.mesh].faceMaterial ?? [0])].map((slot) => [
        slot,
        document.materials[node.materials[slot]]?.name ?? '',
      ]),
    );
    return measure(document.meshes[node.mesh], world, volumes[node.mesh]).map(({ slot, ...row }) => ({
      part: node.name,
      material: names.get(slot) ?? '',
      ...row,
    }));
  });
}

/** `volumes` has those by slot that are known already, in the mesh's own space. */
function measure(
  mesh: PolygonMesh,
  world: Matrix4,
  volumes: Map<number, number>,
): { slot: number; faces: number; area: number; volume: number | null }[] {
  const points = placed(mesh.points, world);
  const places = placesOf(mesh.points);
  const { corners, faces } = triangulate(mesh);
  const bySlot = new Map<number, { faces: Set<number>; area: number; edges: Map<number, number> }>();
  for (let t = 0; t < faces.length; t += 1) {
    const slot = mesh.faceMaterial?.[faces[t]] ?? 0;
    let sum = bySlot.get(slot);
    if (!sum) {
      sum = { faces: new Set(), area: 0, edges: new Map() };
      bySlot.set(slot, sum);
    }
    sum.faces.add(faces[t]);
    const place = [0, 1, 2].map((k) => places[mesh.faceCorners[corners[t * 3 + k]]]);
    const [a, b, c] = place.map((point) => [points[point * 3], points[point * 3 + 1], points[point * 3 + 2]]);
    const normal = cross(
      b.map((value, k) => value - a[k]),
      c.map((value, k) => value - a[k]),
    );
    sum.area += Math.hypot(...normal) / 2;
    for (const k of [0, 1, 2]) countEdge(sum.edges, place[k], place[(k + 1) % 3], places.length);
  }
  const volumeOf = (slot: number, used: ReadonlySet<number>) => {
    const volume = volumes.get(slot) ?? measureShape(facesAlone(mesh, used)).volume ?? 0;
    volumes.set(slot, volume);
    // A transform changes every volume by the same factor.
    return volume * Math.abs(determinant3(world));
  };
  return [...bySlot.entries()]
    .sort(([a], [b]) => a - b)
    .map(([slot, { faces: used, area, edges }]) => ({
      slot,
      faces: used.size,
      area,
      volume: edges.size === 0 ? volumeOf(slot, used) : null,
    }));
}

function facesAlone(mesh: PolygonMesh, faces: ReadonlySet<number>): PolygonMesh {
  const { faceCounts, name } = mesh;
  if (faces.size === faceCounts.length) return mesh;
  return subMesh(
    mesh,
    Uint8Array.from(faceCounts, (_, face) => (faces.has(face) ? 1 : 0)),
    name,
  );
}

/** An edge that is passed once each way goes out again; what is left is a hole or a crease. */
function countEdge(edges: Map<number, number>, from: number, to: number, points: number): void {
  if (from === to) return;
  const [there, back] = [from * points + to, to * points + from];
  const open = edges.get(back) ?? 0;
  if (open > 1) edges.set(back, open - 1);
  else if (open === 1) edges.delete(back);
  else edges.set(there, (edges.get(there) ?? 0) + 1);
}

function placed(points: ArrayLike<number>, m: Matrix4): Float64Array {
  const out = new Float64Array(points.length);
  for (let i = 0; i + 2 < points.length; i += 3) {
    for (let row = 0; row < 3; row += 1)
      out[i + row] =
        m[row] * points[i] + m[4 + row] * points[i + 1] + m[8 + row] * points[i + 2] + m[12 + row];
  }
  return out;
}
