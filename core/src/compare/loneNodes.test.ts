import { describe, expect, it } from 'vitest';
import { createDocument, createNode, type SceneDocument } from '../scene/document.ts';
import { BOX_QUADS, meshOf } from '../test/boxes.ts';
import { compareHierarchy } from './compareHierarchy.ts';
import { loneNodes } from './loneNodes.ts';

const BOX = Array.from({ length: 8 }, (_, i) => [i & 1, (i >> 1) & 1, (i >> 2) & 1]).flat();

/** Nodes as name, parent and whether they have a mesh. */
function quay(...nodes: [string, number, boolean][]): SceneDocument {
  const document = createDocument('usd', 'made');
  document.meshes.push(meshOf(BOX, BOX_QUADS));
  for (const [name, parent, meshed] of nodes)
    document.nodes.push(createNode(name, meshed ? 'mesh' : 'group', parent, { mesh: meshed ? 0 : -1 }));
  return document;
}

describe('names that one node has', () => {
  it('count a node with the one of its name that it hangs on, and leave out those of several', () => {
    const document = quay(
      ['Post', -1, false],
      ['post', 0, true],
      ['Rail', 0, true],
      ['Rail', -1, true],
      ['Net', 1, false],
    );
    expect([...loneNodes(document)]).toEqual([
      ['post', 0],
      ['net', 4],
    ]);
    expect([...loneNodes(document, ({ mesh }) => mesh >= 0).keys()]).toEqual([]);
  });
});

describe('what parts hang on', () => {
  const own = quay(['Post', -1, true], ['Rail', 0, true]);
  const parted = (railOn: number) => quay(['Post', -1, false], ['Post', 0, true], ['Rail', railOn, true]);

  it('is the same where a format parts a mesh from what else its node holds', () => {
    expect(compareHierarchy(own, parted(0))).toEqual([]);
    expect(compareHierarchy(parted(0), own)).toEqual([]);
  });

  it('is told where it is another there', () => {
    expect(compareHierarchy(own, parted(-1)).map(({ message }) => message)).toEqual([
      'Rail hangs on nothing, not on post',
    ]);
  });
});
