import { expect, it } from 'vitest';
import { createDocument, createMesh, createNode } from '../scene/document.ts';
import { createMapUse, createMaterial } from '../scene/material.ts';
import { uvPlaces } from './uvPlaces.ts';

it('tells where sets stand, by the meshes whose images ask for them', () => {
  const document = createDocument('fbx', '');
  const listed = ['map1', 'light', 'UVMap'];
  const meshes = [['map1', 'light'], ['UVMap'], ['light', 'UVMap']];
  for (const [i, sets] of meshes.entries()) {
    const values = new Float64Array(6);
    const mesh = createMesh(`Deck${i}`, {
      points: new Float64Array(9),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
      uvSets: sets.map((name) => ({ name, size: 2, domain: 'corner', values, index: null })),
    });
    document.meshes.push(mesh);
    document.nodes.push(createNode(mesh.name, 'mesh', -1, { mesh: i, materials: [i === 2 ? 0 : -1] }));
  }
  document.materials.push(createMaterial('Paint', 'legacy'));
  expect(uvPlaces(document, listed)).toEqual({ map1: 0, light: 1, UVMap: 0 });
  const map = createMapUse('tide.png', 'baseColor', { uvSet: 'UVMap' });
  document.materials[0].channels.baseColor = { value: [1, 1, 1], map, source: { from: 'file', detail: '' } };
  expect(uvPlaces(document, listed)).toEqual({ map1: 0, light: 1, UVMap: 1 });
  // Nothing to tell where the list says it all.
  document.meshes.splice(1);
  document.nodes.splice(1);
  expect(uvPlaces(document, ['map1', 'light'])).toBeNull();
});
