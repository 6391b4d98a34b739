// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word

import { describe, expect, it } from 'vitest';
import { type Edit, initialState } from '../asset/asset.ts';
import { describeEdit } from '../edits/log.ts';
import { findFindings } from '../findings/checks.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { createMapUse } from '../scene/material.ts';
import { applyToLamp as apply, bookOf, lamp, part, png, rule, text } from '../test/ruleLamp.ts';
import { applyRules, leftOf } from './applyRules.ts';
import { parseComparison } from './comparison.ts';
import { parseRulebook } from './parseRulebook.ts';
import type { Action, Conditions, Rule } from './rulebook.ts';

const texts = async (...rules: Rule[]) => (await apply(rules)).edits.map(describeEdit);
/** Whether a rule with these conditions is about anything: it drops the parts that it is about. */
const partsOf = async (when: Conditions) =>
  (await apply([rule(when, { do: 'drop' })])).edits.flatMap((edit) =>
    edit.kind === 'editParts' && edit.change.do === 'drop' ? edit.change.parts : [],
  );
const slotsOf = async (when: Conditions) =>
  (await apply([rule(when, { do: 'tag', space: 'lin_ap1_scene' })])).edits.flatMap((edit) =>
    edit.kind === 'adjustSlots' ? edit.slots.map(({ material, channel }) => `${material} ${channel}`) : [],
  );
const ALL = ['Post_1', 'Bolt_01', 'Pane', 'Flag'];

describe('conditions', () => {
  it.each<[Conditions, string[]]>([
    [{}, ALL],
    [{ asset: 'LAMP_*' }, ALL],
    [{ asset: 'lamp' }, []],
    [{ parcel: '*lamps' }, ALL],
    [{ parcel: 'Pier' }, []],
    [{ file: 'lamp_07.obj' }, ALL],
    [{ file: 'lamps/*' }, ALL],
    [{ format: ['fbx', 'obj'] }, ALL],
    [{ format: 'fbx' }, []],
    [{ writtenBy: '*modeller*' }, ALL],
    [{ writtenBy: 'modeller' }, []],
    [{ size: '>1.9' }, ALL],
    [{ size: ['<1', '>=3'] }, []],
    [{ part: 'bolt*' }, ['Bolt_01']],
    [{ part: ['bolt*', '/^Pa/'] }, ['Bolt_01', 'Pane']],
    [{ material: '*_rough' }, ['Post_1', 'Bolt_01']],
    [{ material: '*_rough', part: 'p*' }, ['Post_1']],
    [{ image: 'pane_*' }, ['Pane']],
    [{ image: 'iron_basecolor.png' }, ['Post_1', 'Bolt_01']],
    [{ group: '*' }, []],
  ])('%j are about %j', async (when, expected) => {
    expect(await partsOf(when)).toEqual(expected);
  });

  it.each<[Conditions, string[]]>([
    [{}, ['Iron_rough baseColor', 'Iron_rough roughness', 'Pane_glass baseColor']],
    [{ channel: 'rough*' }, ['Iron_rough roughness']],
    [{ space: 'data' }, ['Iron_rough roughness']],
    [{ space: 'srgb*', material: 'pane*' }, ['Pane_glass baseColor']],
    [{ image: '*_basecolor.*' }, ['Iron_rough baseColor', 'Pane_glass baseColor']],
    [{ part: 'Pane' }, ['Pane_glass baseColor']],
    [{ confidence: '>=0.5', channel: 'roughness' }, ['Iron_rough roughness']],
    [{ confidence: '>1' }, []],
    [{ finding: 'link.*' }, ['Iron_rough baseColor']],
    [{ finding: 'link.*', material: 'Pane*' }, []],
    [{ finding: 'colour.*' }, []],
  ])('%j are about the slots %j', async (when, expected) => {
    expect(await slotsOf(when)).toEqual(expected);
  });

  it('leave a file to the slot that reads it, whosever set it is of', async () => {
    const source = memorySource('Pier', {
      'a.obj': text(`mtllib a.mtl\n${part('Post', 'Iron')}${part('Deck', 'Oak')}`),
      'a.mtl': text('newmtl Iron\nmap_Kd oak_roughness.png\nnewmtl Oak\nmap_Kd oak_basecolor.png\n'),
      'oak_basecolor.png': png,
      'oak_roughness.png': png,
    });
    const { edits } = await applyRules(
      await openAsset(source, 'a.obj'),
      [bookOf(rule({ image: 'oak_r*' }, { do: 'assign', channel: 'roughness' }))],
      { parcel: 'Pier' },
    );
    expect(edits.map(describeEdit)).toEqual(['Assigned oak_roughness.png to Iron, roughness']);
  });

  it('take the direction of an assigned normal from its name', async () => {
    const model = text(`mtllib a.mtl\n${part('Post', 'Iron')}`);
    const source = memorySource('Pier', {
      'a.obj': model,
      'a.mtl': text('newmtl Iron\nKd 1 1 1\n'),
      'wave_normal_dx.png': png,
    });
    const { edits } = await applyRules(
      await openAsset(source, 'a.obj'),
      [bookOf(rule({ image: 'wave*' }, { do: 'assign', channel: 'normal' }))],
      { parcel: 'Pier' },
    );
    expect(edits).toMatchObject([
      { kind: 'assignSlots', assignments: [{ image: 'wave_normal_dx.png', normalY: 'Y-' }] },
    ]);
  });

  it('compare numbers', () => {
    const met = (comparison: string, value: number) => parseComparison(comparison)(value);
    expect([
      met('>=0.9', 0.9),
      met('>0.9', 0.9),
      met('< 20', 3),
      met('<=20', 21),
      met('5', 5),
      met('=5', 5.1),
    ]).toEqual([true, false, true, false, true, false]);
    expect(() => parseComparison('large')).toThrow(/compares with no number/);
  });
});

