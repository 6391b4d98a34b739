import type { SceneDocument, SceneNode, Track, TransformParts } from './document.ts';
import { decompose, invertAffine, type Matrix4, multiply, partsOfMatrix, worldMatrices } from './matrix.ts';
import { isMotion, keysOf, movedTransform, timesOf } from './rebase.ts';
import { evaluateTrack, inOneWay } from './tracks.ts';

/**
 * The document with every node placed by its parent's whole matrix, as all formats but FBX do: where the parent's
 * scale did not come down (`Rrs`) the node's place is worked out anew, for each moment of a clip that moves it or
 * what it hangs on. Shear becomes a matrix; motion through shear is said as well as it can be, and the nodes that it
 * concerns are named, with all that hangs on them and what they bend.
 */
export function withPlainInheritance(document: SceneDocument): {
  document: SceneDocument;
  shearedMotion: string[];
} {
  const { nodes } = document;
  if (nodes.every(({ transform }) => transform.inherit !== 'Rrs')) return { document, shearedMotion: [] };
  const worlds = worldMatrices(nodes);
  const isOdd = nodes.map(
    ({ parent, transform }, i) =>
      parent >= 0 &&
      transform.inherit === 'Rrs' &&
      (!isNear(worlds[i], multiply(worlds[parent], localOf(nodes[i]))) ||
        document.clips.some(({ tracks }) =>
          tracks.some((track) => isScaling(track) && isAbove(nodes, track.node, i)),
        )),
  );
  const sheared = new Set<number>();
  const clips = document.clips.map((clip) => ({
    ...clip,
    tracks: [
      ...clip.tracks.filter((track) => !isOdd[track.node] || !isMotion(track)),
      ...nodes.flatMap((_, i) => {
        if (!isOdd[i]) return [];
        const { tracks, exact } = motionBelow(nodes, i, clip.tracks);
        if (!exact) sheared.add(i);
        return tracks;
      }),
    ],
  }));
  const isSheared = (i: number) => [...sheared].some((above) => above === i || isAbove(nodes, above, i));
  const shearedMotion = nodes
    .filter(({ skin }, i) => isSheared(i) || document.skins[skin]?.joints.some(isSheared))
    .map(({ name }) => name);
  const plain: SceneDocument = {
    ...document,
    clips,
    nodes: nodes.map((node, i) => {
      const { transform, parent } = node;
      if (!isOdd[i]) return { ...node, transform: { ...transform, inherit: 'RSrs' } };
      const { geometricTranslation, geometricRotation, geometricScale } = transform;
      const place = partsOfMatrix(multiply(invertAffine(worlds[parent]), worlds[i]));
      return {
        ...node,
        transform: { ...place, geometricTranslation, geometricRotation, geometricScale },
      };
    }),
  };
  return { document: plain, shearedMotion };
}

/** The matrix that a node would have below a parent that changes nothing. */
function localOf(node: SceneNode): Matrix4 {
  return worldMatrices([{ ...node, parent: -1 }])[0];
}

function isNear(a: Matrix4, b: Matrix4): boolean {
  return a.every((value, i) => Math.abs(value - b[i]) <= 1e-9 * Math.max(1, Math.abs(value)));
}

/** Rigs move the scale of every joint, and nearly all of them by nothing. */
function isScaling({ path, interpolation, values }: Track): boolean {
  if (path !== 'scale') return false;
  // In-tangent, value and out-tangent of a cubic's key: three numbers each.
  const isValue = (i: number) => interpolation !== 'cubic' || Math.floor(i / 3) % 3 === 1;
  return Array.from(values).some((value, i) => isValue(i) && Math.abs(value - 1) > 1e-6);
}

function isAbove(nodes: readonly SceneNode[], above: number, node: number): boolean {
  for (let i = nodes[node].parent; i >= 0; i = nodes[i].parent) if (i === above) return true;
  return false;
}

/** Moments a second at which a scale is taken back that changes. */
const PER_SECOND = 120;

/** These moments, and more where a scale goes straight on: what takes it back does not. */
function betweenScales(times: Float64Array, tracks: readonly Track[]): Float64Array {
  const dense = new Set(times);
  for (const { path, interpolation, times: keys } of tracks) {
    if (path !== 'scale' || interpolation === 'step') continue;
    for (let i = 0; i + 1 < keys.length; i += 1) {
      const pieces = Math.ceil((keys[i + 1] - keys[i]) * PER_SECOND);
      for (let p = 1; p < pieces; p += 1) dense.add(keys[i] + ((keys[i + 1] - keys[i]) * p) / pieces);
    }
  }
  return Float64Array.from(dense).sort();
}

/** How a node moves below its parent, by its own motion and by what is above both. */
function motionBelow(
  nodes: readonly SceneNode[],
  node: number,
  tracks: readonly Track[],
): { tracks: Track[]; exact: boolean } {
  const concerned = tracks.filter(
    (track) => isMotion(track) && (track.node === node || isAbove(nodes, track.node, node)),
  );
  if (concerned.length === 0) return { tracks: [], exact: true };
  const even = inOneWay(concerned);
  const chain: { transform: TransformParts; moving: Track[] }[] = [];
  for (let i = node; i >= 0; i = nodes[i].parent)
    chain.unshift({
      transform: nodes[i].transform,
      moving: even.tracks.filter((track) => track.node === i),
    });
  const times = betweenScales(timesOf(even.tracks), even.tracks);
  const moments = Array.from(times, (time) => {
    const posed = chain.map(({ transform, moving }, depth) => ({
      parent: depth - 1,
      transform: moving.reduce(
        (parts, track) => movedTransform(parts, track.path, evaluateTrack(track, time)),
        transform,
      ),
    }));
    const [above, own] = worldMatrices(posed).slice(-2);
    return decompose(multiply(invertAffine(above), own));
  });
  return {
    tracks: keysOf(node, times, moments, even.interpolation),
    exact: moments.every(({ exact }) => exact),
  };
}
