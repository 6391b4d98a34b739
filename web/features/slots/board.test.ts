import type { AssetImage, ParcelImage } from '@kinkajou/core/asset/asset';
import type { Finding } from '@kinkajou/core/findings/finding';
import type { DetectedMap } from '@kinkajou/core/maps/detectMaps';
import { testImage, testMaterial, testState } from '@kinkajou/core/test/assets';
import { describe, expect, it } from 'vitest';
import type { BenchView } from '../bench/useBench.ts';
import { cellOf, columnsOf, marksOf, rectangle, rowMark } from './boardModel.ts';
import { copySlots, fillDownEdit, pasteEdit } from './clipboard.ts';
import { assignByNameEdit, assignEdit, nextComponent, notEmpty, splitEdit, withMap } from './slotEdits.ts';

const hull = testMaterial('Hull', { baseColor: 'maps/hull_color.png', roughness: 'maps/lost.png' });
hull.channels.metalness = { value: 0.5, map: null, source: { from: 'file', detail: '' } };
const deck = testMaterial('Deck', { normal: 'maps/deck_n.png' });
const mast = testMaterial('Mast');
const state = testState([hull, deck, mast], ['maps/lost.png']);
const rows = ['Hull', 'Deck', 'Mast'];

function finding(severity: Finding['severity'], material: string, channel: 'baseColor' | 'normal'): Finding {
  return {
    code: 'map.colourSpace',
    step: 'colour',
    severity,
    key: `${severity} ${material} ${channel}`,
    title: '',
    subject: material,
    message: '',
    evidence: [],
    mend: null,
    safe: false,
    mendLabel: '',
    target: { material, channel },
  };
}

const inputs = {
  entries: new Map(state.images.map((image): [string, AssetImage] => [image.key, image])),
  images: new Map(['maps/hull_color.png', 'maps/deck_n.png'].map((path): [string, ParcelImage] => [path, testImage(path)])),
  marks: marksOf([finding('error', 'Hull', 'baseColor'), finding('warning', 'Hull', 'baseColor'), finding('note', 'Deck', 'normal')]),
  names: new Map([['maps/hull_color.png', 'hull_color']]),
};

describe('cells of the board', () => {
  it('show image, missing image, value or nothing', () => {
    expect(cellOf(hull, 'baseColor', inputs)).toMatchObject({ kind: 'map', mark: 'broken', label: 'hull_color' });
    expect(cellOf(hull, 'roughness', inputs)).toMatchObject({ kind: 'missing', mark: 'broken', label: 'lost.png', image: null });
    expect(cellOf(hull, 'metalness', inputs)).toMatchObject({ kind: 'value', mark: 'fine', label: 'value' });
    expect(cellOf(mast, 'normal', inputs)).toMatchObject({ kind: 'empty', mark: 'empty', channel: null });
    // A note is no mark.
    expect(cellOf(deck, 'normal', inputs)).toMatchObject({ kind: 'map', mark: 'fine', label: 'deck_n.png' });
  });

  it('take the worst that points at them', () => {
    const marks = marksOf([finding('error', 'Hull', 'baseColor'), finding('warning', 'Hull', 'baseColor'), finding('warning', 'Deck', 'normal')]);
    expect(rowMark(hull, ['baseColor', 'normal'], marks)).toBe('broken');
    expect(rowMark(deck, ['baseColor', 'normal'], marks)).toBe('doubtful');
    expect(rowMark(deck, ['baseColor'], marks)).toBe('fine');
  });
});

describe('columns and rectangles', () => {
  it('are those that are always there, used or chosen, in their order', () => {
    const usual = ['baseColor', 'metalness', 'roughness', 'normal', 'occlusion', 'emission'];
    expect(columnsOf(state, [], [])).toEqual(usual);
    expect(columnsOf(state, ['coat'], ['emission'])).toEqual([...usual.filter((name) => name !== 'emission'), 'coat']);
    expect(columnsOf(testState([testMaterial('Glass', { transmission: 'g.png' })]), [], [])).toContain('transmission');
  });

  it('go from any corner to any other', () => {
    const columns = ['baseColor', 'metalness', 'roughness'] as const;
    const at = (material: string, channel: (typeof columns)[number]) => ({ material, channel });
    const both = rectangle(at('Deck', 'roughness'), at('Hull', 'metalness'), rows, columns);
    expect(both).toEqual([at('Hull', 'metalness'), at('Hull', 'roughness'), at('Deck', 'metalness'), at('Deck', 'roughness')]);
    expect(rectangle(at('Hull', 'baseColor'), at('Gone', 'baseColor'), rows, columns)).toEqual([]);
  });
});