describe('actions', () => {
  it.each<[string, Rule, string[]]>([
    [
      'tag',
      rule({ channel: 'roughness' }, { do: 'tag', space: 'srgb_rec709_scene' }),
      ['Set Iron_rough, roughness to colour tag srgb_rec709_scene'],
    ],
    [
      'set',
      rule({ channel: 'roughness' }, { do: 'set', channel: 'metalness', value: 1 }),
      ['Set Iron_rough, metalness to the value 1.000'],
    ],
    [
      'tag what is so already',
      rule({ channel: 'roughness' }, { do: 'tag', space: 'data' }),
      ['Set Iron_rough, roughness to colour tag data'],
    ],
    [
      'link by prefix',
      rule({}, { do: 'link', from: 'p:/OLD/tex', to: 'textures' }),
      ['Linked iron_basecolor.png to textures/iron_basecolor.png (2)'],
    ],
    ['link by a prefix that is not there', rule({}, { do: 'link', from: 'P:/old/te', to: 'textures' }), []],
    [
      'assign',
      rule({ image: '*_roughness*' }, { do: 'assign', channel: 'occlusion', component: 'g', invert: true }),
      ['Assigned lamps/iron_roughness.png to Iron_rough, occlusion, inverted'],
    ],
    [
      'assign what the slot reads already, otherwise',
      rule({ image: '*_roughness*' }, { do: 'assign', channel: 'roughness', component: 'g' }),
      ['Set Iron_rough, roughness to component g'],
    ],
    [
      'assign as it is',
      rule({ image: '*_roughness*' }, { do: 'assign', channel: 'roughness', invert: false }),
      [],
    ],
    [
      'assign a file that nothing reads to the material of its set',
      rule({ image: 'iron_b*' }, { do: 'assign', channel: 'emission' }),
      ['Assigned textures/iron_basecolor.png to Iron_rough, emission'],
    ],
    [
      'assign a file to the only material meant, and do nothing else about it',
      rule({ image: 'pane_*', part: 'Flag' }, { do: 'assign', channel: 'baseColor' }, { do: 'drop' }),
      ['Assigned lamps/pane_basecolor.png to quay_flags, base colour'],
    ],
    [
      'assign what a slot reads before a file that none reads',
      rule({ image: 'iron_*' }, { do: 'assign', channel: 'emission' }),
      ['Assigned lamps/iron_roughness.png to Iron_rough, emission'],
    ],
    [
      'assign one of several files',
      rule({ image: '*.png', material: 'quay_flags' }, { do: 'assign', channel: 'baseColor' }),
      [],
    ],
    [
      'assign a file of no slot that is tagged so',
      rule({ image: 'pane_*', material: 'quay_flags', space: '*' }, { do: 'assign', channel: 'baseColor' }),
      [],
    ],
    ['normal', rule({}, { do: 'normal', normalY: 'Y-' }), []],
    [
      'alpha',
      rule({ material: '*glass' }, { do: 'alpha', mode: 'blend' }),
      ['Set Pane_glass to alpha mode blend'],
    ],
    [
      'rename a material',
      rule({ material: '*_*' }, { do: 'renameMaterial', to: '$2_of_$1' }),
      ['Renamed 3 materials'],
    ],
    [
      'number materials',
      rule({ material: 'i*' }, { do: 'numberMaterial', number: 3 }),
      ['Numbered the material Iron_rough 3'],
    ],
    ['drop', rule({ part: 'bolt*' }, { do: 'drop' }), ['Dropped Bolt_01']],
    [
      'rename a part',
      rule({ part: '/^Bolt_(\\d+)$/' }, { do: 'renamePart', to: 'screw-$1' }),
      ['Renamed Bolt_01 to screw-01'],
    ],
    [
      'give a material',
      rule({ part: 'Flag' }, { do: 'giveMaterial', material: 'Iron_rough' }),
      ['Gave Flag the material Iron_rough'],
    ],
    ['give one that is not there', rule({ part: 'Flag' }, { do: 'giveMaterial', material: 'Gold' }), []],
    [
      'pivot',
      rule({ part: 'Pane' }, { do: 'pivot', at: 'balance' }),
      ['Put the pivot of Pane at the balance point'],
    ],
    [
      'collision',
      rule({ part: 'p*' }, { do: 'collision', shape: 'hulls', hulls: 4 }),
      ['Collision shape of 2 parts: several hulls, 4 at most'],
    ],
    [
      'axes',
      rule({}, { do: 'axes', up: 'Z', unit: 'cm', turn: 90, scale: 2 }),
      ['Take: Z up; 0.01 m per unit; turned by 0° 90° 0°; 2 times the size'],
    ],
  ])('%s', async (_, one, expected) => {
    const found = await texts(one);
    expect(found.map((line) => line.replace(/ \(.*\)$/, ''))).toEqual(
      expected.map((line) => line.replace(/ \(.*\)$/, '')),
    );
  });

  it('replace materials by one with its images, whose name stays', async () => {
    const material = {
      name: 'Flag palette',
      workflow: 'metalRough' as const,
      alphaMode: 'opaque' as const,
      alphaCutoff: 0.5,
      doubleSided: true,
      exponent: null,
    };
    const map = { ...createMapUse('parcel:made/flags.png', 'baseColor') };
    const brought = {
      material: {
        ...material,
        channels: { baseColor: { value: [1, 1, 1] as [number, number, number], map } },
      },
      files: new Map([['made/flags.png', png]]),
    };
    const asked: string[] = [];
    const { asset, state, edits } = await apply(
      [rule({ material: '*_flags' }, { do: 'replaceMaterial', with: 'Flag palette' })],
      {
        materialFor: async (name) => {
          asked.push(name);
          return brought;
        },
      },
    );
    expect([asked, edits.length, asset.images.some(({ path }) => path === 'made/flags.png')]).toEqual([
      ['Flag palette'],
      1,
      true,
    ]);
    const flags = state.materials.find(({ key }) => key === 'quay_flags');
    expect([
      flags?.name,
      flags?.doubleSided,
      state.images.find(({ key }) => key === flags?.channels.baseColor?.map?.image)?.resolved,
    ]).toEqual(['quay_flags', true, 'made/flags.png']);
  });

  it('hand off', async () => {
    const { handOffs } = await apply([
      rule({ format: 'obj' }, { do: 'handOff', to: ['web-gltf', 'garment'] }),
      rule({ format: 'fbx' }, { do: 'handOff', to: 'modelling' }),
    ]);
    expect(handOffs).toEqual(['web-gltf', 'garment']);
  });
});

