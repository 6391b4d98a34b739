import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import { TAKE_ALL } from '../scene/intake.ts';
import { type ChannelName, createMapUse } from '../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from '../test/assets.ts';
import { describeEdit, replay } from './log.ts';

const origin = { from: 'hand' as const, detail: 'test' };
const hull = testMaterial('Hull', {
  baseColor: {
    image: 'color.png',
    uvSet: 'map2',
    transform: { offset: [0, 0], scale: [2, 2], rotation: 0 },
    wrap: ['clamp', 'repeat'],
  },
  roughness: 'rough.png',
});
hull.channels.bump = {
  value: 0.3,
  map: createMapUse('bump.png', 'bump'),
  source: { from: 'file', detail: '' },
};
const deck = testMaterial('Deck', { baseColor: 'gone.png' });
const images = ['color.png', 'rough.png', 'bump.png', 'other.png', 'sail.1001.png', 'sail.1002.png'].map(
  (path) => testImage(path),
);
const state = testState([hull, deck], ['gone.png']);
const source = testSource(state);

const run = (...edits: Edit[]) => replay(source, edits, images);
const material = (result: ReturnType<typeof run>, key = 'Hull') =>
  result.state.materials.find((one) => one.key === key);
const channel = (result: ReturnType<typeof run>, name: ChannelName, key = 'Hull') =>
  material(result, key)?.channels[name];
const slot = (name: ChannelName, key = 'Hull') => ({ material: key, channel: name });

describe('assigning', () => {
  const assign = (name: ChannelName, image: string, more: object = {}): Edit => ({
    kind: 'assignSlots',
    assignments: [
      { ...slot(name), image, component: 'r', invert: false, space: 'data', normalY: 'Y+', ...more },
    ],
    origin,
  });

  it('keeps how the slot was laid, and makes its value neutral', () => {
    const found = channel(
      run(assign('baseColor', 'other.png', { component: 'rgb', space: 'srgb_rec709_scene' })),
      'baseColor',
    );
    expect(found).toMatchObject({ value: [1, 1, 1], source: origin });
    expect(found?.map).toMatchObject({
      uvSet: 'map2',
      transform: { scale: [2, 2] },
      wrap: ['clamp', 'repeat'],
      space: 'srgb_rec709_scene',
    });
  });

  it('keeps the amount of a bump', () => {
    expect(channel(run(assign('bump', 'other.png')), 'bump')?.value).toBe(0.3);
    expect(channel(run(assign('roughness', 'other.png')), 'roughness')?.value).toBe(1);
  });

  it('makes an opaque material blend by an opacity map, and clearing that takes it back', () => {
    const blended = run(assign('opacity', 'other.png'));
    expect(material(blended)?.alphaMode).toBe('blend');
    expect(
      material(run(assign('opacity', 'other.png'), { kind: 'clearSlots', slots: [slot('opacity')], origin }))
        ?.alphaMode,
    ).toBe('opaque');
    expect(
      material(
        run(assign('roughness', 'other.png'), { kind: 'clearSlots', slots: [slot('roughness')], origin }),
      )?.alphaMode,
    ).toBe('opaque');
    // A cut-out stays one.
    const cut: Edit = { kind: 'setAlpha', materials: ['Hull'], change: { alphaMode: 'mask' }, origin };
    expect(material(run(cut, assign('opacity', 'other.png')))?.alphaMode).toBe('mask');
  });

  it('empties what is cleared with it, and passes over files that are not there', () => {
    const edit = { ...assign('metalness', 'other.png'), clears: [slot('bump')] } as Edit;
    expect(channel(run(edit), 'bump')).toBeUndefined();
    expect(channel(run(edit), 'metalness')?.map?.image).toBe('parcel:other.png');
    expect(run(assign('metalness', 'none.png')).skipped).toEqual([{ edit: 0, what: 'file none.png' }]);
  });
});

describe('adjusting', () => {
  const adjust = (
    change: Extract<Edit, { kind: 'adjustSlots' }>['change'],
    name: ChannelName = 'roughness',
  ): Edit => ({
    kind: 'adjustSlots',
    slots: [slot(name)],
    change,
    origin,
  });

  it('sets what it names and leaves the rest', () => {
    const before = hull.channels.roughness?.map;
    expect(channel(run(adjust({ component: 'g', invert: true })), 'roughness')?.map).toEqual({
      ...before,
      component: 'g',
      invert: true,
    });
    expect(channel(run(adjust({ space: 'lin_ap1_scene' })), 'roughness')?.map).toEqual({
      ...before,
      space: 'lin_ap1_scene',
      spaceFrom: 'edit',
    });
    expect(channel(run(adjust({ normalY: 'Y-' })), 'roughness')?.map).toEqual({ ...before, normalY: 'Y-' });
  });

  it('takes filtering back', () => {
    expect(channel(run(adjust({ filter: 'nearest' })), 'roughness')?.map?.filter).toBe('nearest');
    expect(
      channel(run(adjust({ filter: 'nearest' }), adjust({ filter: 'smooth' })), 'roughness')?.map,
    ).toEqual(hull.channels.roughness?.map);
  });

  it('needs a map', () => {
    expect(run(adjust({ invert: true }, 'metalness')).skipped).toEqual([
      { edit: 0, what: 'map of Hull, metalness' },
    ]);
  });
});

