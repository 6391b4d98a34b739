import {
  identityTransform,
  type SceneDocument,
  type SceneNode,
  type TransformParts,
  type Vec3,
} from './document.ts';
import {
  type BalanceOf,
  inSpace,
  type Keyed,
  movedNodes,
  type Tools,
  withMeshes,
  withMotionIn,
} from './keyedDocument.ts';

import {
  geometricMatrix,
  invertAffine,
  localMatrix,
  type Matrix4,
  multiply,
  transformPoint,
  worldMatrices,
} from './matrix.ts';
import type { PartChange } from './partChange.ts';
import { bakeMesh } from './reorient.ts';
import { shiftKeys, shiftTransform } from './shift.ts';

/**
 * Moves the point that a part turns about; nothing that is seen moves. Geometry is moved by the offset that
 * the format has for it, so that parts which share a mesh still do. Turns in clips go about the new point,
 * which is told.
 */
export function movePivot(
  { document, keys }: Keyed,
  index: number,
  at: Extract<PartChange, { do: 'pivot' }>['at'],
  { losses, balanceOf }: Tools,
): Keyed {
  const node = document.nodes[index];
  if (node.skin >= 0) {
    losses.push({ code: 'part.skinnedPivot', part: node.name });
    return { document, keys };
  }
  const worlds = worldMatrices(document.nodes);
  const target = pivotTarget(document, worlds, { index, at }, balanceOf);
  if (!target?.every(Number.isFinite)) return { document, keys };
  const offset = transformPoint(invertAffine(worlds[index]), ...target);
  if (offset.every((value) => Math.abs(value) < 1e-12)) return { document, keys };
  const moved = transformPoint(localMatrix(node.transform), ...offset);
  const ownTracks = document.clips.flatMap(({ tracks }) => tracks.filter((track) => track.node === index));
  if (ownTracks.some(({ path }) => path !== 'weights' && path !== 'visible'))
    losses.push({ code: 'part.pivotMotion', part: node.name });
  const before = localMatrix(node.transform);
  const back = [0, 1, 2].map((k) => before[12 + k] - moved[k]) as Vec3;
  const nodes = document.nodes.map((other, i): SceneNode => {
    if (i === index) return { ...other, transform: standingAt(other.transform, moved, offset) };
    return other.parent === index ? { ...other, transform: shiftTransform(other.transform, offset) } : other;
  });
  const clips = document.clips.map((clip) => ({
    ...clip,
    tracks: clip.tracks.map((track) => {
      if (track.path !== 'translation') return track;
      if (track.node === index) return shiftKeys(track, back);
      return document.nodes[track.node].parent === index ? shiftKeys(track, offset) : track;
    }),
  }));
  return { document: { ...document, nodes, clips }, keys };
}

/** In world space and document units; null where there is nothing to take it from. */
function pivotTarget(
  document: SceneDocument,
  worlds: readonly Matrix4[],
  { index, at }: { index: number; at: Extract<PartChange, { do: 'pivot' }>['at'] },
  balanceOf: BalanceOf,
): Vec3 | null {
  if (typeof at !== 'string') return at.map((value) => value / document.metresPerUnit) as Vec3;
  if (at === 'origin') return [0, 0, 0];
  const below = document.nodes.flatMap(({ mesh }, i) =>
    mesh >= 0 && (i === index || isBelow(document, i, index)) ? [i] : [],
  );
  const standing = (i: number) => multiply(worlds[i], geometricMatrix(document.nodes[i].transform));
  if (at === 'balance') {
    const { mesh } = document.nodes[index];
    const local = mesh >= 0 ? balanceOf(document.meshes[mesh]) : null;
    if (local) return transformPoint(standing(index), ...local);
  }
  const min: Vec3 = [Infinity, Infinity, Infinity];
  const max: Vec3 = [-Infinity, -Infinity, -Infinity];
  for (const i of below) {
    const { points } = document.meshes[document.nodes[i].mesh];
    const world = standing(i);
    for (let p = 0; p < points.length; p += 3) {
      const place = transformPoint(world, points[p], points[p + 1], points[p + 2]);
      for (let k = 0; k < 3; k += 1) {
        min[k] = Math.min(min[k], place[k]);
        max[k] = Math.max(max[k], place[k]);
      }
    }
  }
  if (min[0] > max[0]) return null;
  const middle = [0, 1, 2].map((k) => (min[k] + max[k]) / 2) as Vec3;
  const { axis, sign } = document.axes.up;
  if (at === 'bottom') middle[axis] = sign > 0 ? min[axis] : max[axis];
  return middle;
}

function isBelow({ nodes }: SceneDocument, index: number, top: number): boolean {
  for (let parent = nodes[index].parent; parent >= 0; parent = nodes[parent].parent)
    if (parent === top) return true;
  return false;
}

/**
 * The transform about another point of its own space: turned and sized as before, its geometry moved back.
 */
function standingAt(transform: TransformParts, place: Vec3, offset: Vec3): TransformParts {
  const geometricTranslation = transform.geometricTranslation.map((value, k) => value - offset[k]) as Vec3;
  if (transform.matrix) {
    const matrix = transform.matrix.slice();
    matrix.set(place, 12);
    return { ...transform, matrix, geometricTranslation };
  }
  const pivots = {
    rotationPivot: zero(),
    rotationOffset: zero(),
    scalingPivot: zero(),
    scalingOffset: zero(),
  };
  return { ...transform, ...pivots, translation: place, geometricTranslation };
}

/**
 * Placement goes into the points; children stay where they are. A mirrored part's faces turn round, so that
 * it is none.
 */
export function applyTransform({ document, keys }: Keyed, index: number, { losses }: Tools): Keyed {
  const node = document.nodes[index];
  const local = localMatrix(node.transform);
  const moved = movedNodes(document);
  if (node.skin >= 0 || moved.has(index)) {
    losses.push({ code: 'part.notApplied', part: node.name });
    return { document, keys };
  }
  const baked = multiply(local, geometricMatrix(node.transform));
  const nodes = document.nodes.map((other, i): SceneNode => {
    if (i === index) return { ...other, transform: identityTransform() };
    if (other.parent !== index) return other;
    return { ...other, transform: inSpace(other.transform, local, moved.has(i)) };
  });
  const below = document.nodes.flatMap(({ parent }, i) => (parent === index ? [[i, local] as const] : []));
  const clips = withMotionIn(document, new Map(below), losses);
  const placed = { document: { ...document, nodes, clips }, keys };
  return node.mesh < 0 ? placed : withMeshes(placed, [index], (mesh) => bakeMesh(mesh, baked));
}

/** Whether a matrix moves nothing, but for rounding. */
export function isIdentity(matrix: Matrix4): boolean {
  return matrix.every((value, i) => Math.abs(value - (i % 5 === 0 ? 1 : 0)) < 1e-15);
}

/** No move: three zeros. */
export function zero(): Vec3 {
  return [0, 0, 0];
}
