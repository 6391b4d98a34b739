import { expect, it } from 'vitest';
import { DESTINATIONS } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { createDocument, createMesh, createNode } from '../../scene/document.ts';
import { createMaterial, type Rgb } from '../../scene/material.ts';
import type { HandoffPlan, PlannedMaterial } from '../plan/plan.ts';
import { destinationDocument, withOwnMaterials, writtenMaterial } from './destinationDocument.ts';

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

it('what metal/rough reflects is a classic highlight where it is tinted, as strong as its weight', () => {
  const destination: Destination = {
    ...DESTINATIONS[0],
    ...{ workflow: 'metalRough', writeAs: 'legacy', maps: [] },
  };
  const highlight = (tint: Rgb, weight?: number) => {
    const planned = {
      name: 'Oak',
      images: {},
      source: createMaterial('Oak', 'metalRough'),
      inputs: {
        specularColor: { value: tint, map: null },
        ...(weight === undefined ? {} : { specular: { value: weight, map: null } }),
      },
    } as unknown as PlannedMaterial;
    const { channels } = writtenMaterial(planned, destination, 1);
    return [channels.specularColor?.value, channels.specular?.value];
  };
  expect(highlight([1, 0.5, 0.25], 0.5)).toEqual([[0.5, 0.25, 0.125], undefined]);
  expect(highlight([1, 0.5, 0.25])).toEqual([[1, 0.5, 0.25], undefined]);
  // White tints nothing, and is no white highlight.
  expect(highlight([1, 1, 1])).toEqual([undefined, undefined]);
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
