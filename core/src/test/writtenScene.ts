import { Document, type Node } from '@gltf-transform/core';
import { addGeometry } from '../formats/gltf/writeScene.ts';
import { createDocument, type SceneDocument, Y_UP } from '../scene/document.ts';

/** A document in metres and Y up, so that nothing is turned on the way. */
function scene(change: (document: SceneDocument) => void): SceneDocument {
  const document = Object.assign(createDocument('gltf', 'glb'), {
    axes: Y_UP,
    metresPerUnit: 1,
    unitStated: true,
  });
  change(document);
  return document;
}

/** What becomes of such a document in glTF, with its nodes by name and what is told. */
export function writtenScene(change: (document: SceneDocument) => void) {
  const gltf = new Document();
  gltf.createBuffer('a');
  const losses = addGeometry(
    gltf,
    scene(change),
    () => null,
    (name) => name,
  );
  const root = gltf.getRoot();
  const node = (name: string) => root.listNodes().find((one) => one.getName() === name) as Node;
  return { gltf, root, node, losses };
}
