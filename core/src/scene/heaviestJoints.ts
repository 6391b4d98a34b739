import type { PolygonMesh } from './document.ts';

/**
 * The mesh whose points follow no more than so many joints each: the heaviest, whose weights add up to what
 * all did. The mesh itself where none follows more; `points` tells how many did.
 */
export function withHeaviestJoints(mesh: PolygonMesh, most: number): { mesh: PolygonMesh; points: number } {
  const { influences } = mesh;
  if (!influences) return { mesh, points: 0 };
  const { starts, joints, weights } = influences;
  const heaviestOnes: { starts: number[]; joints: number[]; weights: number[] } = {
    starts: [0],
    joints: [],
    weights: [],
  };
  let points = 0;
  for (let point = 0; point + 1 < starts.length; point += 1) {
    const list = Array.from(
      { length: starts[point + 1] - starts[point] },
      (_, i) => starts[point] + i,
    ).filter((i) => weights[i] > 0);
    const heaviest =
      list.length > most ? [...list].sort((a, b) => weights[b] - weights[a]).slice(0, most) : list;
    if (heaviest.length < list.length) points += 1;
    const sum = (of: readonly number[]) => of.reduce((total, i) => total + weights[i], 0);
    const scale = heaviest.length < list.length ? sum(list) / sum(heaviest) : 1;
    for (const i of heaviest) {
      heaviestOnes.joints.push(joints[i]);
      heaviestOnes.weights.push(weights[i] * scale);
    }
    heaviestOnes.starts.push(heaviestOnes.joints.length);
  }
  if (points === 0) return { mesh, points };
  const trimmed = {
    starts: Uint32Array.from(heaviestOnes.starts),
    joints: Uint32Array.from(heaviestOnes.joints),
    weights: Float32Array.from(heaviestOnes.weights),
  };
  return { mesh: { ...mesh, influences: trimmed }, points };
}
