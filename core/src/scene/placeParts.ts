import type { SceneNode, TransformParts, Vec3 } from './document.ts';
import { type Keyed, type Tools, withGeometry, withMotionIn } from './keyedDocument.ts';
import {
  identity,
  invertAffine,
  type Matrix4,
  multiply,
  partsOfMatrix,
  rotation,
  scaling,
  transformPoint,
  translation,
  worldMatrices,
} from './matrix.ts';
import type { Placement } from './partChange.ts';
import { shiftTransform } from './shift.ts';

/** What a placement does to what it is given, in a space of so many metres a unit. */
export function placementMatrix({ about, move, turn, scale }: Placement, metresPerUnit = 1): Matrix4 {
  const turned = multiply(rotation(turn), scaling([scale, scale, scale]));
  const from = translation(about.map((value) => -value / metresPerUnit) as Vec3);
  const to = translation(about.map((value, k) => (value + move[k]) / metresPerUnit) as Vec3);
  return multiply(to, multiply(turned, from));
}

/** The same place, turned and sized about another point of its own space than its origin. */
function aboutPivot(parts: TransformParts, local: Matrix4, pivot: Vec3): TransformParts {
  if (parts.matrix || pivot.every((value) => value === 0)) return parts;
  const place = transformPoint(local, ...pivot);
  return {
    ...parts,
    translation: place.map((value, k) => value - pivot[k]) as Vec3,
    rotationPivot: pivot,
    scalingPivot: pivot,
  };
}

/**
 * Parts stand elsewhere, with all that hangs on them and with their motion. Skinned parts stand where their
 * joints do, which is told.
 */
export function placeParts(
  { document, keys }: Keyed,
  parts: readonly number[],
  placement: Placement,
  { losses }: Tools,
): Keyed {
  const chosen = new Set(parts);
  const worlds = worldMatrices(document.nodes);
  const isBelowChosen = ({ parent }: SceneNode): boolean =>
    parent >= 0 && (chosen.has(parent) || isBelowChosen(document.nodes[parent]));
  const placed = placementMatrix(placement, document.metresPerUnit);
  const spaces = new Map<number, Matrix4>();
  for (const part of chosen) {
    const node = document.nodes[part];
    if (isBelowChosen(node)) continue;
    if (node.skin >= 0) {
      losses.push({ code: 'part.skinnedPlace', part: node.name });
      continue;
    }
    const above = worlds[node.parent] ?? identity();
    spaces.set(part, multiply(invertAffine(above), multiply(placed, above)));
  }
  const shifts = placement.scale === 1 && placement.turn.every((angle) => angle === 0);
  const nodes = document.nodes.map((node, i) => {
    const into = spaces.get(i);
    if (!into) return node;
    // What is only moved keeps its pivots and the order of its turns.
    if (shifts)
      return { ...node, transform: shiftTransform(node.transform, [-into[12], -into[13], -into[14]]) };
    const local = multiply(invertAffine(worlds[node.parent] ?? identity()), multiply(placed, worlds[i]));
    const transform = aboutPivot(partsOfMatrix(local), local, node.transform.rotationPivot);
    return { ...node, transform: withGeometry(transform, node.transform) };
  });
  return { document: { ...document, nodes, clips: withMotionIn(document, spaces, losses) }, keys };
}
