import type { PolygonMesh, SceneDocument, TransformParts, Vec3 } from '../scene/document.ts';
import {
  determinant3,
  geometricMatrix,
  localMatrix,
  type Matrix4,
  multiply,
  scaling,
  transformPoint,
  worldMatrices,
} from '../scene/matrix.ts';
import { type Bounds, measureParts } from '../scene/measure.ts';
import { CUTS, type CutBy } from '../scene/partChange.ts';
import { type Pieces, piecesOf } from '../scene/pieces.ts';
import type { ShapeFacts } from './shapeFacts.ts';

/** Where a node stands, in metres and the model's own axes. */
export interface PlacedPart {
  /** Of its own mesh; null without one. */
  bounds: Bounds | null;
  /** The point that it turns about. */
  pivot: Vec3;
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
  const bounds = measureParts(document, scaling([m, m, m]));
  return document.nodes.map((node, i) => {
    const pivot = pivotOf(node.transform);
    const world = node.parent < 0 ? pivot : transformPoint(worlds[node.parent], ...pivot);
    return {
      bounds: bounds[i],
      pivot: world.map((value) => value * m) as Vec3,
      flips: determinant3(localMatrix(node.transform)) < 0,
      mirrored: determinant3(worlds[i]) < 0,
      scale: scaleOf(multiply(worlds[i], geometricMatrix(node.transform))),
    };
  });
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

/** The point that a node's rotation leaves where it is, in its parent's space. */
function pivotOf({ matrix, translation, rotationOffset, rotationPivot }: TransformParts): Vec3 {
  if (matrix) return [matrix[12], matrix[13], matrix[14]];
  return [0, 1, 2].map((k) => translation[k] + rotationOffset[k] + rotationPivot[k]) as Vec3;
}
