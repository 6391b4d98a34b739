// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word

import { describe, expect, it } from 'vitest';
import type { AssetSource, Edit } from '../asset/asset.ts';
import { TAKE_ALL } from '../scene/intake.ts';
import {
  joinRulebooks,
  type LogSurroundings,
  patternOf,
  rulesFrom,
  surroundingsOf,
  unruledInWords,
} from './fromEdits.ts';
import { parseRulebook } from './parseRulebook.ts';
import type { Rule } from './rulebook.ts';

type EditBody = Edit extends infer One ? (One extends Edit ? Omit<One, 'origin'> : never) : never;
const hand = { from: 'hand', detail: '' } as const;
const rulesOf = (body: EditBody, surroundings?: LogSurroundings): Rule[] => {
  const { rulebook } = rulesFrom([{ ...body, origin: hand } as Edit], 'From the pier', surroundings);
  // What is made must be a rulebook that is read again.
  return rulebook.rules.length === 0 ? [] : parseRulebook(JSON.parse(JSON.stringify(rulebook))).rules;
};
const intake = (choice: Partial<typeof TAKE_ALL>) =>
  rulesOf({ kind: 'setIntake', choice: { ...TAKE_ALL, ...choice } });
const slot = (material: string, channel: 'baseColor' | 'roughness' | 'normal' = 'roughness') => ({
  material,
  channel,
});

describe('a name as a pattern', () => {
  it('leaves numbers open, and means signs of patterns as they stand', () => {
    expect(patternOf('Bolt_012_b7')).toBe('Bolt_*_b*');
    expect(patternOf('Rope [old] {a} x?*')).toBe('Rope \\[old\\] \\{a\\} x\\?\\*');
    expect(patternOf('back\\slash')).toBe('back\\\\slash');
  });
});

