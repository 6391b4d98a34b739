import type { SceneDocument, TransformParts, Vec3 } from '../scene/document.ts';
import { determinant3, localMatrix, scaling, transformPoint, worldMatrices } from '../scene/matrix.ts';
import { type Bounds, measureParts } from '../scene/measure.ts';

/** Where a node stands, in metres and the model's own axes. */
export interface PlacedPart {
  /** Of its own mesh; null without one. */
  bounds: Bounds | null;
  /** The point that it turns about. */
  pivot: Vec3;
  /** Whether its own transform mirrors, and whether it stands mirrored in the scene. */
  flips: boolean;
  mirrored: boolean;
}

export function placeParts(document: SceneDocument): PlacedPart[] {
  const m = document.metresPerUnit;
  const worlds = worldMatrices(document.nodes);
  const bounds = measureParts(document, scaling([m, m, m]));
  return document.nodes.map((node, i) => {
    const own = pivotOf(node.transform);
    const world = node.parent < 0 ? own : transformPoint(worlds[node.parent], ...own);
    return {
      bounds: bounds[i],
      pivot: world.map((value) => value * m) as Vec3,
      flips: determinant3(localMatrix(node.transform)) < 0,
      mirrored: determinant3(worlds[i]) < 0,
    };
  });
}

/** The point that a node's rotation leaves where it is, in its parent's space. */
function pivotOf({ matrix, translation, rotationOffset, rotationPivot }: TransformParts): Vec3 {
  if (matrix) return [matrix[12], matrix[13], matrix[14]];
  return [0, 1, 2].map((k) => translation[k] + rotationOffset[k] + rotationPivot[k]) as Vec3;
}
