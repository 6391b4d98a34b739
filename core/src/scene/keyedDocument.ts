import type { Clip, PolygonMesh, SceneDocument, SceneNode, Track, TransformParts, Vec3 } from './document.ts';
import type { Loss } from './loss.ts';
import {
  invertAffine,
  localMatrix,
  type Matrix4,
  multiply,
  partsOfMatrix,
  pivotOf,
  transformPoint,
} from './matrix.ts';
import { isMotion, isShift, rebaseTracks } from './rebase.ts';
import { shiftTransform } from './shift.ts';

/** A document while its parts are changed: keys of its nodes beside them. */
export interface Keyed {
  document: SceneDocument;
  keys: string[];
}

/** What changes of parts tell, and measure with. */
export interface Tools {
  losses: Loss[];
  balanceOf: BalanceOf;
}

/** The transform with what another says of its geometry. */
export function withGeometry(
  transform: TransformParts,
  { geometricTranslation, geometricRotation, geometricScale }: TransformParts,
): TransformParts {
  return { ...transform, geometricTranslation, geometricRotation, geometricScale };
}

/** Nodes that some clip moves. */
export function movedNodes({ clips }: SceneDocument): Set<number> {
  return new Set(clips.flatMap(({ tracks }) => tracks.filter(isMotion).map(({ node }) => node)));
}

/**
 * A transform in another space: `into` takes the space it was in to the one it is in. It stands where it
 * stood and turns about the place that it turned about. What moves has keys of its whole place then, which
 * know no such place; what the space only moved keeps its pivots and the order of its turns.
 */
export function inSpace(transform: TransformParts, into: Matrix4, moves: boolean): TransformParts {
  if (isShift(into)) return shiftTransform(transform, [-into[12], -into[13], -into[14]]);
  const local = multiply(into, localMatrix(transform));
  const parts = withGeometry(partsOfMatrix(local), transform);
  if (moves || parts.matrix) return parts;
  const place = transformPoint(into, ...pivotOf(transform));
  const pivot = transformPoint(invertAffine(local), ...place);
  const reach = Math.max(...place.map(Math.abs), ...parts.translation.map(Math.abs));
  if (place.every((value, k) => Math.abs(value - parts.translation[k]) <= reach * 1e-12)) return parts;
  return {
    ...parts,
    translation: place.map((value, k) => value - pivot[k]) as Vec3,
    rotationPivot: pivot,
    scalingPivot: pivot,
  };
}

/** Where a mesh balances, in its own space; null without faces. */
export type BalanceOf = (mesh: PolygonMesh) => Vec3 | null;

/** The document with other nodes under the same keys. */
export function withNodes(
  { document, keys }: Keyed,
  map: (node: SceneNode, index: number) => SceneNode,
): Keyed {
  return { document: { ...document, nodes: document.nodes.map(map) }, keys };
}

/** Changes the meshes of some parts. One that other parts show too is changed for these alone. */
export function withMeshes(
  keyed: Keyed,
  parts: readonly number[],
  change: (mesh: PolygonMesh) => PolygonMesh,
): Keyed {
  const { document } = keyed;
  const meshes = [...document.meshes];
  const nodes = [...document.nodes];
  const chosen = new Set(parts);
  for (const mesh of new Set(parts.map((part) => document.nodes[part].mesh))) {
    const users = document.nodes.flatMap((node, i) => (node.mesh === mesh ? [i] : []));
    const made = change(document.meshes[mesh]);
    if (users.every((user) => chosen.has(user))) meshes[mesh] = made;
    else {
      meshes.push(made);
      for (const user of users)
        if (chosen.has(user)) nodes[user] = { ...nodes[user], mesh: meshes.length - 1 };
    }
  }
  return { ...keyed, document: { ...document, meshes, nodes } };
}

/**
 * The clips with the motion of some nodes in other spaces. Motion that cannot be said there is left out,
 * which is told.
 */
export function withMotionIn(
  { nodes, clips }: SceneDocument,
  spaces: ReadonlyMap<number, Matrix4>,
  losses: Loss[],
): Clip[] {
  if (spaces.size === 0) return clips;
  return clips.flatMap((clip) => {
    const motion = new Map<number, Track[]>();
    for (const track of clip.tracks)
      if (spaces.has(track.node) && isMotion(track))
        motion.set(track.node, [...(motion.get(track.node) ?? []), track]);
    const moved = [...motion].flatMap(([node, ownTracks]) => {
      const made = rebaseTracks(ownTracks, nodes[node].transform, spaces.get(node) as Matrix4);
      if (!made) losses.push({ code: 'part.shearedMotion', part: nodes[node].name });
      return made ?? [];
    });
    const tracks = [...clip.tracks.filter((track) => !motion.has(track.node) || !isMotion(track)), ...moved];
    return tracks.length > 0 || clip.tracks.length === 0 ? [{ ...clip, tracks }] : [];
  });
}
