import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { createMapUse, type MapUse } from '../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from '../test/assets.ts';
import { describeEdit, replay } from './log.ts';
import { parseEdit } from './schema.ts';

const origin = { from: 'hand' as const, detail: 'test' };
const images = ['hull_color.png', 'hull_rough.png', 'hull_ao.png', 'deck.1001.png', 'deck.1002.png'].map(
  (path) => testImage(path),
);
const state = testState(
  [
    testMaterial('Hull', { baseColor: 'hull_color.png', roughness: 'hull_rough.png' }),
    testMaterial('Deck', { baseColor: 'gone.png' }),
  ],
  ['gone.png'],
);
const source = testSource(state);
const after = (...edits: Edit[]) => {
  for (const edit of edits) expect(parseEdit(JSON.parse(JSON.stringify(edit)))).toEqual(edit);
  return replay(source, edits, images);
};
const channel = (
  result: ReturnType<typeof after>,
  material: string,
  name: 'baseColor' | 'roughness' | 'occlusion',
) => result.state.materials.find(({ key }) => key === material)?.channels[name];

describe('edits of slots', () => {
  it('set and take back exponent and repair', () => {
    const slots = [{ material: 'Hull', channel: 'baseColor' as const }];
    const set: Edit = { kind: 'adjustSlots', slots, change: { exponent: 2.2, repair: 'unit' }, origin };
    expect(channel(after(set), 'Hull', 'baseColor')?.map).toMatchObject({ exponent: 2.2, repair: 'unit' });
    const back: Edit = { kind: 'adjustSlots', slots, change: { exponent: 1, repair: 'none' }, origin };
    expect(channel(after(set, back), 'Hull', 'baseColor')?.map).toEqual(
      state.materials[0].channels.baseColor?.map,
    );
    expect(describeEdit(set)).toBe('Set Hull, base colour to exponent 2.200, vectors of unit length');
  });

  it('replace constant maps by values, and empty slots that do nothing', () => {
    const edit: Edit = {
      kind: 'unmapSlots',
      slots: [
        { material: 'Hull', channel: 'roughness', value: 0.25 },
        { material: 'Hull', channel: 'baseColor', value: null },
      ],
      origin,
    };
    const result = after(edit);
    expect(channel(result, 'Hull', 'roughness')).toMatchObject({ value: 0.25, map: null });
    expect(channel(result, 'Hull', 'baseColor')).toBeUndefined();
  });

  it('assign a set that is painted for another shading model, and leave its values behind', () => {
    const value = (name: 'metalness' | 'roughness', index: number) => ({
      [name]: { value: index, map: null, source: { from: 'file' as const, detail: '' } },
    });
    const plain = {
      ...testMaterial('Plain'),
      channels: { ...value('metalness', 1), ...value('roughness', 0.4) },
    };
    const own = testSource(testState([plain]));
    const assign = (workflow: 'specGloss' | 'legacy'): Extract<Edit, { kind: 'assignSlots' }> => ({
      kind: 'assignSlots',
      assignments: [
        {
          material: 'Plain',
          channel: 'specularColor',
          image: 'hull_color.png',
          component: 'rgb',
          invert: false,
          space: 'srgb_rec709_scene',
          normalY: 'Y+',
        },
      ],
      workflows: [{ material: 'Plain', workflow, exponent: null }],
      origin,
    });
    const [glossy] = replay(own, [parseEdit(JSON.parse(JSON.stringify(assign('specGloss'))))], images).state
      .materials;
    expect([glossy.workflow, Object.keys(glossy.channels)]).toEqual(['specGloss', ['specularColor']]);
    const [classic] = replay(own, [assign('legacy')], images).state.materials;
    expect([classic.workflow, Object.keys(classic.channels).sort()]).toEqual([
      'legacy',
      ['roughness', 'specularColor'],
    ]);
    const { specularColor } = glossy.channels;
    const values: Edit = {
      kind: 'pasteSlots',
      slots: [
        {
          material: 'Plain',
          channel: 'specularColor',
          content: { value: [0.5, 0.5, 0.5], map: null },
        },
      ],
      workflows: [{ material: 'Plain', workflow: 'legacy', exponent: null }],
      origin,
    };
    const modern: Edit = {
      kind: 'pasteSlots',
      slots: [],
      workflows: [{ material: 'Plain', workflow: 'metalRough', exponent: null }],
      origin,
    };
    // A highlight without an image would be a tint in metal/rough.
    const highlightIn = (edits: Edit[]) =>
      replay(own, edits, images).state.materials[0].channels.specularColor?.value;
    expect([highlightIn([values]), highlightIn([values, modern])]).toEqual([[0.5, 0.5, 0.5], undefined]);
    expect(highlightIn([assign('legacy'), modern])).toEqual(specularColor?.value);
    expect(
      replay(
        own,
        [{ ...assign('legacy'), workflows: [{ material: 'Gone', workflow: 'legacy', exponent: null }] }],
        images,
      ).skipped,
    ).toEqual([{ edit: 0, what: 'material Gone' }]);
  });

  it('paste contents with their wiring, and pass over images that are not there', () => {
    const map = state.materials[0].channels.roughness?.map ?? null;
    const edit: Edit = {
      kind: 'pasteSlots',
      slots: [
        { material: 'Deck', channel: 'roughness', content: { value: 0.5, map } },
        { material: 'Deck', channel: 'baseColor', content: null },
        {
          material: 'Deck',
          channel: 'occlusion',
          content: { value: 1, map: map && { ...map, image: 'parcel:nowhere.png' } },
        },
      ],
      origin,
    };
    const result = after(edit);
    expect(channel(result, 'Deck', 'roughness')).toMatchObject({
      value: 0.5,
      map: { image: 'hull_rough.png' },
    });
    expect(channel(result, 'Deck', 'baseColor')).toBeUndefined();
    expect(channel(result, 'Deck', 'occlusion')).toBeUndefined();
    expect(result.skipped).toEqual([{ edit: 0, what: 'image parcel:nowhere.png' }]);
  });
});

