import { expect, it } from 'vitest';
import { writeModel } from '../formats/writeModel.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { createDocument, createMesh, createNode, type SceneDocument } from './document.ts';
import { createMaterial } from './material.ts';
import { withMaterialForAll, withMaterialForSlots } from './materialForAll.ts';

const POINTS = new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0]);

/** Triangles by part, each face in a slot; slots name materials by their numbers, -1 for none. */
function quay(parts: [string, number[], number[]][], materials = ['Iron', 'Oak']): SceneDocument {
  const document = createDocument('obj', 'made');
  document.materials.push(...materials.map((name) => createMaterial(name, 'metalRough')));
  for (const [name, faceSlots, slots] of parts) {
    const faceMaterial = faceSlots.length > 1 ? Int32Array.from(faceSlots) : null;
    const count = faceSlots.length;
    const faceCorners = Uint32Array.from({ length: count * 3 }, (_, i) => i % 3);
    document.nodes.push(createNode(name, 'mesh', -1, { mesh: document.meshes.length, materials: slots }));
    document.meshes.push(
      createMesh(name, {
        points: POINTS,
        faceCounts: new Uint32Array(count).fill(3),
        faceCorners,
        faceMaterial,
      }),
    );
  }
  return document;
}

it('faces without a material get a plain one where others have one, and nothing else changes', () => {
  const document = quay([
    ['Post', [0], [0]],
    ['Bare', [0], [-1]],
    ['Half', [0, 1, 0], [1]],
    ['Group', [], []],
  ]);
  const { document: made, parts } = withMaterialForAll(document);
  expect(parts).toEqual(['Bare', 'Half']);
  expect(made.materials.map(({ name, key }) => [name, key])).toEqual([
    ['Iron', 'Iron'],
    ['Oak', 'Oak'],
    ['no_material', 'no_material'],
  ]);
  expect(made.nodes.map(({ materials }) => materials)).toEqual([[0], [2], [1, 2], []]);
  expect(document.materials).toHaveLength(2);
  expect(withMaterialForAll(made)).toEqual({ document: made, parts: [] });
});

it('where all have one, or none has, the document stays; a name that is taken is not taken again', () => {
  for (const parts of [[['Post', [0], [0]]], [['Bare', [0], [-1]]], []] as [string, number[], number[]][][]) {
    const document = quay(parts);
    expect(withMaterialForAll(document).document).toBe(document);
  }
  const taken = quay(
    [
      ['Post', [0], [0]],
      ['Bare', [0], []],
    ],
    ['no_material'],
  );
  expect(withMaterialForAll(taken).document.materials.map(({ name }) => name)).toEqual([
    'no_material',
    'no_material_2',
  ]);
});

it('OBJ says it by name, since most readers pass the one before on', () => {
  const { files, losses } = writeModel(
    quay([
      ['Post', [0], [1]],
      ['Bare', [0], [-1]],
    ]),
    'quay.obj',
  );
  const text = new TextDecoder().decode(files.get('quay.obj'));
  expect([...text.matchAll(/^usemtl.*$/gm)].map(([line]) => line)).toEqual([
    'usemtl Oak',
    'usemtl no_material',
  ]);
  expect(new TextDecoder().decode(files.get('quay.mtl'))).toContain('newmtl no_material');
  expect(losses).toContainEqual({ code: 'obj.noMaterial', part: 'Bare' });
});

it('slots without a material get the plain one where another of their part has one, and nowhere else', () => {
  const document = quay([
    ['Post', [0], [0]],
    ['Bare', [0, 1], [-1, -1]],
    ['Half', [0, 1, 0], [1]],
    // No face is in slot 1, but it counts among the slots.
    ['Spare', [0, 2, 0], [0, -1, 1]],
  ]);
  const { document: made, parts } = withMaterialForSlots(document);
  expect(parts).toEqual(['Half', 'Spare']);
  expect(made.nodes.map(({ materials }) => materials)).toEqual([[0], [-1, -1], [1, 2], [0, 2, 1]]);
  expect(made.materials[2].name).toBe('no_material');
});

it.each(['quay.fbx', 'quay.usda'])('%s tells of parts that got it, and has it', async (name) => {
  const half = quay([
    ['Half', [0, 1, 0], [1]],
    ['Bare', [0], [-1]],
  ]);
  const { files, losses } = writeModel(half, name);
  expect(losses.filter(({ code }) => code === 'part.noMaterial')).toEqual([
    { code: 'part.noMaterial', part: 'Half', detail: name.endsWith('fbx') ? 'FBX' : 'USD' },
  ]);
  const back = await readModel(name, memorySource('quay', Object.fromEntries(files)));
  const worn = back.nodes.map((node) =>
    Array.from(
      back.meshes[node.mesh].faceMaterial ?? [0],
      (slot) => back.materials[node.materials[slot]]?.name,
    ),
  );
  expect(worn).toEqual([['Oak', 'no_material', 'Oak'], [undefined]]);
});