describe('values and transparency', () => {
  it('fit the channel: three numbers for colours, their mean for one', () => {
    const set = (name: ChannelName, value: number | [number, number, number]): Edit => ({
      kind: 'setValues',
      slots: [slot(name)],
      value,
      origin,
    });
    expect(channel(run(set('emission', 0.5)), 'emission')?.value).toEqual([0.5, 0.5, 0.5]);
    expect(channel(run(set('metalness', [0.3, 0.6, 0.9])), 'metalness')?.value).toBeCloseTo(0.6, 12);
    // The map stays.
    expect(channel(run(set('roughness', 0.5)), 'roughness')).toMatchObject({
      value: 0.5,
      map: { image: 'rough.png' },
    });
  });

  it('set and take back, one by one', () => {
    const set = (change: Extract<Edit, { kind: 'setAlpha' }>['change']): Edit => ({
      kind: 'setAlpha',
      materials: ['Hull'],
      change,
      origin,
    });
    expect(material(run(set({ alphaMode: 'mask', alphaCutoff: 0.25, doubleSided: true })))).toMatchObject({
      alphaMode: 'mask',
      alphaCutoff: 0.25,
      doubleSided: true,
    });
    expect(channel(run(set({ opacity: 0.5 })), 'opacity')).toMatchObject({ value: 0.5, map: null });
    // Wholly opaque is what a material without opacity is.
    expect(channel(run(set({ opacity: 1 })), 'opacity')).toBeUndefined();
    expect(channel(run(set({ opacity: 0.5 }), set({ opacity: 1 })), 'opacity')?.value).toBe(1);
    expect(material(run(set({ colours: 'shown' })))?.colours).toBe('shown');
    // Beside an image colours are passed over anyway.
    expect(material(run(set({ colours: 'shown' }), set({ colours: 'passed' })))).not.toHaveProperty(
      'colours',
    );
    expect(material(run(set({ thickness: 0.02 })))?.thickness).toBe(0.02);
    expect(material(run(set({ thickness: 0.02 }), set({ thickness: 0 })))).not.toHaveProperty('thickness');
  });
});

describe('links', () => {
  it('serve every slot that reads the path, and are taken back', () => {
    const link: Edit = {
      kind: 'linkImages',
      links: [{ image: 'gone.png', path: 'other.png', reason: 'by hand' }],
      origin,
    };
    const entry = (result: ReturnType<typeof run>) =>
      result.state.images.find(({ key }) => key === 'gone.png');
    expect(entry(run(link))).toMatchObject({ resolved: 'other.png', how: 'by hand' });
    expect(entry(run(link, { kind: 'unlinkImages', images: ['gone.png'], origin }))).toMatchObject({
      resolved: null,
      status: 'missing',
    });
    const tiles: Edit = {
      kind: 'linkImages',
      links: [{ image: 'gone.png', path: 'sail.<UDIM>.png', reason: '' }],
      origin,
    };
    expect(entry(run(tiles))?.tiles?.map(({ number }) => number)).toEqual([1001, 1002]);
  });

  it.each<[Edit, string]>([
    [
      { kind: 'linkImages', links: [{ image: 'unknown', path: 'other.png', reason: '' }], origin },
      'image unknown',
    ],
    [
      { kind: 'linkImages', links: [{ image: 'gone.png', path: 'none.png', reason: '' }], origin },
      'file none.png',
    ],
    [{ kind: 'unlinkImages', images: ['unknown'], origin }, 'image unknown'],
    [{ kind: 'setValues', slots: [slot('roughness', 'Mast')], value: 1, origin }, 'material Mast'],
    [{ kind: 'setAlpha', materials: ['Mast'], change: { opacity: 1 }, origin }, 'material Mast'],
    [{ kind: 'clearSlots', slots: [slot('roughness', 'Mast')], origin }, 'material Mast'],
    [{ kind: 'unmapSlots', slots: [{ ...slot('metalness'), value: 1 }], origin }, 'map of Hull, metalness'],
    [
      { kind: 'addMaterials', materials: [{ name: 'Hull', like: null }], origin },
      'material Hull, which is there already,',
    ],
    [{ kind: 'addMaterials', materials: [{ name: 'Mast', like: 'Boom' }], origin }, 'material Boom'],
    [
      {
        kind: 'pasteSlots',
        slots: [],
        workflows: [{ material: 'Mast', workflow: 'legacy', exponent: 20 }],
        origin,
      },
      'material Mast',
    ],
  ])('to nowhere are passed over: %#', (edit, what) => {
    const result = run(edit);
    expect(result.skipped).toEqual([{ edit: 0, what }]);
  });
});

