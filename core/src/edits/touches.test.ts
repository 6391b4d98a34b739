import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { TAKE_ALL } from '../scene/intake.ts';
import { moveCursor } from './acts.ts';
import { overlap, touchesOf } from './touches.ts';

const origin = { from: 'hand', detail: '' } as const;
const values = (material: string, channel: 'roughness' | 'metalness' | 'opacity'): Edit => ({
  kind: 'setValues',
  slots: [{ material, channel }],
  value: 0.5,
  origin,
});
const clash = (a: Edit, b: Edit) => [
  overlap(touchesOf(a), touchesOf(b)),
  overlap(touchesOf(b), touchesOf(a)),
];
const link = (image: string): Edit => ({
  kind: 'linkImages',
  links: [{ image, path: 'a.png', reason: '' }],
  origin,
});
const mask = (key: string, change: object = { alphaMode: 'mask' }): Edit => ({
  kind: 'setAlpha',
  materials: [key],
  change,
  origin,
});
const replace = (key: string): Edit => ({
  kind: 'replaceMaterials',
  materials: [key],
  by: {
    name: 'x',
    workflow: 'metalRough',
    alphaMode: 'opaque',
    alphaCutoff: 0.5,
    doubleSided: false,
    exponent: null,
    channels: {},
  },
  origin,
});

describe('two edits', () => {
  it.each<[string, Edit, Edit, boolean]>([
    ['the same slot', values('Brass', 'roughness'), values('Brass', 'roughness'), true],
    ['two slots of a material', values('Brass', 'roughness'), values('Brass', 'metalness'), false],
    ['a slot and its whole material', values('Brass', 'roughness'), replace('Brass'), true],
    ['a slot and another material', values('Brass', 'roughness'), replace('Rope'), false],
    ['the alpha of a material and the whole of it', mask('Brass'), replace('Brass'), true],
    ['alpha and a slot beside it', mask('Brass'), values('Brass', 'roughness'), false],
    [
      'an alpha that sets opacity and that slot',
      mask('Brass', { opacity: 0.4 }),
      values('Brass', 'opacity'),
      true,
    ],
    ['two links of one image', link('a'), { kind: 'unlinkImages', images: ['a'], origin }, true],
    ['links of two images', link('a'), link('b'), false],
    ['an image and a material of one name', link('Brass'), replace('Brass'), false],
    [
      'names that hold what parts addresses',
      values('Brass","roughness', 'metalness'),
      values('Brass', 'roughness'),
      false,
    ],
    [
      'intake',
      { kind: 'setIntake', choice: TAKE_ALL, origin },
      { kind: 'setIntake', choice: TAKE_ALL, origin },
      true,
    ],
    [
      'one node',
      { kind: 'bindNodes', nodes: ['n', 'm'], material: 'a', origin },
      { kind: 'bindNodes', nodes: ['m'], material: 'b', origin },
      true,
    ],
    [
      'a new material and its slot',
      { kind: 'addMaterials', materials: [{ name: 'New', like: null }], origin },
      values('New', 'roughness'),
      true,
    ],
    [
      'a shading model and a slot',
      {
        kind: 'pasteSlots',
        slots: [],
        workflows: [{ material: 'Brass', workflow: 'specGloss', exponent: null }],
        origin,
      },
      values('Brass', 'roughness'),
      true,
    ],
    [
      'slots that an assignment empties',
      { kind: 'assignSlots', assignments: [], clears: [{ material: 'Brass', channel: 'roughness' }], origin },
      { kind: 'clearSlots', slots: [{ material: 'Brass', channel: 'roughness' }], origin },
      true,
    ],
  ])('touch %s', (_what, a, b, expected) => {
    expect(clash(a, b)).toEqual([expected, expected]);
  });
});

describe('the cursor of a log', () => {
  // Acts of one, three and two edits.
  const log = [1, 2, 2, 2, 5, 5].map((act, i) => ({ seq: i + 1, act }));

  it.each<[number, Parameters<typeof moveCursor>[2], number]>([
    [6, { by: -1 }, 4],
    [4, { by: -1 }, 1],
    [1, { by: -1 }, 0],
    [0, { by: -1 }, 0],
    [0, { by: 1 }, 1],
    [1, { by: 1 }, 4],
    [6, { by: 1 }, 6],
    // Left within an act, as an older version could.
    [3, { by: -1 }, 1],
    [3, { by: 1 }, 4],
    [6, { to: 0 }, 0],
    [0, { to: 2 }, 4],
    [0, { to: 4 }, 4],
    [0, { to: 99 }, 6],
  ])('from %s by %j is at %s', (cursor, move, expected) => {
    expect(moveCursor(log, cursor, move)).toBe(expected);
  });
});
