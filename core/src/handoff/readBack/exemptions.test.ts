import { describe, expect, it } from 'vitest';
import { type Difference, type DifferenceCode, difference } from '../../compare/difference.ts';
import { createNode, Y_UP, Z_UP } from '../../scene/document.ts';
import { LOSS_CODES, type Loss } from '../../scene/loss.ts';
import { createMapUse, createMaterial, type Material } from '../../scene/material.ts';
import { shearedNodes } from '../../scene/sheared.ts';
import { silenceOf } from '../write/silence.ts';
import { explained, lastingLosses } from './exemptions.ts';

const NAMES = new Map([
  ['oak-key', 'Oak'],
  ['brass-key', 'Brass'],
]);

const entryAt = (code: DifferenceCode, place: Partial<Difference>) => difference(code, 'it differs', place);
const exempt = (one: Difference, ...losses: Loss[]) => explained([one], losses, NAMES)[0].exempt;

describe('a loss that was told', () => {
  const loss: Loss = { code: 'map.noPlace', material: 'oak-key', channel: 'coat' };

  it('exempts its own material and channel', () => {
    expect(exempt(entryAt('channel.differs', { material: 'Oak', channel: 'coat' }), loss)).toBe(
      'map.noPlace',
    );
    expect(exempt(entryAt('channel.missing', { material: 'Oak', channel: 'coat' }), loss)).toBe(
      'map.noPlace',
    );
    expect(exempt(entryAt('use.wrap', { material: 'oak-key', channel: 'coat' }), loss)).toBe('map.noPlace');
  });

  it.each<[string, Difference]>([
    ['another material', entryAt('channel.differs', { material: 'Brass', channel: 'coat' })],
    ['another channel', entryAt('channel.differs', { material: 'Oak', channel: 'roughness' })],
    [
      'a channel whose name begins alike',
      entryAt('channel.differs', { material: 'Oak', channel: 'coatRoughness' }),
    ],
    ['the sides', entryAt('sides', { material: 'Oak' })],
    ['a contradiction of the sheet', entryAt('sheet.contradicts', { material: 'Oak', channel: 'coat' })],
    ['a part', entryAt('part.missing', { part: 'Oak' })],
  ])('exempts nothing of %s', (_, one) => {
    expect(exempt(one, loss)).toBeNull();
  });

  it('of a channel that is compared under another name exempts that', () => {
    expect(
      exempt(entryAt('channel.differs', { material: 'Oak', channel: 'roughness' }), {
        code: 'value.floor',
        material: 'oak-key',
        channel: 'glossiness',
      }),
    ).toBe('value.floor');
    expect(
      exempt(entryAt('channel.differs', { material: 'Oak', channel: 'reflectance' }), {
        code: 'value.noPlace',
        material: 'oak-key',
        channel: 'metalness',
      }),
    ).toBe('value.noPlace');
    expect(
      exempt(entryAt('channel.differs', { material: 'Oak', channel: 'normal' }), {
        code: 'value.noPlace',
        material: 'oak-key',
        channel: 'metalness',
      }),
    ).toBeNull();
  });

  it('of a part exempts that part', () => {
    const morphs: Loss = { code: 'obj.morphs', part: 'Jib' };
    expect(exempt(entryAt('rig.morph', { part: 'Jib' }), morphs)).toBe('obj.morphs');
    expect(exempt(entryAt('rig.morph', { part: 'Hook' }), morphs)).toBeNull();
    expect(exempt(entryAt('shape.points', { part: 'Jib' }), morphs)).toBeNull();
    expect(exempt(entryAt('rig.clip', { part: 'lift' }), { code: 'usd.clips', part: 'lift' })).toBe(
      'usd.clips',
    );
    expect(exempt(entryAt('rig.clip', { part: 'swing' }), { code: 'usd.clips', part: 'lift' })).toBeNull();
  });

  it('of several parts exempts that just these are shown, and no part too many', () => {
    const hidden: Loss = { code: 'parts.hidden', part: 'Jib, Hook', parts: ['Jib', 'Hook'] };
    const shown = (part: string) => entryAt('part.added', { part, measured: 'shown', allowed: 'hidden' });
    expect(exempt(shown('Hook'), hidden)).toBe('parts.hidden');
    expect(exempt(shown('Mast'), hidden)).toBeNull();
    expect(exempt(entryAt('part.added', { part: 'Hook' }), hidden)).toBeNull();
    expect(exempt(entryAt('part.missing', { part: 'Hook', measured: 'hidden' }), hidden)).toBeNull();
  });

  it('never exempts that a part, a material or a file is not there, whatever it is', () => {
    const all = LOSS_CODES.map((code): Loss => ({ code }));
    for (const code of [
      'part.missing',
      'part.added',
      'sheet.contradicts',
      'shape.faces',
      'shape.materials',
      'file.unreadable',
    ] as const)
      expect(exempt(entryAt(code, { part: 'Jib' }), ...all), code).toBeNull();
  });

  it('keeps what was exempt already, and takes the first that explains', () => {
    const one = {
      ...entryAt('channel.differs', { material: 'Oak', channel: 'coat' }),
      exempt: 'usd.noInput' as const,
    };
    expect(explained([one], [], NAMES)[0].exempt).toBe('usd.noInput');
    expect(explained([one], [loss, { code: 'usd.noInput' }], NAMES)[0].exempt).toBe('map.noPlace');
  });
});