describe('copying and pasting', () => {
  const base = { material: 'Hull', channel: 'baseColor' } as const;

  it('puts one slot into all that are selected', () => {
    expect(copySlots([base], state.materials, rows)).toBe(1);
    const edit = pasteEdit(
      [
        { material: 'Deck', channel: 'baseColor' },
        { material: 'Mast', channel: 'emission' },
      ],
      rows,
    );
    expect(edit).toMatchObject({ kind: 'pasteSlots' });
    expect(edit?.kind === 'pasteSlots' && edit.slots.map(({ material, channel, content }) => [material, channel, content?.map?.image])).toEqual([
      ['Deck', 'baseColor', 'maps/hull_color.png'],
      ['Mast', 'emission', 'maps/hull_color.png'],
    ]);
  });

  it('puts a row into the same channels of other rows, and several rows below each other', () => {
    copySlots([base, { material: 'Hull', channel: 'metalness' }], state.materials, rows);
    const across = pasteEdit([{ material: 'Mast', channel: 'normal' }], rows);
    expect(across?.kind === 'pasteSlots' && across.slots.map(({ material, channel }) => `${material} ${channel}`)).toEqual([
      'Mast baseColor',
      'Mast metalness',
    ]);
    copySlots([base, { material: 'Deck', channel: 'normal' }], state.materials, rows);
    const down = pasteEdit([{ material: 'Deck', channel: 'baseColor' }], rows);
    expect(down?.kind === 'pasteSlots' && down.slots.map(({ material, channel }) => `${material} ${channel}`)).toEqual(['Deck baseColor', 'Mast normal']);
    expect(pasteEdit([], rows)).toBeNull();
  });

  it('fills down from the topmost slot, an empty one too', () => {
    const column = (channel: 'baseColor' | 'normal') => rows.map((material) => ({ material, channel }));
    const filled = fillDownEdit(column('baseColor').reverse(), state.materials, rows);
    expect(filled?.kind === 'pasteSlots' && filled.slots.map(({ material, content }) => [material, content?.map?.image])).toEqual([
      ['Deck', 'maps/hull_color.png'],
      ['Mast', 'maps/hull_color.png'],
    ]);
    const emptied = fillDownEdit(column('normal').slice(0, 2), state.materials, rows);
    expect(emptied?.kind === 'pasteSlots' && emptied.slots).toEqual([{ material: 'Deck', channel: 'normal', content: null }]);
    expect(fillDownEdit([base], state.materials, rows)).toBeNull();
  });
});

const detected = (path: string, more: Partial<DetectedMap>): DetectedMap =>
  ({ path, readings: [], packed: false, space: 'unknown', evidence: ['its name'], ...more }) as DetectedMap;
const reading = (channel: string, component: string, invert = false) => ({ channel, component, invert, normalY: null });

function view(more: Partial<BenchView>): BenchView {
  return { state, images: [...inputs.images.values()], detected: [], fills: [], workflows: [], ...more } as unknown as BenchView;
}

describe('putting images into slots by hand', () => {
  const slot = { material: 'Mast', channel: 'roughness' } as const;

  it('reads them as they are for that channel', () => {
    const packed = detected('orm.png', { packed: true, readings: [reading('occlusion', 'r'), reading('roughness', 'g')] as never });
    expect(assignEdit([slot], 'orm.png', view({ detected: [packed] }))).toMatchObject({
      assignments: [{ ...slot, component: 'g', invert: false, space: 'data' }],
    });
    const gloss = detected('gloss.png', { readings: [reading('glossiness', 'r')] as never });
    expect(assignEdit([slot], 'gloss.png', view({ detected: [gloss] }))).toMatchObject({ assignments: [{ invert: true }] });
  });

  it('takes floats as linear colours, and the space that was seen before all', () => {
    const exr = testImage('sail.exr', { format: 'exr', floating: true, bitDepth: 16 });
    const base = { material: 'Mast', channel: 'baseColor' } as const;
    expect(assignEdit([base], 'sail.exr', view({ images: [exr] }))).toMatchObject({ assignments: [{ space: 'lin_rec709_scene', component: 'rgb' }] });
    const seen = detected('sail.exr', { space: 'lin_ap1_scene' });
    expect(assignEdit([base], 'sail.exr', view({ images: [exr], detected: [seen] }))).toMatchObject({ assignments: [{ space: 'lin_ap1_scene' }] });
    expect(assignEdit([base], 'sail.png', view({}))).toMatchObject({ assignments: [{ space: 'srgb_rec709_scene' }] });
  });

  it('splits a packed image as its name spells it, else in the usual order', () => {
    const wired = testState([testMaterial('Mast', { roughness: 'mast_rma.png' })]);
    const image = testImage('mast_rma.png');
    const usual = splitEdit(slot, view({ state: wired, images: [image] }));
    expect(usual).toMatchObject({ origin: { from: 'hand' } });
    expect(usual?.kind === 'assignSlots' && usual.assignments.map(({ channel, component }) => `${channel} ${component}`)).toEqual([
      'occlusion r',
      'roughness g',
      'metalness b',
    ]);
    const spelled = detected('mast_rma.png', { packed: true, readings: [reading('metalness', 'g'), reading('occlusion', 'b')] as never });
    const named = splitEdit(slot, view({ state: wired, images: [image], detected: [spelled] }));
    // The slot itself is not among them: it is cleared.
    expect(named).toMatchObject({ clears: [slot], origin: { from: 'evidence' } });
    expect(splitEdit(slot, view({ state: wired, images: [testImage('mast_rma.png', { components: 1 })] }))).toBeNull();
    expect(splitEdit({ material: 'Mast', channel: 'normal' }, view({ state: wired, images: [image] }))).toBeNull();
  });

  it('fills what is beyond doubt in one edit, and nothing where nothing is', () => {
    expect(assignByNameEdit(view({}))).toBeNull();
    const fill = { material: 'Mast', channel: 'normal', image: 'n.png', component: 'rgb', invert: false, space: 'data', normalY: 'Y-' };
    const fills = [{ ...fill, reason: 'its name', setReason: 'one set', confidence: 1, missing: false }];
    expect(assignByNameEdit(view({ fills: fills as never }))).toMatchObject({ kind: 'assignSlots', assignments: [fill], origin: { from: 'evidence' } });
  });

  it('knows what holds a map, what holds anything, and the next component', () => {
    const slots = rows.flatMap((material) => (['metalness', 'normal'] as const).map((channel) => ({ material, channel })));
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
