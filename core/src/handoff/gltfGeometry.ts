import type { Document, Material as GltfMaterial, Mesh } from '@gltf-transform/core';
import type { SceneDocument, SceneNode } from '../scene/document.ts';
import { determinant3, geometricMatrix, invertAffine, localMatrix, type Matrix4, multiply, normalCofactors, toYUpMetres } from '../scene/matrix.ts';
import { buildTriangleSets, type TriangleSet } from '../scene/vertices.ts';

/**
 * Adds the document's nodes and meshes to a glTF document: Y up, metres, triangles, names as given by `nameOf`.
 * `materialOf` gives the glTF material of a document material, or null.
 */
export function addGeometry(
  gltf: Document,
  document: SceneDocument,
  materialOf: (index: number) => GltfMaterial | null,
  nameOf: (name: string, fallback?: string) => string,
): void {
  const buffer = gltf.getRoot().listBuffers()[0] ?? gltf.createBuffer();
  const scene = gltf.createScene('scene');
  gltf.getRoot().setDefaultScene(scene);
  const into = toYUpMetres(document.axes, document.metresPerUnit);
  const back = invertAffine(into);
  const meshes = new Map<string, Mesh | null>();
  const sets = new Map<number, TriangleSet[]>();
  const meshFor = (node: SceneNode) => {
    const geometric = geometricMatrix(node.transform);
    const key = JSON.stringify([node.mesh, node.materials, Array.from(geometric)]);
    const known = meshes.get(key);
    if (known !== undefined) return known;
    const source = document.meshes[node.mesh];
    let triangles = sets.get(node.mesh);
    if (!triangles) {
      triangles = buildTriangleSets(source);
      sets.set(node.mesh, triangles);
    }
    const mesh = createMesh(gltf, buffer, triangles, multiply(into, geometric), (slot) => materialOf(node.materials[slot] ?? -1));
    mesh?.setName(nameOf(source.name || node.name, 'mesh'));
    meshes.set(key, mesh);
    return mesh;
  };
  const nodes = document.nodes.map((node) => {
    // Conjugated by the change of axes and unit, so that nodes keep plain transforms and points are in metres.
    const local = multiply(multiply(into, localMatrix(node.transform)), back);
    const made = gltf.createNode(nameOf(node.name, 'node')).setMatrix(Array.from(local) as Parameters<ReturnType<Document['createNode']>['setMatrix']>[0]);
    if (node.mesh >= 0) made.setMesh(meshFor(node));
    return made;
  });
  document.nodes.forEach((node, i) => {
    if (node.parent < 0) scene.addChild(nodes[i]);
    else nodes[node.parent].addChild(nodes[i]);
  });
}

function createMesh(
  gltf: Document,
  buffer: ReturnType<Document['createBuffer']>,
  sets: TriangleSet[],
  transform: Matrix4,
  materialOf: (slot: number) => GltfMaterial | null,
): Mesh | null {
  const mesh = gltf.createMesh();
  const mirrored = determinant3(transform) < 0;
  for (const set of sets) {
    if (set.indices.length === 0) continue;
    const accessor = (array: Float32Array | Uint32Array | Uint16Array, type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4') =>
      gltf.createAccessor().setArray(array).setType(type).setBuffer(buffer);
    const primitive = gltf
      .createPrimitive()
      .setIndices(accessor(narrow(mirrored ? turned(set.indices) : set.indices, set.positions.length / 3), 'SCALAR'))
      .setAttribute('POSITION', accessor(movePoints(set.positions, transform), 'VEC3'))
      .setAttribute('NORMAL', accessor(turnNormals(set.normals, transform), 'VEC3'))
      .setMaterial(materialOf(set.slot));
    set.uvs.forEach((uv, i) => primitive.setAttribute(`TEXCOORD_${i}`, accessor(uv, 'VEC2')));
    if (set.colours) primitive.setAttribute('COLOR_0', accessor(set.colours, 'VEC4'));
    mesh.addPrimitive(primitive);
  }
  if (mesh.listPrimitives().length > 0) return mesh;
  mesh.dispose();
  return null;
}

/** 16-bit indices where every vertex fits; 65535 itself is reserved by glTF. */
function narrow(indices: Uint32Array, vertices: number): Uint16Array | Uint32Array {
  return vertices <= 65535 ? Uint16Array.from(indices) : indices;
}

function turned(indices: Uint32Array): Uint32Array {
  const out = indices.slice();
  for (let i = 0; i < out.length; i += 3) {
    out[i + 1] = indices[i + 2];
    out[i + 2] = indices[i + 1];
  }
  return out;
}

function movePoints(points: Float32Array, m: Matrix4): Float32Array {
  const out = new Float32Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [points[i], points[i + 1], points[i + 2]];
    for (let row = 0; row < 3; row += 1) out[i + row] = m[row] * x + m[4 + row] * y + m[8 + row] * z + m[12 + row];
  }
  return out;
}

function turnNormals(normals: Float32Array, m: Matrix4): Float32Array {
  const c = normalCofactors(m);
  const sign = determinant3(m) < 0 ? -1 : 1;
  const out = new Float32Array(normals.length);
  for (let i = 0; i < normals.length; i += 3) {
    const n = [0, 1, 2].map((row) => sign * (c[row] * normals[i] + c[3 + row] * normals[i + 1] + c[6 + row] * normals[i + 2]));
    const length = Math.hypot(n[0], n[1], n[2]) || 1;
    for (let k = 0; k < 3; k += 1) out[i + k] = n[k] / length;
  }
  return out;
}