describe('what a format has no words for', () => {
  function material(change: (material: Material) => void): Material {
    const made = createMaterial('Oak', 'metalRough');
    change(made);
    return made;
  }
  const map =
    (channel: 'baseColor' | 'normal' | 'height', use: Parameters<typeof createMapUse>[2] = {}) =>
    (made: Material) => {
      made.channels[channel] = {
        value: 1,
        map: createMapUse('a.png', channel, use),
        source: { from: 'file', detail: '' },
      };
    };
  const silence = (
    format: 'fbx' | 'obj' | 'usd' | 'gltf',
    change: (material: Material) => void,
    metresPerUnit = 1,
    axes = Y_UP,
  ) =>
    silenceOf(format, { materials: [material(change)], metresPerUnit, axes }).map(({ code, channel }) =>
      channel ? `${code} ${channel}` : code,
    );

  it.each<[string, (material: Material) => void, string[]]>([
    ['nothing, where all is usual', map('baseColor'), []],
    ['a space', map('baseColor', { space: 'lin_ap1_scene' }), ['format.space baseColor']],
    ['a direction', map('normal', { normalY: 'Y-' }), ['format.direction normal']],
    ['a height', map('height'), ['format.height height']],
    ['alpha', (made) => Object.assign(made, { alphaMode: 'mask' }), ['format.alpha']],
    ['two sides', (made) => Object.assign(made, { doubleSided: true }), ['format.sides']],
  ])('is told of FBX and of MTL: %s', (_, change, expected) => {
    expect(silence('fbx', change)).toEqual(expected);
    expect(silence('obj', change)).toEqual(expected);
    expect(silence('usd', change)).toEqual([]);
    expect(silence('gltf', change)).toEqual([]);
  });

  it('is unit and axes of OBJ, unless they are the usual ones', () => {
    expect(silence('obj', () => {}, 0.01)).toEqual(['format.unit']);
    expect(silence('obj', () => {}, 1, Z_UP)).toEqual(['format.unit']);
    expect(silence('fbx', () => {}, 0.01, Z_UP)).toEqual([]);
  });

  it('does not last once the sheet is followed', () => {
    expect(
      lastingLosses([
        { code: 'format.alpha' },
        { code: 'map.noPlace' },
        { code: 'fbx.component' },
        { code: 'usd.noInput' },
      ]).map(({ code }) => code),
    ).toEqual(['map.noPlace', 'usd.noInput']);
  });
});

describe('parts that plain numbers cannot place', () => {
  it('are those with a matrix of their own, and all that hang on one', () => {
    const nodes = [
      createNode('Quay', 'group', -1),
      createNode('Shed', 'group', 0),
      createNode('Door', 'mesh', 1),
      createNode('Crane', 'group', 0),
    ];
    expect(shearedNodes({ nodes })).toEqual([]);
    nodes[1].transform.matrix = new Float64Array(16);
    expect(shearedNodes({ nodes })).toEqual(['Shed', 'Door']);
  });
});
