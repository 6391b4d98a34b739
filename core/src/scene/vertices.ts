import { type Layer, layerEntry, type PolygonMesh } from './document.ts';
import { computeNormals } from './normals.ts';
import { withSoundNormals } from './soundNormals.ts';
import { triangulate } from './triangulate.ts';

/**
 * Triangles of one material slot, as graphics hardware wants them: one vertex per distinct set of attributes.
 */
export interface TriangleSet {
  slot: number;
  /** x, y, z per vertex. */
  positions: Float32Array;
  normals: Float32Array;
  /** x, y, z and sign per vertex, of length 1; null where the mesh has none. */
  tangents: Float32Array | null;
  /** u, v per vertex and UV set; v grows downwards, as in glTF. */
  uvs: Float32Array[];
  /** r, g, b, a per vertex, or null. */
  colours: Float32Array | null;
  /** The mesh's point that each vertex stands for. */
  points: Uint32Array;
  indices: Uint32Array;
}

/**
 * Cuts a mesh into triangles and joins corners whose attributes all agree, one set per material slot in use.
 */
export function buildTriangleSets(given: PolygonMesh): TriangleSet[] {
  const { mesh } = withSoundNormals(given);
  const { corners, faces } = triangulate(mesh);
  const normals = mesh.normals ?? computeNormals(mesh);
  const layers = [
    normals,
    ...mesh.uvSets,
    ...mesh.colours.slice(0, 1),
    ...(mesh.tangents ? [mesh.tangents] : []),
  ];
  const faceOfCorner = spreadFaces(mesh);
  const bySlot = new Map<number, number[] | null>();
  if (!mesh.faceMaterial) bySlot.set(0, null);
  else {
    for (let t = 0; t < faces.length; t += 1) {
      const slot = mesh.faceMaterial[faces[t]];
      const list = bySlot.get(slot);
      if (list) list.push(t);
      else bySlot.set(slot, [t]);
    }
  }
  return [...bySlot.entries()]
    .sort(([a], [b]) => a - b)
    .map(([slot, triangles]) => joinVertices(mesh, { slot, triangles }, { corners, layers, faceOfCorner }));
}

function spreadFaces(mesh: PolygonMesh): Uint32Array {
  const out = new Uint32Array(mesh.faceCorners.length);
  let corner = 0;
  for (let face = 0; face < mesh.faceCounts.length; face += 1) {
    out.fill(face, corner, corner + mesh.faceCounts[face]);
    corner += mesh.faceCounts[face];
  }
  return out;
}

interface SlotTriangles {
  slot: number;
  /** Null for all. */
  triangles: number[] | null;
}

/** What all slots of a mesh share. */
interface CutMesh {
  corners: Uint32Array;
  layers: Layer[];
  faceOfCorner: Uint32Array;
}

function joinVertices(
  mesh: PolygonMesh,
  { slot, triangles }: SlotTriangles,
  { corners, layers, faceOfCorner }: CutMesh,
): TriangleSet {
  const count = (triangles?.length ?? corners.length / 3) * 3;
  const width = layers.length + 1;
  const table = createTable(count, width);
  const indices = new Uint32Array(count);
  const tuple = new Int32Array(width);
  for (let i = 0; i < count; i += 1) {
    const corner = triangles ? corners[triangles[Math.floor(i / 3)] * 3 + (i % 3)] : corners[i];
    const point = mesh.faceCorners[corner];
    tuple[0] = point;
    for (let k = 0; k < layers.length; k += 1)
      tuple[k + 1] = layerEntry(layers[k], corner, point, faceOfCorner[corner]);
    indices[i] = table.place(tuple);
  }
  const { length, tuples } = table.finish();
  const gather = (
    layer: { values: ArrayLike<number>; size: number },
    column: number,
    size: number,
    fill = 1,
  ) => {
    const out = new Float32Array(length * size).fill(fill);
    const copied = Math.min(size, layer.size);
    for (let v = 0; v < length; v += 1) {
      const index = tuples[v * width + column] * layer.size;
      for (let k = 0; k < copied; k += 1) out[v * size + k] = layer.values[index + k];
    }
    return out;
  };
  const uvs = mesh.uvSets.map((layer, i) => {
    const out = gather(layer, 2 + i, 2);
    for (let v = 1; v < out.length; v += 2) out[v] = 1 - out[v];
    return out;
  });
  const colours = mesh.colours.length > 0 ? gather(mesh.colours[0], 2 + uvs.length, 4) : null;
  const tangents = mesh.tangents && gather(mesh.tangents, width - 1, 4);
  const normals = normalise(gather(layers[0], 1, 3));
  const points = new Uint32Array(length);
  for (let v = 0; v < length; v += 1) points[v] = tuples[v * width];
  return {
    slot,
    points,
    positions: gather({ values: mesh.points, size: 3 }, 0, 3),
    normals,
    tangents,
    uvs,
    colours,
    indices,
  };
}

function normalise(normals: Float32Array): Float32Array {
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i], normals[i + 1], normals[i + 2]);
    if (length === 0) normals[i + 2] = 1;
    else for (let k = 0; k < 3; k += 1) normals[i + k] /= length;
  }
  return normals;
}

/** Open-addressing table from tuples of whole numbers to vertex numbers, without an object per vertex. */
function createTable(capacity: number, width: number) {
  let size = 16;
  while (size < capacity * 2) size *= 2;
  const slots = new Int32Array(size).fill(-1);
  const tuples = new Int32Array(capacity * width);
  let length = 0;
  return {
    place(tuple: Int32Array): number {
      let hash = 2166136261;
      for (let k = 0; k < width; k += 1) hash = Math.imul(hash ^ tuple[k], 16777619);
      hash ^= hash >>> 15;
      for (let index = hash & (size - 1); ; index = (index + 1) & (size - 1)) {
        const vertex = slots[index];
        if (vertex < 0) {
          slots[index] = length;
          tuples.set(tuple, length * width);
          length += 1;
          return length - 1;
        }
        let same = true;
        for (let k = 0; k < width && same; k += 1) same = tuples[vertex * width + k] === tuple[k];
        if (same) return vertex;
      }
    },
    finish: () => ({ length, tuples }),
  };
}
