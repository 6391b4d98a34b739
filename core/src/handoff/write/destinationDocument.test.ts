import { expect, it } from 'vitest';
import { DESTINATIONS } from '../../destinations/destinations.ts';
import { createDocument, createMesh, createNode } from '../../scene/document.ts';
import { createMaterial } from '../../scene/material.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import { destinationDocument, withOwnMaterials } from './destinationDocument.ts';

it('every part gets the materials that its faces have, and none of those that it only lists', () => {
  const document = createDocument('gltf', 'made');
  document.materials.push(createMaterial('Oak', 'metalRough'), createMaterial('Iron', 'metalRough'));
  const faces = {
    points: new Float64Array(9),
    faceCounts: Uint32Array.of(3),
    faceCorners: Uint32Array.of(0, 1, 2),
  };
  document.meshes.push(createMesh('beam', { ...faces, faceMaterial: Int32Array.of(1) }));
  document.nodes.push(createNode('Beam', 'mesh', -1, { mesh: 0, materials: [0, 1] }));
  const { document: made, copies } = withOwnMaterials(document);
  expect(made.materials.map(({ name }) => name)).toEqual(['Beam_Iron']);
  expect(made.nodes[0].materials).toEqual([-1, 0]);
  expect([...copies]).toEqual([['Iron', ['Beam_Iron']]]);
});

it('a mesh without a face goes out as a place alone', () => {
  const document = createDocument('fbx', 'made');
  const [destination] = DESTINATIONS;
  const nothing = {
    points: new Float64Array(9),
    faceCounts: new Uint32Array(),
    faceCorners: new Uint32Array(),
  };
  const triangle = { ...nothing, faceCounts: Uint32Array.of(3), faceCorners: Uint32Array.of(0, 1, 2) };
  document.meshes.push(createMesh('sparks', nothing), createMesh('beam', triangle));
  document.nodes.push(
    createNode('Sparks', 'mesh', -1, { mesh: 0, materials: [0] }),
    createNode('Beam', 'mesh', 0, { mesh: 1 }),
  );
  const { nodes } = destinationDocument(document, { destination, materials: [] } as unknown as HandoffPlan);
  expect(nodes.map(({ name, kind, mesh, parent }) => [name, kind, mesh, parent])).toEqual([
    ['Sparks', 'group', -1, -1],
    ['Beam', 'mesh', 1, 0],
  ]);
});
