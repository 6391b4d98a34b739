import { Document } from '@gltf-transform/core';
import { nodeKeys } from '../asset/asset.ts';
import { gltfIo } from '../formats/gltf/io.ts';
import { addGeometry } from '../formats/gltf/writeScene.ts';
import type { SceneDocument } from '../scene/document.ts';
import type { Material } from '../scene/material.ts';
import { determinant3, worldMatrices } from '../scene/matrix.ts';
import { NODE_KEY } from './nodeKey.ts';

/**
 * The geometry alone as GLB for the viewport: Y up, metres, one primitive per material. Materials carry the
 * document's keys as names and no images; the viewport puts its own in their place, and its own light. Nodes
 * carry their keys as an extra.
 */
export async function previewGlb(
  document: SceneDocument,
  keys: readonly string[] = nodeKeys(document.nodes),
): Promise<Uint8Array> {
  const gltf = new Document();
  gltf.createBuffer('geometry');
  const materials = document.materials.map((material) => gltf.createMaterial(material.key));
  const nodes = document.nodes.map((node, i) => ({ ...node, light: -1, custom: { [NODE_KEY]: keys[i] } }));
  // Shaders put the two tangents of a mirrored part together the wrong way; it is better off without.
  const mirrored = new Set<number>();
  worldMatrices(document.nodes).forEach((world, i) => {
    if (determinant3(world) < 0) mirrored.add(document.nodes[i].mesh);
  });
  const meshes = document.meshes.map((mesh, i) => (mirrored.has(i) ? { ...mesh, tangents: null } : mesh));
  // Whether colours of points are shown is the viewport's own choice, too.
  const shown = document.materials.map((material): Material => ({ ...material, colours: 'shown' }));
  addGeometry(
    gltf,
    { ...document, nodes, meshes, materials: shown },
    (index) => materials[index] ?? null,
    (name) => name,
  );
  gltf.getRoot().getAsset().generator = 'Kinkajou';
  return (await gltfIo()).writeBinary(gltf);
}
