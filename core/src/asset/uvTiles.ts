import type { PolygonMesh, SceneDocument } from '../scene/document.ts';

/** Tiles are numbered 1001 + u + 10 v with u in 0..9; faces elsewhere repeat the image instead. */
const COLUMNS = 10;
const ROWS = 100;

/** Per material key the UV tiles that its faces lie in, by the middle of each face in the first UV set. */
export function measureUvTiles(document: SceneDocument): Record<string, number[]> {
  const tiles: Record<string, Set<number>> = {};
  for (const node of document.nodes) {
    if (node.mesh < 0) continue;
    const mesh = document.meshes[node.mesh];
    eachFaceTile(mesh, (slot, tile) => {
      const key = document.materials[node.materials[slot] ?? -1]?.key ?? '';
      tiles[key] ??= new Set();
      tiles[key].add(tile);
    });
  }
  return Object.fromEntries(Object.entries(tiles).map(([key, set]) => [key, [...set].sort((a, b) => a - b)]));
}

/** Faces whose coordinates reach less far than this use one point of their image. */
const POINT = 0.006;

/**
 * Per material key the share of its faces that use one point of the image, in 0..1: how palettes are read.
 */
export function measurePointUvs(document: SceneDocument): Record<string, number> {
  const counts = new Map<string, { all: number; points: number }>();
  for (const node of document.nodes) {
    if (node.mesh < 0) continue;
    const mesh = document.meshes[node.mesh];
    const layer = mesh.uvSets[0];
    if (!layer || layer.domain === 'face') continue;
    const { values, index, domain } = layer;
    let corner = 0;
    mesh.faceCounts.forEach((count, face) => {
      let [left, right, low, high] = [
        Number.POSITIVE_INFINITY,
        Number.NEGATIVE_INFINITY,
        Number.POSITIVE_INFINITY,
        Number.NEGATIVE_INFINITY,
      ];
      for (let i = 0; i < count; i += 1, corner += 1) {
        const element = domain === 'point' ? mesh.faceCorners[corner] : corner;
        const offset = (index ? index[element] : element) * 2;
        left = Math.min(left, values[offset]);
        right = Math.max(right, values[offset]);
        low = Math.min(low, values[offset + 1]);
        high = Math.max(high, values[offset + 1]);
      }
      const key =
        document.materials[node.materials[mesh.faceMaterial ? mesh.faceMaterial[face] : 0] ?? -1]?.key ?? '';
      const existing = counts.get(key) ?? { all: 0, points: 0 };
      existing.all += 1;
      if (right - left < POINT && high - low < POINT) existing.points += 1;
      counts.set(key, existing);
    });
  }
  return Object.fromEntries(
    [...counts].filter(([, { points }]) => points > 0).map(([key, { all, points }]) => [key, points / all]),
  );
}

function eachFaceTile(mesh: PolygonMesh, tell: (slot: number, tile: number) => void): void {
  const layer = mesh.uvSets[0];
  if (!layer || layer.domain === 'face') return;
  const { values, index, domain } = layer;
  let corner = 0;
  mesh.faceCounts.forEach((count, face) => {
    let [u, v] = [0, 0];
    for (let i = 0; i < count; i += 1, corner += 1) {
      const element = domain === 'point' ? mesh.faceCorners[corner] : corner;
      const offset = (index ? index[element] : element) * 2;
      u += values[offset];
      v += values[offset + 1];
    }
    const [column, row] = [Math.floor(u / count), Math.floor(v / count)];
    if (column < 0 || column >= COLUMNS || row < 0 || row >= ROWS) return;
    tell(mesh.faceMaterial ? mesh.faceMaterial[face] : 0, 1001 + column + COLUMNS * row);
  });
}
