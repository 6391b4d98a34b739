import { describe, expect, it } from 'vitest';
import { poseOf } from '../compare/posed.ts';
import {
  createDocument,
  createNode,
  type SceneDocument,
  type Track,
  type TransformParts,
} from './document.ts';
import { worldMatrices } from './matrix.ts';
import { withPlainInheritance } from './plainInheritance.ts';

/** A winch on a deck, a drum on the winch that does not take over its scale, and a rope on the drum. */
function ship(
  deck: Partial<TransformParts>,
  winch: Partial<TransformParts>,
  tracks: Track[] = [],
): SceneDocument {
  const document = createDocument('fbx', '');
  document.nodes = [
    createNode('Deck', 'group', -1),
    createNode('Winch', 'group', 0),
    createNode('Drum', 'group', 1),
    createNode('Rope', 'group', 2),
  ];
  const parts: Partial<TransformParts>[] = [
    deck,
    winch,
    { translation: [1, 0, 0], rotation: [0, 0, 90], inherit: 'Rrs' },
    { translation: [0, 2, 0] },
  ];
  parts.forEach((part, i) => Object.assign(document.nodes[i].transform, part));
  if (tracks.length > 0) document.clips.push({ name: 'haul', start: 0, end: 1, tracks });
  return document;
}

const scaling: Track = {
  node: 1,
  path: 'scale',
  times: Float64Array.of(0, 1),
  values: Float64Array.of(1, 1, 1, 4, 4, 4),
  interpolation: 'linear',
};
const close = (found: ArrayLike<number>, expected: ArrayLike<number>) =>
  Array.from(expected).forEach((value, i) => expect(found[i], `${i}`).toBeCloseTo(value, 6));

describe('scales that do not come down', () => {
  it('are worked into what hangs below, which inherits as everywhere else', () => {
    const document = ship({}, { scale: [2, 2, 2] });
    const { document: plain, shearedMotion } = withPlainInheritance(document);
    expect(plain.nodes.every(({ transform }) => transform.inherit === 'RSrs')).toBe(true);
    // The drum is half as large as the winch would make it, and the rope two from it and not four.
    close(plain.nodes[2].transform.scale, [0.5, 0.5, 0.5]);
    close(worldMatrices(plain.nodes)[3].subarray(12, 15), [0, 0, 0]);
    worldMatrices(plain.nodes).forEach((world, i) => close(world, worldMatrices(document.nodes)[i]));
    expect(shearedMotion).toEqual([]);
  });

  it('stay as they are where nothing is scaled', () => {
    const { document: plain } = withPlainInheritance(ship({ translation: [0, 1, 0] }, {}));
    expect(plain.nodes[2].transform).toEqual({ ...ship({}, {}).nodes[2].transform, inherit: 'RSrs' });
    const bare = ship({}, {});
    bare.nodes[2].transform.inherit = 'RSrs';
    expect(withPlainInheritance(bare).document).toBe(bare);
  });

  it('are none where a clip moves a scale by nothing', () => {
    const still = { ...scaling, values: Float64Array.of(1, 1, 1, 1, 1, 1) };
    const swing: Track = {
      ...scaling,
      node: 2,
      path: 'rotation',
      values: Float64Array.of(0, 0, 0, 0, 0, 60),
    };
    const document = ship({}, {}, [still, swing]);
    expect(withPlainInheritance(document).document.clips[0].tracks).toEqual([still, swing]);
  });

  it('become a matrix where they shear', () => {
    const document = ship({}, { scale: [1, 3, 1], rotation: [0, 0, 20] });
    document.nodes[2].transform.rotation = [0, 0, 30];
    const { document: plain } = withPlainInheritance(document);
    expect(plain.nodes[2].transform.matrix).not.toBeNull();
    worldMatrices(plain.nodes).forEach((world, i) => close(world, worldMatrices(document.nodes)[i]));
  });

  it('are taken back at every moment of a clip that scales', () => {
    const shown: Track = {
      ...scaling,
      node: 2,
      path: 'visible',
      values: Float64Array.of(1, 0),
      interpolation: 'step',
    };
    const document = ship({}, {}, [scaling, shown]);
    const { document: plain } = withPlainInheritance(document);
    expect(plain.clips[0].tracks).toContain(shown);
    for (const time of [0, 0.5, 1]) {
      const [expected, found] = [document, plain].map((scene) => poseOf(scene, scene.clips[0], time).worlds);
      expected.forEach((world, i) => close(found[i], world));
      // Always of its own size: its x lies along y.
      close(found[2].subarray(0, 3), [0, 1, 0]);
    }
  });

  it('name what their motion shears, all that hangs on it, and what it bends', () => {
    const uneven = { ...scaling, values: Float64Array.of(1, 1, 1, 4, 1, 1) };
    const swing: Track = {
      ...scaling,
      node: 2,
      path: 'rotation',
      values: Float64Array.of(0, 0, 0, 0, 0, 60),
    };
    const document = ship({}, {}, [uneven, swing]);
    document.nodes.push(createNode('Sail', 'mesh', -1, { skin: 0 }), createNode('Mast', 'group', -1));
    document.skins.push({ name: 'Sail', joints: [0, 3], inverseBind: new Float64Array(32) });
    expect(withPlainInheritance(document).shearedMotion).toEqual(['Drum', 'Rope', 'Sail']);
  });
});
