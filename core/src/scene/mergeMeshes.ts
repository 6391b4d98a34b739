import { createMesh, type Layer, layerEntry, type PolygonMesh } from './document.ts';

/** A mesh with the number that each of its material slots gets in what it becomes a part of. */
export interface MergedMesh {
  mesh: PolygonMesh;
  slots: number[];
}

/**
 * One mesh of several, in one space. UV sets and colours are joined by their place in the list; where a mesh
 * lacks one, its corners name no value. Normals and tangents stay only where all have them. Shapes and
 * influences do not.
 */
export function mergeMeshes(name: string, parts: readonly MergedMesh[]): PolygonMesh {
  const meshes = parts.map(({ mesh }) => mesh);
  const total = (of: (mesh: PolygonMesh) => number) => meshes.reduce((sum, mesh) => sum + of(mesh), 0);
  const points = new Float64Array(total((mesh) => mesh.points.length));
  const faceCounts = new Uint32Array(total((mesh) => mesh.faceCounts.length));
  const faceCorners = new Uint32Array(total((mesh) => mesh.faceCorners.length));
  const faceMaterial = new Int32Array(faceCounts.length);
  const smooth = meshes.some(({ faceSmoothing }) => faceSmoothing);
  const faceSmoothing = smooth ? new Int32Array(faceCounts.length) : null;
  const hardEdges: number[] = [];
  let [point, face, corner] = [0, 0, 0];
  for (const { mesh, slots } of parts) {
    points.set(mesh.points, point * 3);
    faceCounts.set(mesh.faceCounts, face);
    for (let i = 0; i < mesh.faceCorners.length; i += 1)
      faceCorners[corner + i] = mesh.faceCorners[i] + point;
    for (let i = 0; i < mesh.faceCounts.length; i += 1)
      faceMaterial[face + i] = slots[mesh.faceMaterial?.[i] ?? 0] ?? 0;
    if (mesh.faceSmoothing) faceSmoothing?.set(mesh.faceSmoothing, face);
    for (const end of mesh.hardEdges ?? []) hardEdges.push(end + point);
    point += mesh.points.length / 3;
    face += mesh.faceCounts.length;
    corner += mesh.faceCorners.length;
  }
  const most = (of: (mesh: PolygonMesh) => Layer[]) => Math.max(...meshes.map((mesh) => of(mesh).length));
  const joined = (of: (mesh: PolygonMesh) => Layer[]) =>
    Array.from({ length: most(of) }, (_, i) =>
      joinLayers(
        meshes,
        meshes.map((mesh) => of(mesh)[i] ?? null),
      ),
    );
  const ofAll = (of: (mesh: PolygonMesh) => Layer | null) =>
    meshes.every(of) ? joinLayers(meshes, meshes.map(of)) : null;
  return createMesh(name, {
    points,
    faceCounts,
    faceCorners,
    faceMaterial: faceMaterial.some((slot) => slot !== 0) ? faceMaterial : null,
    faceSmoothing,
    hardEdges: meshes.some((mesh) => mesh.hardEdges) ? Uint32Array.from(hardEdges) : null,
    normals: ofAll((mesh) => mesh.normals),
    tangents: ofAll((mesh) => mesh.tangents),
    uvSets: joined((mesh) => mesh.uvSets),
    colours: joined((mesh) => mesh.colours),
    subdivision: meshes[0].subdivision,
  });
}

/** Layers of several meshes as one by corner. */
function joinLayers(meshes: readonly PolygonMesh[], layers: readonly (Layer | null)[]): Layer {
  const present = layers.filter((layer) => layer !== null);
  const size = Math.max(...present.map((layer) => layer.size)) as Layer['size'];
  const values: number[] = [];
  const index: number[] = [];
  let none: number | undefined;
  meshes.forEach((mesh, m) => {
    const layer = layers[m];
    const start = values.length / size;
    if (layer)
      for (let i = 0; i < layer.values.length; i += layer.size)
        for (let k = 0; k < size; k += 1) values.push(k < layer.size ? layer.values[i + k] : 1);
    else {
      none ??= start;
      if (none === start) for (let k = 0; k < size; k += 1) values.push(0);
    }
    let corner = 0;
    mesh.faceCounts.forEach((count, face) => {
      for (let i = 0; i < count; i += 1, corner += 1)
        index.push(
          layer ? start + layerEntry(layer, corner, mesh.faceCorners[corner], face) : (none as number),
        );
    });
    if (layer?.none !== undefined) none ??= start + layer.none;
  });
  return {
    name: present[0].name,
    size,
    domain: 'corner',
    values: Float64Array.from(values),
    index: Uint32Array.from(index),
    ...(none === undefined ? {} : { none }),
  };
}