describe('replacing materials', () => {
  it('takes every channel, transparency and sides, and keeps key and name', () => {
    const by = {
      name: 'Varnish',
      workflow: 'metalRough' as const,
      alphaMode: 'mask' as const,
      alphaCutoff: 0.3,
      doubleSided: true,
      exponent: null,
      channels: {
        baseColor: { value: [0.4, 0.2, 0.1] as [number, number, number], map: null },
        roughness: { value: 1, map: createMapUse('other.png', 'roughness') },
      },
    };
    const result = run({ kind: 'replaceMaterials', materials: ['Hull', 'Mast'], by, origin });
    expect(material(result)).toMatchObject({
      key: 'Hull',
      name: 'Hull',
      alphaMode: 'mask',
      alphaCutoff: 0.3,
      doubleSided: true,
    });
    expect(Object.keys(material(result)?.channels ?? {}).sort()).toEqual(['baseColor', 'roughness']);
    expect(channel(result, 'roughness')?.map?.image).toBe('parcel:other.png');
    expect(result.skipped).toEqual([{ edit: 0, what: 'material Mast' }]);
  });
});

describe('every edit in words', () => {
  const one = [slot('roughness')];
  const two = [slot('roughness'), slot('baseColor', 'Deck')];
  const links = (count: number): Edit => ({
    kind: 'linkImages',
    links: Array.from({ length: count }, (_, i) => ({
      image: `C:\\art\\${i}.png`,
      path: `maps/${i}.png`,
      reason: '',
    })),
    origin,
  });

  it.each<[string, Edit]>([
    ['Linked 0.png to maps/0.png', links(1)],
    ['Linked 2 images: maps/0.png, maps/1.png', links(2)],
    ['Unlinked gone.png', { kind: 'unlinkImages', images: ['art/gone.png'], origin }],
    ['Unlinked 2 images', { kind: 'unlinkImages', images: ['a.png', 'b.png'], origin }],
    ['Cleared Hull, roughness', { kind: 'clearSlots', slots: one, origin }],
    ['Set Hull, roughness to the value 0.250', { kind: 'setValues', slots: one, value: 0.25, origin }],
    [
      'Set Hull, roughness to the value 1.000 0.500 0.000',
      { kind: 'setValues', slots: one, value: [1, 0.5, 0], origin },
    ],
    [
      'Set Hull, roughness to component g, not inverted',
      { kind: 'adjustSlots', slots: one, change: { component: 'g', invert: false }, origin },
    ],
    [
      'Set Hull, roughness to inverted, colour tag data, normal Y-',
      { kind: 'adjustSlots', slots: one, change: { invert: true, space: 'data', normalY: 'Y-' }, origin },
    ],
    [
      'Set Hull, roughness to no exponent, vectors as stored, smooth filtering',
      { kind: 'adjustSlots', slots: one, change: { exponent: 1, repair: 'none', filter: 'smooth' }, origin },
    ],
    [
      'Replaced the constant map of Hull, roughness by its value',
      { kind: 'unmapSlots', slots: [{ ...one[0], value: 1 }], origin },
    ],
    [
      'Created the material Mast',
      { kind: 'addMaterials', materials: [{ name: 'Mast', like: null }], origin },
    ],
    [
      'Created 2 materials: Mast, Boom',
      {
        kind: 'addMaterials',
        materials: [
          { name: 'Mast', like: null },
          { name: 'Boom', like: 'Hull' },
        ],
        origin,
      },
    ],
    ['Dropped the material Oak', { kind: 'dropMaterials', materials: ['Oak'], origin }],
    ['Dropped 2 materials', { kind: 'dropMaterials', materials: ['Oak', 'Tar'], origin }],
    ['Gave Wall the material Oak', { kind: 'bindNodes', nodes: ['Wall'], material: 'Oak', origin }],
    [
      'Gave 2 parts the material Oak',
      { kind: 'bindNodes', nodes: ['Wall', 'Roof'], material: 'Oak', origin },
    ],
    [
      'Set Hull, Deck to alpha mode mask, cut-off 0.4, two sides',
      {
        kind: 'setAlpha',
        materials: ['Hull', 'Deck'],
        change: { alphaMode: 'mask', alphaCutoff: 0.4, doubleSided: true },
        origin,
      },
    ],
    [
      'Set Hull to opacity 0.5, one side, thin walls',
      {
        kind: 'setAlpha',
        materials: ['Hull'],
        change: { opacity: 0.5, doubleSided: false, thickness: 0 },
        origin,
      },
    ],
    [
      'Set Hull to solid, 0.02 units thick',
      { kind: 'setAlpha', materials: ['Hull'], change: { thickness: 0.02 }, origin },
    ],
  ])('%s', (words, edit) => {
    expect(describeEdit(edit)).toBe(words);
  });

  it('name what is meant where there is more of it', () => {
    expect(
      describeEdit({
        kind: 'pasteSlots',
        slots: two.map((address) => ({ ...address, content: null })),
        what: 'Filled',
        origin,
      }),
    ).toMatch(/^Filled /);
    expect(describeEdit({ kind: 'setIntake', choice: TAKE_ALL, origin })).toMatch(/\S/);
    expect(
      describeEdit({
        kind: 'unmapSlots',
        slots: two.map((address) => ({ ...address, value: null })),
        origin,
      }),
    ).toMatch(/^Replaced the constant maps of .* by their values$/);
  });
});