describe('findings', () => {
  const missing = { finding: 'link.*' };

  it.each<[Conditions, number]>([
    [{}, 1],
    [{ image: 'iron_base*' }, 1],
    [{ image: 'iron_roughness*' }, 0],
    [{ image: 'pane*' }, 0],
    [{ image: 'iron_base*', space: 'srgb*' }, 1],
    [{ image: 'iron_base*', space: 'data' }, 0],
    [{ space: 'data' }, 0],
    [{ space: 'srgb*' }, 1],
    [{ material: 'Iron*' }, 1],
    [{ material: 'Pane*' }, 0],
    [{ channel: 'baseColor' }, 1],
    [{ channel: 'roughness' }, 0],
    [{ part: 'Post*' }, 1],
    [{ part: 'Pane' }, 0],
  ])('of a missing image are met by %j %d times', async (when, times) => {
    expect((await apply([rule({ ...missing, ...when }, { do: 'leave' })])).settled.size).toBe(times);
  });

  it('are mended, left or asked by the first rule that fits', async () => {
    const settledBy = async (...rules: Rule[]) => {
      const { settled, state, asset, asked } = await apply(rules);
      const left = leftOf(findFindings(asset.source, state, asset.images), settled, asked).filter(
        ({ code }) => code.startsWith('link.'),
      );
      return { said: [...settled.values()].map(({ verdict, rule: by }) => `${verdict} ${by}`), left };
    };
    expect(await settledBy(rule(missing, { do: 'leave' }), rule(missing, { do: 'ask' }))).toEqual({
      said: ['leave 1'],
      left: [],
    });
    expect(await settledBy(rule(missing, { do: 'ask' }), rule(missing, { do: 'leave' }))).toEqual({
      said: ['ask 1'],
      left: [{ code: 'link.outside', subject: expect.stringContaining('iron_basecolor.png'), rule: '1' }],
    });
    expect((await settledBy()).left).toEqual([
      { code: 'link.outside', subject: expect.stringContaining('iron_basecolor.png'), rule: null },
    ]);
    const mended = await settledBy(rule(missing, { do: 'mend' }), rule(missing, { do: 'ask' }));
    expect(mended).toEqual({ said: ['mend 1'], left: [] });
  });

  it('are met by how sure they are: of a missing image its best candidate', async () => {
    const verdicts = async (confidence: string) =>
      [...(await apply([rule({ finding: 'link.*', confidence }, { do: 'leave' })])).settled.values()].length;
    expect([await verdicts('>=0.5'), await verdicts('<0.5'), await verdicts('>1')]).toEqual([1, 0, 0]);
  });

  it('are mended where there is a mend; what has none is left to later rules, mere notes too', async () => {
    const { source, images } = await lamp();
    const found = findFindings(source, initialState(source), images);
    const { settled } = await apply([
      rule({ finding: '*' }, { do: 'mend' }),
      rule({ finding: '*' }, { do: 'ask' }),
    ]);
    const expected = found.map(({ key, mend, make }) => [key, mend || make ? 'mend' : 'ask']);
    expect(new Set(expected.map(([, verdict]) => verdict))).toEqual(new Set(['mend', 'ask']));
    expect(expected.map(([key]) => [key, settled.get(key)?.verdict])).toEqual(expected);
  });
});

