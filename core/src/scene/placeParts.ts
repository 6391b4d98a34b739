import type { SceneNode, Vec3 } from './document.ts';
import { inSpace, type Keyed, movedNodes, type Tools, withMotionIn } from './keyedDocument.ts';
import {
  identity,
  invertAffine,
  type Matrix4,
  multiply,
  rotation,
  scaling,
  translation,
  worldMatrices,
} from './matrix.ts';
import type { Placement } from './partChange.ts';

/** What a placement does to what it is given, in a space of so many metres a unit. */
export function placementMatrix({ about, move, turn, scale }: Placement, metresPerUnit = 1): Matrix4 {
  const turned = multiply(rotation(turn), scaling([scale, scale, scale]));
  const from = translation(about.map((value) => -value / metresPerUnit) as Vec3);
  const to = translation(about.map((value, k) => (value + move[k]) / metresPerUnit) as Vec3);
  return multiply(to, multiply(turned, from));
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
  const moving = movedNodes(document);
  const nodes = document.nodes.map((node, i) => {
    const into = spaces.get(i);
    return into ? { ...node, transform: inSpace(node.transform, into, moving.has(i)) } : node;
  });
  return { document: { ...document, nodes, clips: withMotionIn(document, spaces, losses) }, keys };
}
