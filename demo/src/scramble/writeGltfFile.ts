import type { PolygonMesh } from '@kinkajou/core/scene/document';

/** A material as the file states it; images by their written URI. */
export interface GltfMaterialSpec {
  name: string;
  baseColor?: string;
  metallicRoughness?: string;
  normal?: string;
  occlusion?: string;
  emissive?: string;
  /** What the images are multiplied by; 1 where nothing is said. */
  factors?: { baseColor?: number[]; metallic?: number; roughness?: number; emissive?: number[] };
  alphaMode?: 'MASK' | 'BLEND';
}

/** A part with its material's index. */
export interface GltfPart {
  name: string;
  material: number;
  mesh: PolygonMesh;
}

/**
 * A glTF 2.0 file with its numbers in a data URI, written word by word, so that no writer of ours stands
 * behind it.
 */
export function writeGltfFile(
  parts: readonly GltfPart[],
  materials: readonly GltfMaterialSpec[],
): Uint8Array {
  const chunks: Uint8Array[] = [];
  let length = 0;
  const bufferViews: object[] = [];
  const accessors: object[] = [];
  const add = (
    values: Float32Array | Uint32Array,
    type: string,
    target: number,
    bounds: object = {},
  ): number => {
    const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
    bufferViews.push({ buffer: 0, byteOffset: length, byteLength: bytes.length, target });
    chunks.push(bytes);
    length += bytes.length;
    const size = accessorSize(type);
    accessors.push({
      bufferView: bufferViews.length - 1,
      componentType: values instanceof Float32Array ? 5126 : 5125,
      count: values.length / size,
      type,
      ...bounds,
    });
    return accessors.length - 1;
  };
  const meshes = parts.map(({ name, material, mesh }) => {
    const { points, uvs, indices } = split(mesh);
    const bounds = {
      min: [0, 1, 2].map((k) => extreme(points, k, Math.min)),
      max: [0, 1, 2].map((k) => extreme(points, k, Math.max)),
    };
    const normals = points.map((_, i) => (i % 3 === 2 ? 1 : 0));
    const attributes = {
      POSITION: add(points, 'VEC3', 34962, bounds),
      NORMAL: add(normals, 'VEC3', 34962),
      TEXCOORD_0: add(uvs, 'VEC2', 34962),
    };
    return { name, primitives: [{ attributes, indices: add(indices, 'SCALAR', 34963), material }] };
  });
  const images: { uri: string }[] = [];
  const texture = (uri: string | undefined) => {
    if (!uri) return undefined;
    let index = images.findIndex((image) => image.uri === uri);
    if (index < 0) index = images.push({ uri }) - 1;
    return { index };
  };
  const written = materials.map(
    ({ name, baseColor, metallicRoughness, normal, occlusion, emissive, alphaMode, factors }) => ({
      name,
      pbrMetallicRoughness: {
        baseColorTexture: texture(baseColor),
        metallicRoughnessTexture: texture(metallicRoughness),
        baseColorFactor: factors?.baseColor,
        metallicFactor: factors?.metallic,
        roughnessFactor: factors?.roughness,
      },
      normalTexture: texture(normal),
      occlusionTexture: texture(occlusion),
      emissiveTexture: texture(emissive),
      ...(emissive ? { emissiveFactor: factors?.emissive ?? [1, 1, 1] } : {}),
      ...(alphaMode ? { alphaMode } : {}),
    }),
  );
  const binary = Buffer.concat(chunks);
  const json = {
    asset: { version: '2.0', generator: 'Harrow Quay' },
    scene: 0,
    scenes: [{ nodes: parts.map((_, i) => i) }],
    nodes: parts.map(({ name }, i) => ({ name, mesh: i })),
    meshes,
    materials: written,
    ...(images.length > 0 ? { images, textures: images.map((_, source) => ({ source })) } : {}),
    accessors,
    bufferViews,
    buffers: [
      { byteLength: binary.length, uri: `data:application/octet-stream;base64,${binary.toString('base64')}` },
    ],
  };
  return new TextEncoder().encode(JSON.stringify(json));
}

function accessorSize(type: string) {
  if (type === 'VEC3') return 3;
  return type === 'VEC2' ? 2 : 1;
}

function extreme(values: Float32Array, k: number, of: (...all: number[]) => number): number {
  return of(...values.filter((_, i) => i % 3 === k));
}

/** Quads as two triangles each; UVs lie at the points, v downwards. */
function split(mesh: PolygonMesh): { points: Float32Array; uvs: Float32Array; indices: Uint32Array } {
  const { values, index } = mesh.uvSets[0];
  const uvs = new Float32Array((mesh.points.length / 3) * 2);
  const indices: number[] = [];
  for (let face = 0; face < mesh.faceCounts.length; face += 1) {
    const corners = [0, 1, 2, 3].map((k) => mesh.faceCorners[face * 4 + k]);
    for (let k = 0; k < 4; k += 1) {
      const at = index ? index[face * 4 + k] : face * 4 + k;
      uvs.set([values[at * 2], 1 - values[at * 2 + 1]], corners[k] * 2);
    }
    const [a, b, c, d] = corners;
    indices.push(a, b, c, a, c, d);
  }
  return { points: Float32Array.from(mesh.points), uvs, indices: Uint32Array.from(indices) };
}