describe('a rulebook', () => {
  it('is applied in order: a later rule sees what an earlier one did, and each edit names its rule', async () => {
    const { edits } = await apply([
      { ...rule({ part: 'bolt*' }, { do: 'renamePart', to: 'screw' }), reason: 'one word for one thing' },
      rule({ part: 'bolt*' }, { do: 'drop' }),
      rule({ part: 'screw' }, { do: 'drop' }),
    ]);
    expect(edits.map(({ origin }) => origin)).toEqual([
      { from: 'rule', detail: 'one word for one thing', rule: { rulebook: 'Quay props', rule: '1' } },
      { from: 'rule', detail: '3', rule: { rulebook: 'Quay props', rule: '3' } },
    ]);
  });

  it('gives the same edits for the same input, and nothing new on what it gave', async () => {
    const rules = [
      rule({ channel: 'roughness' }, { do: 'tag', space: 'srgb_rec709_scene' }),
      rule({ material: 'i*' }, { do: 'set', channel: 'metalness', value: 1 }),
      rule({ part: 'p*' }, { do: 'collision', shape: 'box' }),
    ];
    const [first, second] = [await apply(rules), await apply(rules)];
    expect(JSON.stringify(first.edits)).toBe(JSON.stringify(second.edits));
    expect((await apply(rules, { before: first.edits })).edits).toEqual(first.edits);
  });

  it('asks where it would undo what a person did by hand, and undoes what another rule did', async () => {
    const by = (from: 'hand' | 'rule'): Edit => ({
      kind: 'setValues',
      slots: [{ material: 'Iron_rough', channel: 'metalness' }],
      value: 0.4,
      origin: { from, detail: '' },
    });
    const rules = [rule({ material: 'Iron*' }, { do: 'set', channel: 'metalness', value: 1 })];
    const hand = await apply(rules, { before: [by('hand')] });
    expect([hand.edits.length, hand.asked]).toEqual([
      1,
      [{ code: 'rule.undoesHand', subject: '1', rule: '1', rulebook: 'Quay props' }],
    ]);
    expect((await apply(rules, { before: [by('rule')] })).edits).toHaveLength(2);
  });

  const refusal = (book: unknown) => {
    try {
      parseRulebook(book, 'house.json');
      return 'taken';
    } catch (error) {
      return `${(error as { code: string }).code}: ${(error as Error).message}`;
    }
  };
  const withRule = (when: unknown, ...then: unknown[]) => ({
    rulebook: 1,
    title: 'House',
    rules: [{ name: 'First', when, then }],
  });

  it.each<[string, unknown, RegExp]>([
    ['of a later version', { rulebook: 2 }, /^rulebook\.version: this is a rulebook of version 2/],
    ['that is a list', [], /^rulebook\.invalid/],
    [
      'with a condition nobody knows',
      withRule({ colour: 'red' }, { do: 'drop' }),
      /rules\[0\]\.when\.colour is not allowed, in the rule "First"/,
    ],
    [
      'with an action nobody knows',
      withRule({}, { do: 'paint' }),
      /rules\[0\]\.then\[0\]\.do must be one of/,
    ],
    [
      'with a parameter too many',
      withRule({}, { do: 'drop', part: 'x' }),
      /then\[0\] \(drop\).*"part" is not allowed/,
    ],
    ['with a parameter too few', withRule({}, { do: 'tag' }), /then\[0\] \(tag\).*"space" is required/],
    ['with a space that is none', withRule({}, { do: 'tag', space: 'sRGB' }), /"space" must be one of/],
    [
      'with an expression that is none',
      withRule({ part: '/(/' }, { do: 'drop' }),
      /when\.part.*is no pattern/,
    ],
    [
      'with a comparison that is none',
      withRule({ size: 'big' }, { do: 'drop' }),
      /when\.size.*compares with no number/,
    ],
    ['with axes that say nothing', withRule({}, { do: 'axes' }), /\(axes\)/],
    ['with nothing to do', withRule({}), /rules\[0\]\.then must contain at least 1/],
    [
      'with two rules of one name',
      {
        rulebook: 1,
        title: 'x',
        rules: [1, 2].map(() => ({ name: 'Same', when: {}, then: [{ do: 'drop' }] })),
      },
      /two rules are called "Same"/,
    ],
  ])('%s is refused with the rule and the field', (_, book, expected) => {
    expect(refusal(book)).toMatch(expected);
  });

  it('may do all that it can do', () => {
    const all: Action[] = [
      { do: 'mend' },
      { do: 'leave' },
      { do: 'ask' },
      { do: 'tag', space: 'data' },
      { do: 'link', from: '', to: 'maps' },
      { do: 'assign', channel: 'roughness', component: 'g', invert: false },
      { do: 'normal', normalY: 'Y-' },
      { do: 'set', channel: 'baseColor', value: [1, 0, 0] },
      { do: 'alpha', cutoff: 0.3 },
      { do: 'replaceMaterial', with: 'flags.glb#Palette' },
      { do: 'renameMaterial', to: '$1' },
      { do: 'numberMaterial', number: 1 },
      { do: 'drop' },
      { do: 'renamePart', to: '$1' },
      { do: 'giveMaterial', material: 'Iron' },
      { do: 'pivot', at: 'centre' },
      { do: 'collision', shape: 'none' },
      { do: 'axes', turn: [0, 90, 0] },
      { do: 'handOff', to: 'web-gltf' },
    ];
    const book = bookOf(
      rule({ finding: ['link.*', 'colour.*'], confidence: '>=0.9', size: '>20', part: '/^a/i' }, ...all),
    );
    expect(parseRulebook(JSON.parse(JSON.stringify(book)))).toEqual(book);
  });
});
