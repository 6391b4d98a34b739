import type { Clip, PolygonMesh, SceneDocument, SceneNode, Track, TransformParts, Vec3 } from './document.ts';
import type { Loss } from './loss.ts';
import type { Matrix4 } from './matrix.ts';
import { isMotion, rebaseTracks } from './rebase.ts';

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
