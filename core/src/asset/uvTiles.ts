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

function eachFaceTile(mesh: PolygonMesh, tell: (slot: number, tile: number) => void): void {
  const layer = mesh.uvSets[0];
  if (!layer || layer.domain === 'face') return;
  const { values, index, domain } = layer;
  let corner = 0;
  mesh.faceCounts.forEach((count, face) => {
    let [u, v] = [0, 0];
    for (let i = 0; i < count; i += 1, corner += 1) {
      const element = domain === 'point' ? mesh.faceCorners[corner] : corner;
      const at = (index ? index[element] : element) * 2;
      u += values[at];
      v += values[at + 1];
    }
    const [column, row] = [Math.floor(u / count), Math.floor(v / count)];
    if (column < 0 || column >= COLUMNS || row < 0 || row >= ROWS) return;
    tell(mesh.faceMaterial ? mesh.faceMaterial[face] : 0, 1001 + column + COLUMNS * row);
  });
}
