import { Document } from '@gltf-transform/core';
import { describe, expect, it } from 'vitest';
import { addGeometry } from '../formats/gltf/writeScene.ts';
import { writeModel } from '../formats/writeModel.ts';
import { createDocument, createMesh, createNode, type SceneDocument } from './document.ts';
import { type Loss, lossesInWords } from './loss.ts';
import { partsUnsaid } from './unsaidParts.ts';

/** Parts under a hidden group and beside it, and one without a face. */
function quay(change: (document: SceneDocument) => void = () => {}): SceneDocument {
  const document = createDocument('usd', 'made');
  const face = {
    points: new Float64Array(9),
    faceCounts: Uint32Array.of(3),
    faceCorners: Uint32Array.of(0, 1, 2),
  };
  document.meshes.push(
    createMesh('plate', face),
    createMesh('empty', { ...face, faceCounts: new Uint32Array(0), faceCorners: new Uint32Array(0) }),
  );
  document.nodes.push(
    createNode('old', 'group', -1, { visible: false }),
    createNode('rail', 'mesh', 0, { mesh: 0 }),
  );
  document.nodes.push(
    createNode('deck', 'mesh', -1, { mesh: 0 }),
    createNode('mast', 'mesh', 2, { mesh: 0, visible: false }),
  );
  document.nodes.push(createNode('note', 'mesh', 0, { mesh: 1 }));
  change(document);
  return document;
}

describe('what most formats say nothing of', () => {
  it('are parts that are hidden, by themselves or by what they hang on', () => {
    expect(lossesInWords(partsUnsaid(quay(), 'glTF'))).toEqual([
      'rail, mast: hidden in the source; glTF shows them',
    ]);
    expect(
      lossesInWords(
        partsUnsaid(
          quay(({ nodes }) => Object.assign(nodes[0], { visible: true })),
          'OBJ',
        ),
      ),
    ).toEqual(['mast: hidden in the source; OBJ shows it']);
    expect(partsUnsaid(quay(), 'FBX', { showsHidden: null })).toEqual([]);
    // However deep they hang.
    const deep = quay(({ nodes }) => {
      for (let i = 0; i < 20_000; i += 1)
        nodes.push(
          createNode(
            'link',
            'mesh',
            i === 0 ? 0 : nodes.length - 1,
            i === 19_999 ? { mesh: 0 } : { mesh: 1 },
          ),
        );
    });
    expect(partsUnsaid(deep, 'glTF')[0].count).toBe(3);
    const many = quay(({ nodes }) =>
      nodes.push(...Array.from({ length: 6 }, (_, i) => createNode(`bolt_${i}`, 'mesh', 0, { mesh: 0 }))),
    );
    expect(lossesInWords(partsUnsaid(many, 'glTF'))[0]).toMatch(/^rail, mast, bolt_0, bolt_1 and 4 more: /);
  });

  it('are parts that show one side of what shows both elsewhere', () => {
    const sided = quay(({ nodes }) => Object.assign(nodes[2], { oneSided: true }));
    expect(lossesInWords(partsUnsaid(sided, 'glTF')).at(-1)).toBe(
      'deck: one side shows, of other parts with the same material both; glTF shows both of it, too',
    );
  });

  it('are told by every writer that says nothing of them', () => {
    const cages = quay(({ meshes }) => Object.assign(meshes[0], { subdivision: 'catmullClark' }));
    const codes = (losses: readonly Loss[]) =>
      losses.map(({ code }) => code).filter((code) => code.startsWith('parts.'));
    expect(codes(writeModel(cages, 'quay.fbx').losses)).toEqual(['parts.cages']);
    expect(codes(writeModel(cages, 'quay.obj').losses)).toEqual(['parts.hidden', 'parts.cages']);
    expect(codes(writeModel(cages, 'quay.usda').losses)).toEqual([]);
    const [none, named] = [() => null, (name: string) => name];
    expect(addGeometry(new Document(), cages, none, named)).toMatchObject([
      { code: 'parts.hidden', detail: 'a viewer of glTF that knows no KHR_node_visibility' },
      { code: 'parts.cages', detail: 'glTF' },
    ]);
  });

  it('are cages of smooth surfaces, but for those that say how they are shaded', () => {
    const cage = (normals: boolean) =>
      quay(({ meshes, nodes }) => {
        nodes[0].visible = true;
        nodes[3].visible = true;
        meshes[0].subdivision = 'catmullClark';
        if (normals)
          meshes[0].normals = {
            name: '',
            size: 3,
            domain: 'point',
            values: new Float64Array(9),
            index: null,
          };
      });
    expect(lossesInWords(partsUnsaid(cage(false), 'FBX', { showsHidden: null }))).toEqual([
      'rail, deck, mast: cages of smooth surfaces (subdivision); FBX has the cages alone',
    ]);
    expect(partsUnsaid(cage(true), 'FBX')).toEqual([]);
  });
});
