import { createDocument, createMesh, createNode, type SceneDocument } from '@kinkajou/core/scene/document';

/** A wavy sheet of quads with UVs, of at least so many triangles. */
export function gridDocument(triangles: number): SceneDocument {
  const side = Math.ceil(Math.sqrt(triangles / 2));
  const across = side + 1;
  const points = new Float64Array(across * across * 3);
  const uvs = new Float64Array(across * across * 2);
  for (let y = 0, at = 0; y < across; y += 1) {
    for (let x = 0; x < across; x += 1, at += 1) {
      points.set([x / side, Math.sin(x * 0.1) * 0.05, y / side], at * 3);
      uvs.set([x / side, y / side], at * 2);
    }
  }
  const corners = new Uint32Array(side * side * 4);
  for (let y = 0, at = 0; y < side; y += 1) {
    for (let x = 0; x < side; x += 1, at += 4) {
      const first = y * across + x;
      corners.set([first, first + 1, first + across + 1, first + across], at);
    }
  }
  const document = createDocument('obj', 'text');
  document.meshes.push(
    createMesh('sheet', {
      points,
      faceCounts: new Uint32Array(side * side).fill(4),
      faceCorners: corners,
      uvSets: [{ name: 'map1', domain: 'corner', size: 2, values: uvs, index: corners }],
    }),
  );
  document.nodes.push(createNode('sheet', 'mesh', -1, { mesh: 0 }));
  return document;
}
