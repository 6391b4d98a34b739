import type { SceneDocument, SceneNode } from './document.ts';
import { withUsedMeshes } from './take.ts';

/** Numbers of nodes in their order, but every parent before its children. */
export function parentsFirst(nodes: readonly Pick<SceneNode, 'parent'>[]): number[] {
  const order: number[] = [];
  const seen = new Set<number>();
  const visit = (index: number) => {
    if (index < 0 || seen.has(index)) return;
    seen.add(index);
    visit(nodes[index].parent);
    order.push(index);
  };
  nodes.forEach((_, i) => visit(i));
  return order;
}

/**
 * The document with these of its nodes alone, in this order; skins and clips follow. Parents of kept nodes
 * must be kept.
 */
export function withNodeOrder(document: SceneDocument, order: readonly number[]): SceneDocument {
  const numbers = new Map(order.map((old, i) => [old, i]));
  const nodes = order.map((old) => ({
    ...document.nodes[old],
    parent: numbers.get(document.nodes[old].parent) ?? -1,
  }));
  return {
    ...document,
    nodes,
    skins: document.skins.map((skin) => ({
      ...skin,
      joints: skin.joints.map((joint) => numbers.get(joint) ?? 0),
    })),
    clips: document.clips
      .map((clip) => ({
        ...clip,
        tracks: clip.tracks.flatMap((track) =>
          numbers.has(track.node) ? [{ ...track, node: numbers.get(track.node) as number }] : [],
        ),
      }))
      .filter(({ tracks }, i) => tracks.length > 0 || document.clips[i].tracks.length === 0),
  };
}

/**
 * The document without these nodes and all that hangs below them. A joint that moves a part which stays is
 * kept with nothing on it, and what it hangs on with it. Meshes that nothing shows any more go too. `kept`
 * are the old numbers of its nodes.
 */
export function removeNodes(
  document: SceneDocument,
  tops: ReadonlySet<number>,
): { document: SceneDocument; kept: number[] } {
  const gone = new Set<number>();
  document.nodes.forEach((node, i) => {
    if (tops.has(i) || gone.has(node.parent)) gone.add(i);
  });
  const skins = new Set(
    document.nodes.flatMap(({ skin, mesh }, i) => (mesh >= 0 && skin >= 0 && !gone.has(i) ? [skin] : [])),
  );
  const bones = new Set<number>();
  for (const skin of skins)
    for (const joint of document.skins[skin].joints)
      for (
        let index = joint;
        index >= 0 && gone.has(index) && !bones.has(index);
        index = document.nodes[index].parent
      )
        bones.add(index);
  const bare = document.nodes.map(
    (node, i): SceneNode =>
      bones.has(i)
        ? {
            ...node,
            kind: node.kind === 'bone' ? 'bone' : 'group',
            mesh: -1,
            materials: [],
            camera: -1,
            light: -1,
            skin: -1,
          }
        : node,
  );
  const keptNodes = bare.flatMap((_, i) => (!gone.has(i) || bones.has(i) ? [i] : []));
  const fewer = withNodeOrder({ ...document, nodes: bare }, keptNodes);
  const used = new Map([...skins].sort((a, b) => a - b).map((old, i) => [old, i]));
  const nodes = fewer.nodes.map((node) =>
    node.skin < 0 ? node : { ...node, skin: used.get(node.skin) ?? -1 },
  );
  const skinned = [...used.keys()].map((old) => fewer.skins[old]);
  return {
    document: { ...fewer, ...withUsedMeshes(nodes, document.meshes), skins: skinned },
    kept: keptNodes,
  };
}

/** A key that no node has yet, as keys of nodes are made. */
export function freshKey(has: (key: string) => boolean, name: string): string {
  if (!has(name)) return name;
  for (let count = 2; ; count += 1) if (!has(`${name} (${count})`)) return `${name} (${count})`;
}
