import type { SceneNode, TransformParts, Vec3 } from './document.ts';
import { eulerOf, geometricMatrix, invertAffine, localMatrix, type Matrix4, multiply, partsOfMatrix, rotation } from './matrix.ts';

/**
 * The transforms of nodes where what has a camera or a light is turned about itself (local' = local * turn). What hangs
 * on it, and its own mesh, stay where they are.
 */
export function turnViews(nodes: readonly SceneNode[], turnOf: (node: SceneNode) => Matrix4 | null): TransformParts[] {
  const out = nodes.map((node) => node.transform);
  nodes.forEach((node, index) => {
    const turn = node.camera >= 0 || node.light >= 0 ? turnOf(node) : null;
    if (!turn) return;
    const back = invertAffine(turn);
    out[index] = turned(out[index], turn);
    if (node.mesh >= 0) {
      const { translation, rotation: angles, scale } = partsOfMatrix(multiply(back, geometricMatrix(out[index])));
      Object.assign(out[index], { geometricTranslation: translation, geometricRotation: angles, geometricScale: scale });
    }
    nodes.forEach((child, i) => {
      if (child.parent !== index) return;
      const { geometricTranslation, geometricRotation, geometricScale, inherit } = out[i];
      out[i] = { ...partsOfMatrix(multiply(back, localMatrix(out[i]))), geometricTranslation, geometricRotation, geometricScale, inherit };
    });
  });
  return out;
}

/**
 * The turn goes into the post-rotation, so that animated rotations stay what they are; where an uneven scale stands after
 * it, all parts are worked out anew.
 */
function turned(t: TransformParts, turn: Matrix4): TransformParts {
  const [x, y, z] = t.scale;
  const uniform = Math.max(Math.abs(x - y), Math.abs(y - z)) <= 1e-6 * Math.abs(x);
  if (t.matrix || !uniform || t.scalingPivot.some((part) => part !== 0)) {
    const { geometricTranslation, geometricRotation, geometricScale, inherit } = t;
    return { ...partsOfMatrix(multiply(localMatrix(t), turn)), geometricTranslation, geometricRotation, geometricScale, inherit };
  }
  // R * post^-1 * turn = R * (turn^-1 * post)^-1
  const post = multiply(invertAffine(turn), rotation(t.postRotation));
  return { ...t, postRotation: eulerOf(post).map((angle) => (Math.abs(angle) < 1e-9 ? 0 : angle)) as Vec3 };
}
