import type { FloatArray, IndexArray, Influences, Layer, MorphShape, PolygonMesh } from './document.ts';

/** The faces of a mesh for which `keep` is not 0, with the points that they use; layers, shapes and influences follow. */
export function subMesh(mesh: PolygonMesh, keep: Uint8Array, name: string): PolygonMesh {
  const faces: number[] = [];
  const corners: number[] = [];
  const renumbered = new Int32Array(mesh.points.length / 3).fill(-1);
  const points: number[] = [];
  let start = 0;
  for (let face = 0; face < mesh.faceCounts.length; face += 1) {
    const count = mesh.faceCounts[face];
    if (keep[face]) {
      faces.push(face);
      for (let corner = start; corner < start + count; corner += 1) {
        corners.push(corner);
        const point = mesh.faceCorners[corner];
        if (renumbered[point] >= 0) continue;
        renumbered[point] = points.length;
        points.push(point);
      }
    }
    start += count;
  }
  const entries = { face: faces, corner: corners, point: points };
  const layer = <T extends Layer | null>(from: T): T => (from ? { ...from, ...pickLayer(from, entries[from.domain]) } : from);
  return {
    ...mesh,
    name,
    points: pickRows(mesh.points, points, 3),
    faceCounts: Uint32Array.from(faces, (face) => mesh.faceCounts[face]),
    faceCorners: Uint32Array.from(corners, (corner) => renumbered[mesh.faceCorners[corner]]),
    faceMaterial: mesh.faceMaterial && Int32Array.from(faces, (face) => (mesh.faceMaterial as Int32Array)[face]),
    faceSmoothing: mesh.faceSmoothing && Int32Array.from(faces, (face) => (mesh.faceSmoothing as Int32Array)[face]),
    hardEdges: mesh.hardEdges && pickEdges(mesh.hardEdges, renumbered),
    normals: layer(mesh.normals),
    uvSets: mesh.uvSets.map(layer),
    colours: mesh.colours.map(layer),
    tangents: layer(mesh.tangents),
    influences: mesh.influences && pickInfluences(mesh.influences, points),
    shapes: mesh.shapes.map((shape) => pickShape(shape, renumbered)),
  };
}

function pickRows<T extends FloatArray>(values: T, rows: readonly number[], size: number): T {
  const out = values.slice(0, rows.length * size) as T;
  rows.forEach((row, i) => {
    for (let k = 0; k < size; k += 1) out[i * size + k] = values[row * size + k];
  });
  return out;
}

/** Indexed layers keep only the values in use. */
function pickLayer({ values, index, size }: Layer, entries: readonly number[]): Pick<Layer, 'values' | 'index'> {
  if (!index) return { values: pickRows(values, entries, size), index: null };
  const numbers = new Map<number, number>();
  const picked: IndexArray = Uint32Array.from(entries, (entry) => {
    const at = index[entry];
    const known = numbers.get(at);
    if (known !== undefined) return known;
    numbers.set(at, numbers.size);
    return numbers.size - 1;
  });
  return { values: pickRows(values, [...numbers.keys()], size), index: picked };
}

function pickEdges(edges: Uint32Array, renumbered: Int32Array): Uint32Array {
  const out: number[] = [];
  for (let i = 0; i + 1 < edges.length; i += 2) {
    const [a, b] = [renumbered[edges[i]], renumbered[edges[i + 1]]];
    if (a >= 0 && b >= 0) out.push(a, b);
  }
  return Uint32Array.from(out);
}

function pickInfluences({ starts, joints, weights }: Influences, points: readonly number[]): Influences {
  const from: number[] = [];
  const begins = new Uint32Array(points.length + 1);
  points.forEach((point, i) => {
    for (let at = starts[point]; at < starts[point + 1]; at += 1) from.push(at);
    begins[i + 1] = from.length;
  });
  return { starts: begins, joints: Uint32Array.from(from, (at) => joints[at]), weights: Float32Array.from(from, (at) => weights[at]) };
}

function pickShape({ points, offsets, normalOffsets, ...rest }: MorphShape, renumbered: Int32Array): MorphShape {
  const rows: number[] = [];
  points.forEach((point, row) => {
    if (renumbered[point] >= 0) rows.push(row);
  });
  return {
    ...rest,
    points: Uint32Array.from(rows, (row) => renumbered[points[row]]),
    offsets: pickRows(offsets, rows, 3),
    normalOffsets: normalOffsets && pickRows(normalOffsets, rows, 3),
  };
}