describe('the rule of an edit', () => {
  it.each<[string, EditBody, Rule[]]>([
    [
      'that links an image by its folder',
      {
        kind: 'linkImages',
        links: [{ image: 'P:\\old\\tex\\iron.png', path: 'textures/iron.png', reason: '' }],
      },
      [
        {
          name: 'old/tex lie in textures',
          when: {},
          then: [{ do: 'link', from: 'old/tex', to: 'textures' }],
        },
      ],
    ],
    [
      'that links what lies at the top',
      { kind: 'linkImages', links: [{ image: 'tex/iron.png', path: 'iron.png', reason: '' }] },
      [{ name: 'tex lie in the top folder', when: {}, then: [{ do: 'link', from: 'tex', to: '' }] }],
    ],
    [
      'that links what was written without a folder',
      { kind: 'linkImages', links: [{ image: 'iron.png', path: 'textures/iron.png', reason: '' }] },
      [
        {
          name: 'The written folders lie in textures',
          when: {},
          then: [{ do: 'link', from: '', to: 'textures' }],
        },
      ],
    ],
    [
      'that links an image of another name',
      { kind: 'linkImages', links: [{ image: 'a.png', path: 'b.png', reason: '' }] },
      [],
    ],
    [
      'that tells how slots are read',
      {
        kind: 'adjustSlots',
        slots: [slot('Iron_1'), slot('Iron_2')],
        change: { component: 'g', invert: true },
      },
      [
        {
          name: 'How roughness is read',
          when: { channel: 'roughness', material: 'Iron_*' },
          then: [{ do: 'assign', channel: 'roughness', component: 'g', invert: true }],
        },
      ],
    ],
    [
      'that tells both colour space and direction',
      {
        kind: 'adjustSlots',
        slots: [slot('Iron', 'normal'), slot('Oak', 'normal')],
        change: { space: 'data', normalY: 'Y-' },
      },
      [
        {
          name: 'Normal in data',
          when: { channel: 'normal', material: ['Iron', 'Oak'] },
          then: [{ do: 'tag', space: 'data' }],
        },
        {
          name: 'Normals point Y-',
          when: { channel: 'normal', material: ['Iron', 'Oak'] },
          then: [{ do: 'normal', normalY: 'Y-' }],
        },
      ],
    ],
    [
      'over several channels, one for each that is read otherwise',
      { kind: 'adjustSlots', slots: [slot('Iron'), slot('Iron', 'baseColor')], change: { invert: false } },
      [
        {
          name: 'How roughness is read',
          when: { channel: 'roughness', material: 'Iron' },
          then: [{ do: 'assign', channel: 'roughness', invert: false }],
        },
        {
          name: 'How base colour is read',
          when: { channel: 'baseColor', material: 'Iron' },
          then: [{ do: 'assign', channel: 'baseColor', invert: false }],
        },
      ],
    ],
    [
      'that assigns an image',
      {
        kind: 'assignSlots',
        assignments: [
          {
            material: 'Iron',
            channel: 'roughness',
            image: 'tex/iron_2_r.png',
            component: 'r',
            invert: false,
            space: 'data',
            normalY: 'Y+',
          },
        ],
      },
      [
        {
          name: 'iron_2_r.png is roughness',
          when: { image: 'iron_*_r.png' },
          then: [{ do: 'assign', channel: 'roughness', component: 'r', invert: false }],
        },
      ],
    ],
    [
      'that sets values',
      { kind: 'setValues', slots: [slot('Iron_1'), slot('Iron_2'), slot('Oak', 'baseColor')], value: 0.5 },
      [
        {
          name: 'Roughness of 3 materials',
          when: { material: 'Iron_*' },
          then: [{ do: 'set', channel: 'roughness', value: 0.5 }],
        },
        {
          name: 'Base colour of 3 materials',
          when: { material: 'Oak' },
          then: [{ do: 'set', channel: 'baseColor', value: 0.5 }],
        },
      ],
    ],
    [
      'that sets how alpha is taken',
      { kind: 'setAlpha', materials: ['Net_1', 'Net_2'], change: { alphaMode: 'mask', alphaCutoff: 0.4 } },
      [
        {
          name: 'Transparency of Net_1, Net_2',
          when: { material: 'Net_*' },
          then: [{ do: 'alpha', mode: 'mask', cutoff: 0.4 }],
        },
      ],
    ],
    [
      'that sets the cut-off alone',
      { kind: 'setAlpha', materials: ['Net'], change: { alphaCutoff: 0.4 } },
      [{ name: 'Transparency of Net', when: { material: 'Net' }, then: [{ do: 'alpha', cutoff: 0.4 }] }],
    ],
    [
      'that sets how opaque materials are, too',
      { kind: 'setAlpha', materials: ['Net'], change: { opacity: 0.3, alphaMode: 'blend' } },
      [
        {
          name: 'Transparency of Net',
          when: { material: 'Net' },
          then: [
            { do: 'set', channel: 'opacity', value: 0.3 },
            { do: 'alpha', mode: 'blend' },
          ],
        },
      ],
    ],
    ['that changes sides alone', { kind: 'setAlpha', materials: ['Net'], change: { doubleSided: true } }, []],
    [
      'that renames materials, each by its exact name',
      { kind: 'renameMaterials', names: [{ material: 'M_1*', name: 'Oak' }] },
      [
        {
          name: 'M_1* is called Oak',
          when: { material: 'M_1\\*' },
          then: [{ do: 'renameMaterial', to: 'Oak' }],
        },
      ],
    ],
    [
      'that numbers materials',
      { kind: 'numberMaterials', numbers: [{ material: 'Oak_2', number: 7 }] },
      [
        {
          name: 'Oak_2 is number 7',
          when: { material: 'Oak_2' },
          then: [{ do: 'numberMaterial', number: 7 }],
        },
      ],
    ],
    [
      'that gives parts a material',
      { kind: 'bindNodes', nodes: ['Bolt_1', 'Bolt_2', 'Nut'], material: 'Iron' },
      [
        {
          name: 'Parts of Iron',
          when: { part: ['Bolt_*', 'Nut'] },
          then: [{ do: 'giveMaterial', material: 'Iron' }],
        },
      ],
    ],
    [
      'that drops parts',
      { kind: 'editParts', change: { do: 'drop', parts: ['a', 'b', 'c', 'd'] } },
      [{ name: 'Without a, b, c', when: { part: ['a', 'b', 'c', 'd'] }, then: [{ do: 'drop' }] }],
    ],
    [
      'that renames parts',
      { kind: 'editParts', change: { do: 'rename', names: [{ part: 'Cube.001', name: 'Post' }] } },
      [
        {
          name: 'Cube.001 is called Post',
          when: { part: 'Cube.001' },
          then: [{ do: 'renamePart', to: 'Post' }],
        },
      ],
    ],
    [
      'that moves a pivot',
      { kind: 'editParts', change: { do: 'pivot', parts: ['Post'], at: 'bottom' } },
      [{ name: 'Pivots at the bottom', when: { part: 'Post' }, then: [{ do: 'pivot', at: 'bottom' }] }],
    ],
    [
      'that moves a pivot to a picked place',
      { kind: 'editParts', change: { do: 'pivot', parts: ['Post'], at: [1, 2, 3] } },
      [],
    ],
    [
      'that gives a shape for collision',
      {
        kind: 'editParts',
        change: { do: 'collision', parts: ['Post'], shape: 'hulls', hulls: 4, error: 0.1 },
      },
      [
        {
          name: 'Collision: hulls',
          when: { part: 'Post' },
          then: [{ do: 'collision', shape: 'hulls', hulls: 4, error: 0.1 }],
        },
      ],
    ],
  ])('%s', (_, body, expected) => {
    expect(rulesOf(body)).toEqual(expected);
  });

  it('that stands an asset up says what was chosen, and nothing where nothing was', () => {
    expect(intake({})).toEqual([]);
    expect(intake({ up: 'Z' })).toMatchObject([{ when: {}, then: [{ do: 'axes', up: 'Z' }] }]);
    expect(intake({ metresPerUnit: 0.0254 })[0].then).toEqual([{ do: 'axes', unit: 'in' }]);
    expect(intake({ metresPerUnit: 0.01, scale: 2 })[0].then).toEqual([{ do: 'axes', unit: 'cm', scale: 2 }]);
    expect(intake({ rotation: [0, 90, 0] })[0].then).toEqual([{ do: 'axes', turn: [0, 90, 0] }]);
    expect(intake({ scale: 0.5 })[0].then).toEqual([{ do: 'axes', scale: 0.5 }]);
    // A length that is no unit says nothing by name.
    expect(intake({ metresPerUnit: 0.3 })).toEqual([]);
  });

  it('goes by the written path and the file that a slot reads, where these are known', () => {
    const surroundings: LogSurroundings = {
      writtenOf: (image) => `P:\\quay\\${image}.png`,
      imageOf: (material) => (material === 'Bare' ? null : `tex/${material}_rough.png`),
    };
    expect(
      rulesOf(
        { kind: 'linkImages', links: [{ image: 'iron', path: 'maps/iron.png', reason: '' }] },
        surroundings,
      )[0].then,
    ).toEqual([{ do: 'link', from: 'quay', to: 'maps' }]);
    const change = { space: 'data' } as const;
    expect(
      rulesOf({ kind: 'adjustSlots', slots: [slot('Iron_1'), slot('Oak')], change }, surroundings)[0].when,
    ).toEqual({
      channel: 'roughness',
      image: ['Iron_*_rough.png', 'Oak_rough.png'],
    });
    // Where one reads no image, all go by their materials.
    expect(
      rulesOf({ kind: 'adjustSlots', slots: [slot('Iron_1'), slot('Bare')], change }, surroundings)[0].when,
    ).toEqual({
      channel: 'roughness',
      material: ['Iron_*', 'Bare'],
    });
  });
});

