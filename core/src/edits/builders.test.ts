import { describe, expect, it } from 'vitest';
import type { Edit } from '../asset/asset.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { testImage, testMaterial, testState } from '../test/assets.ts';
import { isLinkedTo, joinLinks, linkEdit, patternOf, unlinkEdit } from './linkEdits.ts';
import { mendsOf } from './mends.ts';
import {
  adjustEdit,
  assignByNameEdit,
  assignEdit,
  assignImagesEdit,
  clearEdit,
  nextComponent,
  notEmpty,
  type SlotKnowledge,
  splitEdit,
  valueEdit,
  withMap,
} from './slotEdits.ts';

const hull = testMaterial('Hull', { baseColor: 'maps/hull_color.png', roughness: 'maps/lost.png' });
hull.channels.metalness = { value: 0.5, map: null, source: { from: 'file', detail: '' } };
const deck = testMaterial('Deck', { normal: 'maps/deck_n.png' });
const state = testState([hull, deck, testMaterial('Mast')], ['maps/lost.png']);
const rows = ['Hull', 'Deck', 'Mast'];

const detected = (path: string, more: Partial<DetectedMap>): DetectedMap =>
  ({ path, readings: [], packed: false, space: 'unknown', evidence: ['its name'], ...more }) as DetectedMap;
const reading = (channel: string, component: string, invert = false) => ({
  channel,
  component,
  invert,
  normalY: null,
});

function view(more: Partial<SlotKnowledge>): SlotKnowledge {
  return {
    state,
    images: ['maps/hull_color.png', 'maps/deck_n.png'].map((path) => testImage(path)),
    detected: [],
    fills: [],
    workflows: [],
    ...more,
  };
}

describe('putting images into slots by hand', () => {
  const slot = { material: 'Mast', channel: 'roughness' } as const;

  it('reads them as they are for that channel', () => {
    const packed = detected('orm.png', {
      packed: true,
      readings: [reading('occlusion', 'r'), reading('roughness', 'g')] as never,
    });
    expect(assignEdit([slot], 'orm.png', view({ detected: [packed] }))).toMatchObject({
      assignments: [{ ...slot, component: 'g', invert: false, space: 'data' }],
    });
    const gloss = detected('gloss.png', { readings: [reading('glossiness', 'r')] as never });
    expect(assignEdit([slot], 'gloss.png', view({ detected: [gloss] }))).toMatchObject({
      assignments: [{ invert: true }],
    });
  });

  it('takes floats as linear colours, and the space that was seen before all', () => {
    const exr = testImage('sail.exr', { format: 'exr', floating: true, bitDepth: 16 });
    const base = { material: 'Mast', channel: 'baseColor' } as const;
    expect(assignEdit([base], 'sail.exr', view({ images: [exr] }))).toMatchObject({
      assignments: [{ space: 'lin_rec709_scene', component: 'rgb' }],
    });
    const seen = detected('sail.exr', { space: 'lin_ap1_scene' });
    expect(assignEdit([base], 'sail.exr', view({ images: [exr], detected: [seen] }))).toMatchObject({
      assignments: [{ space: 'lin_ap1_scene' }],
    });
    expect(assignEdit([base], 'sail.png', view({}))).toMatchObject({
      assignments: [{ space: 'srgb_rec709_scene' }],
    });
  });

  it('splits a packed image as its name spells it, else in the usual order', () => {
    const wired = testState([testMaterial('Mast', { roughness: 'mast_rma.png' })]);
    const image = testImage('mast_rma.png');
    const usual = splitEdit(slot, view({ state: wired, images: [image] }));
    expect(usual).toMatchObject({ origin: { from: 'hand' } });
    expect(
      usual?.kind === 'assignSlots' &&
        usual.assignments.map(({ channel, component }) => `${channel} ${component}`),
    ).toEqual(['occlusion r', 'roughness g', 'metalness b']);
    const spelled = detected('mast_rma.png', {
      packed: true,
      readings: [reading('metalness', 'g'), reading('occlusion', 'b')] as never,
    });
    const named = splitEdit(slot, view({ state: wired, images: [image], detected: [spelled] }));
    // The slot itself is not among them: it is cleared.
    expect(named).toMatchObject({ clears: [slot], origin: { from: 'evidence' } });
    expect(
      splitEdit(slot, view({ state: wired, images: [testImage('mast_rma.png', { components: 1 })] })),
    ).toBeNull();
    expect(
      splitEdit({ material: 'Mast', channel: 'normal' }, view({ state: wired, images: [image] })),
    ).toBeNull();
  });

  it('fills what is beyond doubt in one edit, and nothing where nothing is', () => {
    expect(assignByNameEdit(view({}))).toBeNull();
    const fill = {
      material: 'Mast',
      channel: 'normal',
      image: 'n.png',
      component: 'rgb',
      invert: false,
      space: 'data',
      normalY: 'Y-',
    };
    const fills = [{ ...fill, reason: 'its name', setReason: 'one set', confidence: 1, missing: false }];
    expect(assignByNameEdit(view({ fills: fills as never }))).toMatchObject({
      kind: 'assignSlots',
      assignments: [fill],
      origin: { from: 'evidence' },
    });
  });

  it('knows what holds a map, what holds anything, and the next component', () => {
    const slots = rows.flatMap((material) =>
      (['metalness', 'normal'] as const).map((channel) => ({ material, channel })),
    );
    expect(withMap(slots, state.materials)).toEqual([{ material: 'Deck', channel: 'normal' }]);
    expect(notEmpty(slots, state.materials)).toEqual([
      { material: 'Hull', channel: 'metalness' },
      { material: 'Deck', channel: 'normal' },
    ]);
    expect(nextComponent('rgb', 'roughness')).toBe('r');
    expect(nextComponent('luminance', 'roughness')).toBe('rgb');
    expect(nextComponent('rgb', 'normal')).toBe('rgb');
  });
});

