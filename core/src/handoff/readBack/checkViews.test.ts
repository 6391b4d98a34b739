import { describe, expect, it } from 'vitest';
import { createDocument, createNode, type SceneDocument } from '../../scene/document.ts';
import { lamp } from '../../test/lamp.ts';
import { lens } from '../../test/lens.ts';
import { checkViews } from './checkViews.ts';

const LAMP = lamp();

/** A camera and four lights over a quay, in centimetres. */
function quay(change: (document: SceneDocument) => void = () => {}): SceneDocument {
  const document = createDocument('usd', 'usda');
  document.metresPerUnit = 0.01;
  document.cameras.push(lens());
  document.lights.push(
    { ...LAMP },
    { ...LAMP, kind: 'area', size: [200, 100] },
    { ...LAMP, kind: 'point' },
    { ...LAMP, kind: 'directional' },
  );
  document.lights.push({ ...LAMP, kind: 'dome', sky: { image: 'sky', layout: 'latlong' } });
  document.images.push({ key: 'sky', written: 'maps/sky.exr', relative: null, embedded: null });
  document.nodes.push(createNode('lens', 'camera', -1, { camera: 0 }));
  document.lights.forEach(({ kind }, light) => document.nodes.push(createNode(kind, 'light', -1, { light })));
  for (const [i, node] of document.nodes.entries()) node.transform.translation = [i * 100, 300, 0];
  change(document);
  return document;
}
const check = (change?: (document: SceneDocument) => void, format: SceneDocument['format'] = 'usd') =>
  checkViews(quay(), { ...quay(change), format }, new Map([['maps/sky.exr', new Uint8Array(1)]]));

describe('cameras and lights read back', () => {
  it('are as they were, in whatever order', () => {
    expect(check()).toEqual({ check: 'cameras and lights', ok: true, expected: '6', found: '6' });
    expect(check(({ nodes }) => nodes.reverse()).ok).toBe(true);
  });

  it.each<[string, (document: SceneDocument) => void, string]>([
    [
      'a camera elsewhere',
      ({ nodes }) => Object.assign(nodes[0].transform.translation, [1]),
      'lens is not as it was; lens was not there',
    ],
    [
      'a camera that looks aside',
      ({ nodes }) => Object.assign(nodes[0].transform.rotation, { 1: 1 }),
      'lens is not',
    ],
    [
      'a camera that is tilted',
      ({ nodes }) => Object.assign(nodes[0].transform.rotation, { 2: 1 }),
      'lens is not',
    ],
    ['another lens', ({ cameras }) => Object.assign(cameras[0], { focalLength: 36 }), 'lens is not'],
    [
      'another way to see',
      ({ cameras }) => Object.assign(cameras[0], { projection: 'orthographic' }),
      'lens is not',
    ],
    ['another colour', ({ lights }) => Object.assign(lights[0], { colour: [1, 1, 1] }), 'spot is not'],
    ['another strength', ({ lights }) => Object.assign(lights[3], { intensity: 300 }), 'directional is not'],
    ['a wider cone', ({ lights }) => Object.assign(lights[0], { outerAngle: 80 }), 'spot is not'],
    ['a larger area', ({ lights }) => Object.assign(lights[1], { size: [200, 200] }), 'area is not'],
    ['another kind', ({ lights }) => Object.assign(lights[2], { kind: 'spot' }), 'point is not'],
    ['a lamp elsewhere', ({ nodes }) => Object.assign(nodes[3].transform.translation, [1]), 'point is not'],
    [
      'a sun from elsewhere',
      ({ nodes }) => Object.assign(nodes[4].transform.rotation, [30]),
      'directional is not',
    ],
    [
      'a dome that is turned',
      ({ nodes }) => Object.assign(nodes[5].transform.rotation, { 1: 30 }),
      'dome is not',
    ],
    [
      'a dome that shows nothing',
      ({ lights }) => Object.assign(lights[4], { sky: undefined }),
      'dome is not',
    ],
    [
      'a dome whose picture is gone',
      ({ images }) => Object.assign(images[0], { written: 'sky.exr' }),
      'lamp shows sky.exr, which is not in the package',
    ],
    ['one less', ({ nodes }) => nodes.pop(), 'dome is not as it was'],
    ['one more', ({ nodes }) => nodes.push({ ...nodes[1], name: 'beacon' }), 'beacon was not there'],
  ])('tell %s', (_, change, found) => {
    const told = check(change);
    expect([told.ok, told.found]).toEqual([false, expect.stringContaining(found)]);
  });

  it('are held to their place by how far they stand from each other', () => {
    const jewel = (off: number) =>
      quay(({ nodes }) => {
        for (const node of nodes)
          node.transform.translation = node.transform.translation.map((value) => value / 1000) as [
            number,
            number,
            number,
          ];
        nodes[0].transform.translation[0] += off;
      });
    const near = (off: number) =>
      checkViews(jewel(0), jewel(off), new Map([['maps/sky.exr', new Uint8Array(1)]])).ok;
    // Half a centimetre at most from the middle: a thousandth of that counts, a hundred thousandth does not.
    expect([near(5e-4), near(5e-6)]).toEqual([false, true]);
  });

  it('do not mind where what has no place stands', () => {
    expect(check(({ nodes }) => Object.assign(nodes[4].transform.translation, [9])).ok).toBe(true);
    expect(check(({ nodes }) => Object.assign(nodes[3].transform.rotation, [30])).ok).toBe(true);
  });

  it('are those that the format has words for', () => {
    expect([
      check(undefined, 'gltf').expected,
      check(undefined, 'fbx').expected,
      check(undefined, 'obj').expected,
    ]).toEqual(['4', '5', '0']);
    expect(check(({ lights }) => Object.assign(lights[1], { size: [0, 0] }), 'fbx').ok).toBe(true);
  });
});