describe('where all names of the asset are known', () => {
  const names = {
    materials: ['Iron_1', 'Iron_2', 'Oak_1', 'Oak_2'],
    parts: ['Bolt_1', 'Bolt_2', 'Bolt_3', 'Post_1'],
    images: ['tex/iron_1_r.png', 'tex/iron_2_r.png', 'tex/oak_1_n.png'],
  };
  const when = (body: EditBody) => rulesOf(body, { names }).map((made) => made.when);

  it('patterns reach no more of it than the edit did', () => {
    const drop = (...parts: string[]) => when({ kind: 'editParts', change: { do: 'drop', parts } });
    expect(drop('Bolt_1', 'Bolt_2', 'Bolt_3')).toEqual([{ part: 'Bolt_*' }]);
    expect(drop('Bolt_1', 'Bolt_3')).toEqual([{ part: ['Bolt_1', 'Bolt_3'] }]);
    expect(drop('Bolt_2', 'Post_1')).toEqual([{ part: ['Bolt_2', 'Post_*'] }]);
    const alpha = (...materials: string[]) =>
      when({ kind: 'setAlpha', materials, change: { alphaMode: 'mask' } });
    expect(alpha('Iron_1', 'Iron_2', 'Oak_2')).toEqual([{ material: ['Iron_*', 'Oak_2'] }]);
    const space = { space: 'data' } as const;
    expect(when({ kind: 'adjustSlots', slots: [slot('Iron_2')], change: space })).toEqual([
      { channel: 'roughness', material: 'Iron_2' },
    ]);
    expect(when({ kind: 'setValues', slots: [slot('Oak_1')], value: 1 })).toEqual([{ material: 'Oak_1' }]);
    expect(when({ kind: 'bindNodes', nodes: ['Bolt_1'], material: 'Iron_1' })).toEqual([{ part: 'Bolt_1' }]);
  });

  it('of an asset, what images were written as', () => {
    const images = [{ key: 'iron', written: 'P:\\old\\iron.png' }];
    const source = { images, materials: [{ key: 'Iron' }], nodes: [] } as unknown as AssetSource;
    const { writtenOf, names: known } = surroundingsOf(source, [{ path: 'tex/iron.png' }]);
    expect([writtenOf?.('iron'), writtenOf?.('oak')]).toEqual(['P:\\old\\iron.png', 'oak']);
    expect(known).toEqual({ materials: ['Iron'], parts: [], images: ['tex/iron.png'] });
  });

  it('an image goes to its material, read as it was read there', () => {
    const assignment = { material: 'Oak_1', component: 'rgb', invert: false, normalY: 'Y-' } as const;
    const image = 'tex/oak_1_n.png';
    const about = { image: 'oak_*_n.png', material: 'Oak_1' };
    const assigned = (more: { channel: 'normal' | 'emission'; space: 'data' | 'lin_ap1_scene' }) =>
      rulesOf({ kind: 'assignSlots', assignments: [{ ...assignment, ...more, image }] }, { names }).map(
        (made) => [made.when, made.then],
      );
    expect(assigned({ channel: 'normal', space: 'data' })).toEqual([
      [about, [{ do: 'assign', channel: 'normal', component: 'rgb', invert: false }]],
      [{ ...about, channel: 'normal' }, [{ do: 'normal', normalY: 'Y-' }]],
    ]);
    expect(assigned({ channel: 'emission', space: 'lin_ap1_scene' })).toEqual([
      [about, [{ do: 'assign', channel: 'emission', component: 'rgb', invert: false }]],
      [{ ...about, channel: 'emission' }, [{ do: 'tag', space: 'lin_ap1_scene' }]],
    ]);
  });
});

