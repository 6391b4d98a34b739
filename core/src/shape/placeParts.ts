import { once } from '../remember.ts';
import type { PolygonMesh, SceneDocument, SceneNode, Vec3 } from '../scene/document.ts';
import {
  determinant3,
  geometricMatrix,
  localMatrix,
  type Matrix4,
  multiply,
  pivotOf,
  scaling,
  transformPoint,
  worldMatrices,
} from '../scene/matrix.ts';
import { type Bounds, boundsIn, measureParts } from '../scene/measure.ts';
import { isIdentity } from '../scene/movePivot.ts';
import { CUTS, type CutBy } from '../scene/partChange.ts';
import { type Pieces, piecesOf } from '../scene/pieces.ts';
import type { ShapeFacts } from './shapeFacts.ts';

/** Where a node stands, in metres and the model's own axes. */
export interface PlacedPart {
  /** Of its own mesh; null without one. */
  bounds: Bounds | null;
  /** The point that it turns about. */
  pivot: Vec3;
  /**
   * Its own space, three axes and where it begins, and what its mesh reaches in it; null where that space is
   * the world's, moved to the pivot.
   */
  frame: number[] | null;
  box: Bounds | null;
  /** Whether its own transform mirrors, and whether it stands mirrored in the scene. */
  flips: boolean;
  mirrored: boolean;
  /** How large its mesh is shown along its own axes. */
  scale: Vec3;
}

/** Where each node of a document stands, in metres and the document's own axes. */
export function placeParts(document: SceneDocument): PlacedPart[] {
  const m = document.metresPerUnit;
  const worlds = worldMatrices(document.nodes);
  const metres = scaling([m, m, m]);
  const bounds = measureParts(document, metres);
  const reach = document.meshes.map((mesh) => once(() => boundsIn(mesh, metres)));
  const boxOf = ({ mesh, transform }: SceneNode) => {
    if (mesh < 0) return null;
    const offset = geometricMatrix(transform);
    return isIdentity(offset) ? reach[mesh]() : boundsIn(document.meshes[mesh], multiply(metres, offset));
  };
  return document.nodes.map((node, i) => {
    const own = pivotOf(node.transform);
    const world = node.parent < 0 ? own : transformPoint(worlds[node.parent], ...own);
    const pivot = world.map((value) => value * m) as Vec3;
    const frame = frameOf(worlds[i], pivot, m);
    return {
      bounds: bounds[i],
      pivot,
      frame,
      box: frame && boxOf(node),
      flips: determinant3(localMatrix(node.transform)) < 0,
      mirrored: determinant3(worlds[i]) < 0,
      scale: scaleOf(multiply(worlds[i], geometricMatrix(node.transform))),
    };
  });
}

function frameOf(world: Matrix4, pivot: Vec3, metres: number): number[] | null {
  const axes = [0, 1, 2, 4, 5, 6, 8, 9, 10].map((index) => world[index]);
  const begin = [12, 13, 14].map((index) => world[index] * metres);
  const reach = Math.max(...begin.map(Math.abs), 1e-9);
  const isPlain =
    axes.every((value, k) => Math.abs(value - (k % 4 === 0 ? 1 : 0)) < 1e-9) &&
    begin.every((value, k) => Math.abs(value - pivot[k]) < reach * 1e-9);
  return isPlain ? null : [...axes, ...begin].map((value) => Number(value.toPrecision(9)));
}

function scaleOf(m: Matrix4): Vec3 {
  return [0, 4, 8].map((start) =>
    Number(Math.hypot(m[start], m[start + 1], m[start + 2]).toPrecision(6)),
  ) as Vec3;
}

/** Bounds of the pieces of a node's mesh where it falls apart, as the bounds of parts are told. */
export type PlacedPieces = Partial<Record<CutBy, Bounds[]>>;

/** Of every node, the bounds of the pieces that the facts of its mesh list. */
export function placePieces(document: SceneDocument, facts: readonly ShapeFacts[]): PlacedPieces[] {
  const m = document.metresPerUnit;
  const worlds = worldMatrices(document.nodes);
  const fallen = new Map<string, Pieces>();
  return document.nodes.map(({ mesh, transform }, i) => {
    const placed: PlacedPieces = {};
    for (const by of CUTS) {
      const listed = facts[mesh]?.pieces?.[by];
      if (!Array.isArray(listed) || listed.length === 0) continue;
      const pieces = fallen.get(`${mesh} ${by}`) ?? piecesOf(document.meshes[mesh], by);
      fallen.set(`${mesh} ${by}`, pieces);
      placed[by] = boundsOfPieces(
        document.meshes[mesh],
        pieces,
        multiply(scaling([m, m, m]), multiply(worlds[i], geometricMatrix(transform))),
      );
    }
    return placed;
  });
}

function boundsOfPieces(
  { points, faceCounts, faceCorners }: PolygonMesh,
  { piece, count }: Pieces,
  world: Matrix4,
): Bounds[] {
  const all = Array.from(
    { length: count },
    (): Bounds => ({ min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] }),
  );
  let corner = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const { min, max } = all[piece[face]];
    for (const end = corner + faceCounts[face]; corner < end; corner += 1) {
      const point = faceCorners[corner] * 3;
      const place = transformPoint(world, points[point], points[point + 1], points[point + 2]);
      for (let k = 0; k < 3; k += 1) {
        min[k] = Math.min(min[k], place[k]);
        max[k] = Math.max(max[k], place[k]);
      }
    }
  }
  return all;
}
