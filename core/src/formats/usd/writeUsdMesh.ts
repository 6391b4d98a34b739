import type { Layer, PolygonMesh, SceneDocument, SceneNode } from '../../scene/document.ts';
import { usedSlots } from '../../scene/materialForAll.ts';
import { tangentFrames } from '../../scene/tangents.ts';
import type { Losses } from '../written.ts';
import { cleanIdentifier } from './identifiers.ts';
import { createListOp, createPrim, createProperty, type PrimSpec } from './layer.ts';
import type { UvNames } from './uvNames.ts';
import { set, setUniform } from './writeViews.ts';

const INTERPOLATION = { corner: 'faceVarying', point: 'vertex', face: 'uniform' } as const;

/** The prim that a mesh is written into. */
interface MeshPlace {
  prim: PrimSpec;
  path: string;
  /** Keeps names of further prims below it apart. */
  nameUnder: (name: string) => string;
}

/** What meshes of one stage share. */
interface MeshScene {
  document: SceneDocument;
  materialPaths: string[];
  losses: Losses;
  uvNames: UvNames;
}

/** Writes a mesh into a prim with its bindings. */
export function fillMesh(
  { prim, path, nameUnder }: MeshPlace,
  mesh: PolygonMesh,
  node: SceneNode,
  { document, materialPaths, losses, uvNames }: MeshScene,
): void {
  set(prim, 'points', 'point3f[]', Float32Array.from(mesh.points));
  set(prim, 'faceVertexCounts', 'int[]', Int32Array.from(mesh.faceCounts));
  set(prim, 'faceVertexIndices', 'int[]', Int32Array.from(mesh.faceCorners));
  setUniform(prim, 'subdivisionScheme', 'token', mesh.subdivision);
  set(prim, 'extent', 'float3[]', extentOf(mesh));
  const worn = usedSlots(node, document).map((slot) => document.materials[node.materials[slot] ?? -1]);
  if (!node.oneSided && worn.some((material) => material?.doubleSided)) {
    setUniform(prim, 'doubleSided', 'bool', true);
    for (const material of worn)
      if (material && !material.doubleSided)
        losses.add({ code: 'usd.sides', material: material.key, detail: node.name });
  }
  if (mesh.normals) {
    const { values, interpolation } = flatten(mesh.normals);
    prim.properties.set(
      'normals',
      createProperty('normals', 'normal3f[]', { value: values, metadata: { interpolation } }),
    );
  }
  const names = uvNames.all(mesh);
  mesh.uvSets.forEach((layer, i) => primvar(prim, names[i], 'texCoord2f[]', widelyRead(layer, mesh)));
  mesh.colours.forEach((layer, i) => writeColour(prim, layer, i));
  const frames = tangentFrames(mesh);
  if (frames) {
    primvar(prim, 'tangents', 'vector3f[]', frames.tangents);
    if (frames.binormals) primvar(prim, 'binormals', 'vector3f[]', frames.binormals);
  }
  if (mesh.faceSmoothing || mesh.hardEdges) losses.add({ code: 'usd.smoothing' });
  writeShapes(prim, mesh, nameUnder, path);
  bind(prim, mesh, { node, materialPaths }, nameUnder);
  if (prim.properties.has('material:binding') || mesh.faceMaterial)
    prim.metadata.apiSchemas = createListOp({ prepended: ['MaterialBindingAPI'] });
}

function extentOf({ points }: PolygonMesh): Float32Array {
  const out = Float32Array.of(Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity);
  for (let i = 0; i < points.length; i += 1) {
    const axis = i % 3;
    if (points[i] < out[axis]) out[axis] = points[i];
    if (points[i] > out[axis + 3]) out[axis + 3] = points[i];
  }
  return points.length > 0 ? out : new Float32Array(6);
}

/** Normals cannot be indexed; every corner or point gets its own. */
function flatten(layer: Layer): { values: Float32Array; interpolation: string } {
  const interpolation = INTERPOLATION[layer.domain];
  if (!layer.index) return { values: Float32Array.from(layer.values), interpolation };
  const { index, values, size } = layer;
  const out = new Float32Array(index.length * size);
  for (let i = 0; i < index.length; i += 1)
    for (let k = 0; k < size; k += 1) out[i * size + k] = values[index[i] * size + k];
  return { values: out, interpolation };
}

function primvar(prim: PrimSpec, name: string, typeName: string, layer: Layer): void {
  const key = `primvars:${name}`;
  const whole = layer.values.subarray(0, layer.values.length - (layer.values.length % layer.size));
  prim.properties.set(
    key,
    createProperty(key, typeName, {
      value: Float32Array.from(whole),
      metadata: { interpolation: INTERPOLATION[layer.domain] },
    }),
  );
  if (layer.index)
    prim.properties.set(
      `${key}:indices`,
      createProperty(`${key}:indices`, 'int[]', { value: Int32Array.from(layer.index) }),
    );
}

