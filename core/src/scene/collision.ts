import { Vector3 } from 'three';
import { ConvexHull } from 'three/addons/math/ConvexHull.js';
import { createMesh, createNode, type PolygonMesh, type SceneDocument } from './document.ts';
import type { CollisionShape } from './partChange.ts';

/** Whether any part gets a shape: by what the destination wants, or by what was chosen for the part. */
export function wantsCollision({ nodes }: SceneDocument, shape: CollisionShape): boolean {
  return nodes.some((node) => node.mesh >= 0 && (node.collision ?? shape) !== 'none');
}

/**
 * Adds a shape for collision under every part: its box, its convex hull or the part's own faces; what was chosen for a part
 * comes before what all get. As a child it follows whatever scale the part is given later. Parts that share a mesh share
 * the shape. It has no material.
 */
export function addCollision(document: SceneDocument, common: CollisionShape, nameOf: (part: string) => string): SceneDocument {
  const meshes = [...document.meshes];
  const made = new Map<string, number>();
  const nodes = [...document.nodes];
  document.nodes.forEach((node, i) => {
    const shape = node.collision ?? common;
    if (node.mesh < 0 || shape === 'none') return;
    const name = nameOf(node.name);
    let place = made.get(`${node.mesh} ${shape}`);
    if (place === undefined) {
      const solid = shapeOf(document.meshes[node.mesh], shape, name);
      if (!solid) return;
      place = meshes.push(solid) - 1;
      made.set(`${node.mesh} ${shape}`, place);
    }
    const { geometricTranslation, geometricRotation, geometricScale } = node.transform;
    const added = createNode(name, 'mesh', i, { mesh: place });
    Object.assign(added.transform, { geometricTranslation, geometricRotation, geometricScale });
    nodes.push(added);
  });
  return { ...document, nodes, meshes };
}

/** Null where there is nothing to stand in for. */
function shapeOf(mesh: PolygonMesh, shape: 'box' | 'hull' | 'mesh', name: string): PolygonMesh | null {
  if (mesh.faceCounts.length === 0) return null;
  if (shape === 'mesh') return createMesh(name, { points: mesh.points, faceCounts: mesh.faceCounts, faceCorners: mesh.faceCorners });
  return shape === 'box' ? boxOf(mesh.points, name) : hullOf(mesh.points, name);
}

/** Corner i lies at the far side of axis k where bit k of i is set. */
const BOX_FACES = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
];

function boxOf(points: ArrayLike<number>, name: string): PolygonMesh {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 1) {
    min[i % 3] = Math.min(min[i % 3], points[i]);
    max[i % 3] = Math.max(max[i % 3], points[i]);
  }
  const corners = Array.from({ length: 8 }, (_, i) => [0, 1, 2].map((axis) => ((i >> axis) & 1 ? max : min)[axis])).flat();
  return createMesh(name, { points: Float64Array.from(corners), faceCounts: new Uint32Array(6).fill(4), faceCorners: Uint32Array.from(BOX_FACES.flat()) });
}

/** Quickhull. A part that is flat has no hull and gets its box. */
function hullOf(points: ArrayLike<number>, name: string): PolygonMesh {
  const places = Array.from({ length: points.length / 3 }, (_, i) => new Vector3(points[i * 3], points[i * 3 + 1], points[i * 3 + 2]));
  const hull = new ConvexHull().setFromPoints(places);
  const numbers = new Map<Vector3, number>();
  const corners: number[] = [];
  for (const face of hull.faces) {
    let edge = face.edge;
    do {
      const { point } = edge.head();
      if (!numbers.has(point)) numbers.set(point, numbers.size);
      corners.push(numbers.get(point) as number);
      edge = edge.next;
    } while (edge !== face.edge);
  }
  if (corners.length < 12) return boxOf(points, name);
  const flat = [...numbers.keys()].flatMap(({ x, y, z }) => [x, y, z]);
  return createMesh(name, { points: Float64Array.from(flat), faceCounts: new Uint32Array(corners.length / 3).fill(3), faceCorners: Uint32Array.from(corners) });
}