describe('edits that the page and the command line make alike', () => {
  const slot = { material: 'Hull', channel: 'roughness' } as const;

  it('of slots say that they were made by hand', () => {
    const origin = { from: 'hand', detail: 'slot board' };
    expect(clearEdit([slot])).toEqual({ kind: 'clearSlots', slots: [slot], origin });
    expect(adjustEdit([slot], { invert: true })).toEqual({
      kind: 'adjustSlots',
      slots: [slot],
      change: { invert: true },
      origin,
    });
    expect(valueEdit([slot], 0.5)).toEqual({ kind: 'setValues', slots: [slot], value: 0.5, origin });
    const maps = [detected('a.png', { readings: [reading('normal', 'rgb')] as never, confidence: 0.95 })];
    expect(assignImagesEdit('Hull', ['a.png'], view({ detected: maps }))).toMatchObject({
      assignments: [{ material: 'Hull', channel: 'normal', image: 'a.png' }],
    });
    expect(assignImagesEdit('Hull', ['b.png'], view({ detected: maps }))).toBeNull();
  });

  it('of links say why, and are one where many are made', () => {
    const candidate = { path: 'm/a.png', score: 1, reasons: ['same name', 'same folder m'], safe: true };
    const link = linkEdit('a.png', candidate);
    expect(link).toEqual({
      kind: 'linkImages',
      links: [{ image: 'a.png', path: 'm/a.png', reason: 'same name, same folder m' }],
      origin: { from: 'hand', detail: 'same name, same folder m' },
    });
    expect(unlinkEdit(['a.png'])).toMatchObject({ kind: 'unlinkImages', images: ['a.png'] });
    const other: Edit = clearEdit([slot]);
    const [joined, rest] = joinLinks([other, link, linkEdit('b.png', { ...candidate, path: 'm/b.png' })]);
    expect(joined).toMatchObject({
      links: [{ image: 'a.png' }, { image: 'b.png' }],
      origin: { from: 'evidence', detail: 'same name, same folder m' },
    });
    expect(rest).toBe(other);
  });

  it('know what an image in tiles is linked to', () => {
    const tiles = [1001, 1002].map((number) => ({ number, path: `t/hull.${number}.exr` }));
    const image = { tiles, resolved: 't/hull.1001.exr' };
    expect(patternOf(image)).toBe('t/hull.<UDIM>.exr');
    expect(patternOf({ resolved: 'a.png' })).toBe('a.png');
    expect(patternOf({ resolved: null })).toBe('');
    expect([
      isLinkedTo(image, 't/hull.<UDIM>.exr'),
      isLinkedTo(image, 't/hull.1001.exr'),
      isLinkedTo(image, 't/hull.1002.exr'),
    ]).toEqual([true, true, false]);
  });

  it('of several findings are the edits, and one request for all that want the same images', () => {
    const make = (materials: string[], recipe = 'bake-tint', params = {}) => ({
      mend: null,
      make: { materials, recipe, params },
    });
    expect(
      mendsOf([
        make(['A']),
        { mend: clearEdit([slot]) },
        make(['B', 'A']),
        make(['A'], 'normal', { strength: 1 }),
        make(['C'], 'normal', { strength: 2 }),
      ]),
    ).toEqual({
      edits: [clearEdit([slot])],
      makes: [
        { materials: ['A', 'B'], recipe: 'bake-tint', params: {} },
        { materials: ['A'], recipe: 'normal', params: { strength: 1 } },
        { materials: ['C'], recipe: 'normal', params: { strength: 2 } },
      ],
    });
  });
});