describe('the rules of a log', () => {
  const drop = (part: string, detail = ''): Edit => ({
    kind: 'editParts',
    change: { do: 'drop', parts: [part] },
    origin: { from: 'hand', detail },
  });

  it('are each there once, under names of their own, with the reason that was given', () => {
    const pivot = (part: string, at: 'bottom' | 'centre'): Edit => ({
      kind: 'editParts',
      change: { do: 'pivot', parts: [part], at },
      origin: hand,
    });
    const { rulebook, without } = rulesFrom(
      [
        drop('Bolt_1', 'nobody sees them'),
        drop('Bolt_2'),
        pivot('Post', 'bottom'),
        pivot('Rail', 'bottom'),
        { kind: 'unlinkImages', images: ['a'], origin: hand },
      ],
      'Small parts',
    );
    expect(rulebook).toMatchObject({ rulebook: 1, title: 'Small parts' });
    expect(rulebook.rules.map(({ name, reason }) => [name, reason])).toEqual([
      ['Without Bolt_1', 'nobody sees them'],
      ['Pivots at the bottom', undefined],
      ['Pivots at the bottom (2)', undefined],
    ]);
    expect(rulebook.rules[1]).not.toHaveProperty('reason');
    expect(without).toEqual([{ kind: 'unlinkImages', lacks: [] }]);
  });

  it('call a renamed part as it is called by then, and stand the asset up once', () => {
    const rename = (part: string, name: string): Edit => ({
      kind: 'editParts',
      change: { do: 'rename', names: [{ part, name }] },
      origin: hand,
    });
    const stand = (choice: Partial<typeof TAKE_ALL>): Edit => ({
      kind: 'setIntake',
      choice: { ...TAKE_ALL, ...choice },
      origin: hand,
    });
    const { rulebook } = rulesFrom(
      [stand({ scale: 2 }), rename('Cube', 'Post'), rename('Cube', 'Pile'), drop('Cube'), stand({ up: 'Z' })],
      'Renamed',
    );
    expect(rulebook.rules.map((made) => [made.when, made.then])).toEqual([
      [{ part: 'Cube' }, [{ do: 'renamePart', to: 'Post' }]],
      [{ part: 'Post' }, [{ do: 'renamePart', to: 'Pile' }]],
      [{ part: 'Pile' }, [{ do: 'drop' }]],
      [{}, [{ do: 'axes', up: 'Z' }]],
    ]);
  });

  it('tell what of an edit they cannot say', () => {
    const lacking = (...bodies: EditBody[]) =>
      rulesFrom(
        bodies.map((body) => ({ ...body, origin: hand }) as Edit),
        'Lacking',
      ).without;
    const without = lacking(
      { kind: 'setAlpha', materials: ['Net'], change: { alphaMode: 'mask', doubleSided: true } },
      { kind: 'setAlpha', materials: ['Pane'], change: { opacity: 0.5, thickness: 2 } },
      { kind: 'adjustSlots', slots: [slot('Net')], change: { invert: true, exponent: 2, filter: 'nearest' } },
      { kind: 'setIntake', choice: { ...TAKE_ALL, up: 'Z', parts: ['meshes'], metresPerUnit: 0.3 } },
      {
        kind: 'assignSlots',
        assignments: [
          {
            ...slot('Net'),
            image: 'a.png',
            component: 'r',
            invert: false,
            space: 'data',
            normalY: 'Y+',
          },
        ],
        clears: [slot('Net', 'baseColor')],
        workflows: [{ material: 'Net', workflow: 'specGloss', exponent: null }],
      },
      { kind: 'clearSlots', slots: [slot('Net')] },
      { kind: 'renameMaterials', names: [{ material: 'Net', name: 'Mesh' }] },
    );
    expect(without.map(({ kind, lacks }) => [kind, ...lacks])).toEqual([
      ['setAlpha', 'doubleSided'],
      ['setAlpha', 'thickness'],
      ['adjustSlots', 'exponent', 'filter'],
      ['setIntake', 'parts', 'metresPerUnit'],
      ['assignSlots', 'clears', 'workflows'],
      ['clearSlots'],
    ]);
    expect(unruledInWords(without)).toEqual([
      'edits of the kind clearSlots have no rule; they speak of one asset alone',
      'no rule can say how many sides are shown',
      'no rule can say how thick glass is',
      'no rule can say an exponent',
      'no rule can say how pixels are filtered',
      'no rule can say what is taken of a model',
      'no rule can say a unit without a name',
      'no rule can say which slots are emptied',
      'no rule can say which shading model images are for',
    ]);
    // Green has no direction elsewhere.
    expect(lacking({ kind: 'adjustSlots', slots: [slot('Net')], change: { normalY: 'Y-' } })).toHaveLength(1);
  });

  it('of several logs are one book, what is the same in them once', () => {
    const books = [[drop('Bolt_1'), drop('Post')], [drop('Bolt_7')], [drop('Rail')]].map(
      (edits, i) => rulesFrom(edits, `${i}`).rulebook,
    );
    expect(joinRulebooks('All', books)).toMatchObject({
      title: 'All',
      rules: [{ when: { part: 'Bolt_*' } }, { when: { part: 'Post' } }, { when: { part: 'Rail' } }],
    });
  });
});