/**
 * UVs as most readers know them: each point has its own and none is left over, or each corner. They pass over those
 * of faces, and over the indices of points.
 */
function widelyRead(layer: Layer, { points, faceCounts }: PolygonMesh): Layer {
  if (layer.domain === 'point') {
    const values = flatten(layer).values.subarray(0, (points.length / 3) * layer.size);
    return { ...layer, values, index: null };
  }
  if (layer.domain !== 'face') return layer;
  const index = new Int32Array(faceCounts.reduce((sum, count) => sum + count, 0));
  let corner = 0;
  faceCounts.forEach((count, face) => {
    index.fill(layer.index ? layer.index[face] : face, corner, corner + count);
    corner += count;
  });
  return { ...layer, domain: 'corner', index };
}

function writeColour(prim: PrimSpec, layer: Layer, i: number): void {
  if (i > 0)
    return primvar(
      prim,
      cleanIdentifier(`colour_${layer.name}`, `colour${i}`),
      layer.size === 4 ? 'color4f[]' : 'color3f[]',
      layer,
    );
  if (layer.size === 3) return primvar(prim, 'displayColor', 'color3f[]', layer);
  const count = Math.floor(layer.values.length / layer.size);
  const rgb = new Float32Array(count * 3);
  const alpha = new Float32Array(count);
  for (let offset = 0; offset < count; offset += 1) {
    for (let k = 0; k < 3; k += 1) rgb[offset * 3 + k] = layer.values[offset * layer.size + k];
    alpha[offset] = layer.values[offset * layer.size + 3];
  }
  primvar(prim, 'displayColor', 'color3f[]', { ...layer, size: 3, values: rgb });
  const key = 'primvars:displayOpacity';
  prim.properties.set(
    key,
    createProperty(key, 'float[]', {
      value: alpha,
      metadata: { interpolation: INTERPOLATION[layer.domain] },
    }),
  );
  if (layer.index)
    prim.properties.set(
      `${key}:indices`,
      createProperty(`${key}:indices`, 'int[]', { value: Int32Array.from(layer.index) }),
    );
}

function writeShapes(
  prim: PrimSpec,
  mesh: PolygonMesh,
  nameUnder: (name: string) => string,
  path: string,
): void {
  if (mesh.shapes.length === 0) return;
  const names: string[] = [];
  const targets: string[] = [];
  for (const shape of mesh.shapes) {
    const child = createPrim(nameUnder(shape.name || 'shape'), 'BlendShape');
    setUniform(child, 'offsets', 'vector3f[]', Float32Array.from(shape.offsets));
    if (shape.normalOffsets)
      setUniform(child, 'normalOffsets', 'vector3f[]', Float32Array.from(shape.normalOffsets));
    setUniform(child, 'pointIndices', 'int[]', Int32Array.from(shape.points));
    prim.children.push(child);
    names.push(shape.name);
    targets.push(`${path}/${child.name}`);
  }
  setUniform(prim, 'skel:blendShapes', 'token[]', names);
  prim.properties.set(
    'skel:blendShapeTargets',
    createProperty('skel:blendShapeTargets', '', { kind: 'relationship', targets }),
  );
}

/** One material is bound to the mesh itself, several by a subset of faces each. */
interface BoundMaterials {
  node: SceneNode;
  /** Prims of the document's materials. */
  materialPaths: string[];
}

function bind(
  prim: PrimSpec,
  mesh: PolygonMesh,
  { node, materialPaths }: BoundMaterials,
  nameUnder: (name: string) => string,
): void {
  const relation = (material: number) =>
    createProperty('material:binding', '', { kind: 'relationship', targets: [materialPaths[material]] });
  if (!mesh.faceMaterial) {
    const material = node.materials[0] ?? -1;
    if (material >= 0) prim.properties.set('material:binding', relation(material));
    return;
  }
  const faces = new Map<number, number[]>();
  mesh.faceMaterial.forEach((slot, face) => {
    const list = faces.get(slot) ?? [];
    faces.set(slot, list);
    list.push(face);
  });
  for (const slot of [...faces.keys()].sort((a, b) => a - b)) {
    const material = node.materials[slot] ?? -1;
    const title =
      material >= 0
        ? materialPaths[material].slice(materialPaths[material].lastIndexOf('/') + 1)
        : 'unassigned';
    const subset = createPrim(nameUnder(title), 'GeomSubset');
    setUniform(subset, 'elementType', 'token', 'face');
    setUniform(subset, 'familyName', 'token', 'materialBind');
    set(subset, 'indices', 'int[]', Int32Array.from(faces.get(slot) ?? []));
    if (material >= 0) {
      subset.metadata.apiSchemas = createListOp({ prepended: ['MaterialBindingAPI'] });
      subset.properties.set('material:binding', relation(material));
    }
    prim.children.push(subset);
  }
  setUniform(prim, 'subsetFamily:materialBind:familyType', 'token', 'partition');
}
