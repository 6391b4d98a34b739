import type { FloatArray, IndexArray, Influences, Layer, MorphShape, PolygonMesh } from './document.ts';

/**
 * The faces of a mesh for which `keep` is not 0, with the points that they use; layers, shapes and influences
 * follow.
 */
export function subMesh(mesh: PolygonMesh, keep: Uint8Array, name: string): PolygonMesh {
  const faces: number[] = [];
  for (let face = 0; face < keep.length; face += 1) if (keep[face]) faces.push(face);
  return createCutter(mesh)(faces, name);
}

/**
 * Cuts pieces out of one mesh by their faces. What all pieces need is worked out once, so that cutting a mesh
 * into its pieces costs about as much as copying it, however many they are.
 */
export function createCutter(mesh: PolygonMesh): (faces: readonly number[], name: string) => PolygonMesh {
  const starts = new Uint32Array(mesh.faceCounts.length + 1);
  mesh.faceCounts.forEach((count, face) => {
    starts[face + 1] = starts[face] + count;
  });
  // Numbers of points in the piece at hand; what an earlier piece left is put back to -1.
  const renumbered = new Int32Array(mesh.points.length / 3).fill(-1);
  const edges = mesh.hardEdges && edgesByPoint(mesh.hardEdges, renumbered.length);
  const rows = mesh.shapes.map(({ points }) => rowsByPoint(points, renumbered.length));
  return (faces, name) => {
    const corners: number[] = [];
    const points: number[] = [];
    for (const face of faces) {
      for (let corner = starts[face]; corner < starts[face + 1]; corner += 1) {
        corners.push(corner);
        const point = mesh.faceCorners[corner];
        if (renumbered[point] >= 0) continue;
        renumbered[point] = points.length;
        points.push(point);
      }
    }
    const entries = { face: faces, corner: corners, point: points };
    const layer = <T extends Layer | null>(from: T): T =>
      from ? { ...from, ...pickLayer(from, entries[from.domain]) } : from;
    const { faceMaterial, faceSmoothing } = mesh;
    const piece: PolygonMesh = {
      ...mesh,
      name,
      points: pickRows(mesh.points, points, 3),
      faceCounts: Uint32Array.from(faces, (face) => mesh.faceCounts[face]),
      faceCorners: Uint32Array.from(corners, (corner) => renumbered[mesh.faceCorners[corner]]),
      faceMaterial: faceMaterial && Int32Array.from(faces, (face) => faceMaterial[face]),
      faceSmoothing: faceSmoothing && Int32Array.from(faces, (face) => faceSmoothing[face]),
      hardEdges: edges && Uint32Array.from(pickEdges(edges, points, renumbered)),
      normals: layer(mesh.normals),
      uvSets: mesh.uvSets.map(layer),
      colours: mesh.colours.map(layer),
      tangents: layer(mesh.tangents),
      influences: mesh.influences && pickInfluences(mesh.influences, points),
      shapes: mesh.shapes.map((shape, i) => pickShape(shape, points, rows[i])),
    };
    for (const point of points) renumbered[point] = -1;
    return piece;
  };
}

/**
 * For each point the other ends of the edges that start there: those of point p lie from `starts[p]` to
 * `starts[p + 1]`.
 */
interface EdgeTable {
  starts: Uint32Array;
  ends: Uint32Array;
}

function edgesByPoint(edges: Uint32Array, count: number): EdgeTable {
  const starts = new Uint32Array(count + 1);
  for (let i = 0; i + 1 < edges.length; i += 2) starts[edges[i] + 1] += 1;
  for (let point = 0; point < count; point += 1) starts[point + 1] += starts[point];
  const next = starts.slice();
  const ends = new Uint32Array(edges.length / 2);
  for (let i = 0; i + 1 < edges.length; i += 2) {
    ends[next[edges[i]]] = edges[i + 1];
    next[edges[i]] += 1;
  }
  return { starts, ends };
}

function pickEdges({ starts, ends }: EdgeTable, points: readonly number[], renumbered: Int32Array): number[] {
  const out: number[] = [];
  for (const point of points) {
    for (let index = starts[point]; index < starts[point + 1]; index += 1)
      if (renumbered[ends[index]] >= 0) out.push(renumbered[point], renumbered[ends[index]]);
  }
  return out;
}

/** For each point its row in a shape, or -1. */
function rowsByPoint(points: Uint32Array, count: number): Int32Array {
  const rows = new Int32Array(count).fill(-1);
  points.forEach((point, row) => {
    rows[point] = row;
  });
  return rows;
}

function pickRows<T extends FloatArray>(values: T, rows: readonly number[], size: number): T {
  const out = values.slice(0, rows.length * size) as T;
  rows.forEach((row, i) => {
    for (let k = 0; k < size; k += 1) out[i * size + k] = values[row * size + k];
  });
  return out;
}

/** Indexed layers keep only the values in use. */
function pickLayer(
  { values, index, size }: Layer,
  entries: readonly number[],
): Pick<Layer, 'values' | 'index'> {
  if (!index) return { values: pickRows(values, entries, size), index: null };
  const numbers = new Map<number, number>();
  const picked: IndexArray = Uint32Array.from(entries, (entry) => {
    const offset = index[entry];
    const existing = numbers.get(offset);
    if (existing !== undefined) return existing;
    numbers.set(offset, numbers.size);
    return numbers.size - 1;
  });
  return { values: pickRows(values, [...numbers.keys()], size), index: picked };
}

function pickInfluences({ starts, joints, weights }: Influences, points: readonly number[]): Influences {
  const from: number[] = [];
  const begins = new Uint32Array(points.length + 1);
  points.forEach((point, i) => {
    for (let index = starts[point]; index < starts[point + 1]; index += 1) from.push(index);
    begins[i + 1] = from.length;
  });
  return {
    starts: begins,
    joints: Uint32Array.from(from, (offset) => joints[offset]),
    weights: Float32Array.from(from, (position) => weights[position]),
  };
}

function pickShape(
  { offsets, normalOffsets, ...rest }: MorphShape,
  points: readonly number[],
  rowOf: Int32Array,
): MorphShape {
  const moved = points.flatMap((point, i) => (rowOf[point] >= 0 ? [i] : []));
  const rows = moved.map((i) => rowOf[points[i]]);
  return {
    ...rest,
    points: Uint32Array.from(moved),
    offsets: pickRows(offsets, rows, 3),
    normalOffsets: normalOffsets && pickRows(normalOffsets, rows, 3),
  };
}