describe('edits of materials and parts', () => {
  it('add materials, alone or like another, and bind parts to them', () => {
    const added: Edit = {
      kind: 'addMaterials',
      materials: [
        { name: 'Rope', like: null },
        { name: 'Hull wet', like: 'Hull' },
        { name: 'Deck', like: null },
      ],
      origin,
    };
    const result = after(added, { kind: 'bindNodes', nodes: ['Bow', 'Stern'], material: 'Hull wet', origin });
    expect(result.state.materials.map(({ key }) => key)).toEqual(['Hull', 'Deck', 'Rope', 'Hull wet']);
    expect(channel(result, 'Hull wet', 'roughness')?.map?.image).toBe('hull_rough.png');
    expect(result.state.bindings).toEqual({ Bow: 'Hull wet', Stern: 'Hull wet' });
    expect(result.skipped).toHaveLength(1);
  });

  it('do not bind to what is not there', () => {
    const result = after({ kind: 'bindNodes', nodes: ['Bow'], material: 'Nothing', origin });
    expect(result.state.bindings).toBeUndefined();
    expect(result.state.materials).toEqual(state.materials);
    expect(result.skipped).toEqual([{ edit: 0, what: 'material Nothing' }]);
  });
});

describe('links to tile sets', () => {
  it('take the set with all its tiles, and unlinking takes them away', () => {
    const link: Edit = {
      kind: 'linkImages',
      links: [{ image: 'gone.png', path: 'deck.<UDIM>.png', reason: 'same name' }],
      origin,
    };
    expect(after(link).state.images.at(-1)).toMatchObject({
      resolved: 'deck.1001.png',
      status: 'found',
      tiles: [{ number: 1001 }, { number: 1002 }],
    });
    const unlinked = after(link, { kind: 'unlinkImages', images: ['gone.png'], origin }).state.images.at(-1);
    expect(unlinked).toMatchObject({ resolved: null, status: 'missing' });
    expect(unlinked?.tiles).toBeUndefined();
    const nowhere: Edit = {
      kind: 'linkImages',
      links: [{ image: 'gone.png', path: 'sail.<UDIM>.png', reason: '' }],
      origin,
    };
    expect(after(nowhere).skipped).toEqual([{ edit: 0, what: 'file sail.<UDIM>.png' }]);
  });
});

describe('edits from outside', () => {
  it.each([
    [
      {
        kind: 'adjustSlots',
        slots: [{ material: 'Hull', channel: 'baseColor' }],
        change: { exponent: 40 },
        origin,
      },
      /exponent/,
    ],
    [{ kind: 'addMaterials', materials: [], origin }, /materials/],
    [
      { kind: 'pasteSlots', slots: [{ material: 'Hull', channel: 'gloss', content: null }], origin },
      /channel/,
    ],
    [{ kind: 'polish', origin }, /no kind of edit/],
  ])('are refused with the field that is wrong: %j', (edit, says) => {
    expect(() => parseEdit(edit)).toThrow(says);
  });
});

describe('the schema of edits', () => {
  it('takes every field of a map that a reader or an edit may set', () => {
    const map: Required<Omit<MapUse, 'cut'>> = {
      ...createMapUse('hull_color.png', 'baseColor'),
      spaceFrom: 'unstated',
      exponent: 2.2,
      repair: 'unit',
      strength: 0.5,
      range: { scale: [2, 1, 2], bias: [-1, -0.5, -1] },
      filter: 'nearest',
      transform: { offset: [0.1, 0.2], scale: [2, 2], rotation: 0.5 },
      uvSet: 'map2',
      unplaced: true,
    };
    const edit: Edit = {
      kind: 'pasteSlots',
      slots: [{ material: 'Hull', channel: 'baseColor', content: { value: [1, 1, 1], map } }],
      origin,
    };
    expect(parseEdit(JSON.parse(JSON.stringify(edit)))).toEqual(edit);
    expect(channel(after(edit), 'Hull', 'baseColor')?.map).toEqual(map);
  });
});

describe('a value that is set', () => {
  const set = (channel: string, value: unknown) => () =>
    parseEdit({
      kind: 'setValues',
      slots: [{ material: 'Hull', channel }],
      value,
      origin: { from: 'hand', detail: '' },
    });

  it('lies in the range of its channel', () => {
    for (const [channel, value] of [
      ['roughness', 0],
      ['metalness', 1],
      ['baseColor', [2, 0.5, 0]],
      ['height', -0.4],
      ['ior', 2.4],
      ['emission', [500, 0, 0]],
    ] as const)
      expect(set(channel, value)()).toMatchObject({ value });
    expect(set('roughness', 1.5)).toThrow('1.5 is no roughness: it lies in 0 to 1');
    expect(set('opacity', -0.1)).toThrow('-0.1 is no opacity: it lies in 0 to 1');
    expect(set('baseColor', [0.5, -1, 0])).toThrow('-1 is no baseColor: it lies in 0 to 1000000');
    expect(set('ior', -2)).toThrow('-2 is no ior');
    expect(set('height', 1e7)).toThrow('10000000 is no height');
  });
});
