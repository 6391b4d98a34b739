import type { AssetImage, ParcelImage } from '@kinkajou/core/asset/asset';
import type { Finding } from '@kinkajou/core/findings/finding';
import { testImage, testMaterial, testState } from '@kinkajou/core/test/assets';
import { describe, expect, it } from 'vitest';
import { cellOf, columnsOf, marksOf, rectangle, rowMark } from './boardModel.ts';
import { copySlots, fillDownEdit, pasteEdit } from './clipboard.ts';

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
  images: new Map(
    ['maps/hull_color.png', 'maps/deck_n.png'].map((path): [string, ParcelImage] => [path, testImage(path)]),
  ),
  marks: marksOf([
    finding('error', 'Hull', 'baseColor'),
    finding('warning', 'Hull', 'baseColor'),
    finding('note', 'Deck', 'normal'),
  ]),
  names: new Map([['maps/hull_color.png', 'hull_color']]),
};

describe('cells of the board', () => {
  it('show image, missing image, value or nothing', () => {
    expect(cellOf(hull, 'baseColor', inputs)).toMatchObject({
      kind: 'map',
      mark: 'broken',
      label: 'hull_color',
    });
    expect(cellOf(hull, 'roughness', inputs)).toMatchObject({
      kind: 'missing',
      mark: 'broken',
      label: 'lost.png',
      image: null,
    });
    expect(cellOf(hull, 'metalness', inputs)).toMatchObject({ kind: 'value', mark: 'fine', label: 'value' });
    expect(cellOf(mast, 'normal', inputs)).toMatchObject({ kind: 'empty', mark: 'empty', channel: null });
    // A note is no mark.
    expect(cellOf(deck, 'normal', inputs)).toMatchObject({ kind: 'map', mark: 'fine', label: 'deck_n.png' });
  });

  it('take the worst that points at them', () => {
    const marks = marksOf([
      finding('error', 'Hull', 'baseColor'),
      finding('warning', 'Hull', 'baseColor'),
      finding('warning', 'Deck', 'normal'),
    ]);
    expect(rowMark(hull, ['baseColor', 'normal'], marks)).toBe('broken');
    expect(rowMark(deck, ['baseColor', 'normal'], marks)).toBe('doubtful');
    expect(rowMark(deck, ['baseColor'], marks)).toBe('fine');
  });
});

it('all slots that read another set’s images are marked by their one finding', () => {
  const exchanged = (code: string): Finding => ({
    ...finding('warning', 'Hull', 'baseColor'),
    code,
    mend: {
      kind: 'assignSlots',
      assignments: (['baseColor', 'roughness'] as const).map((channel) => ({
        material: 'Hull',
        channel,
        image: 'maps/hull_color.png',
        component: 'r',
        invert: false,
        space: 'data',
        normalY: 'Y+',
      })),
      origin: { from: 'evidence', detail: '' },
    },
  });
  expect([...marksOf([exchanged('slot.contradiction')])]).toEqual([
    ['Hull\nbaseColor', 'doubtful'],
    ['Hull\nroughness', 'doubtful'],
  ]);
  // What would fill other slots says nothing of what is in them.
  expect([...marksOf([exchanged('slot.packedWhole')]).keys()]).toEqual(['Hull\nbaseColor']);
});

describe('columns and rectangles', () => {
  it('are those that are always there, used or chosen, in their order', () => {
    const usual = ['baseColor', 'metalness', 'roughness', 'normal', 'occlusion', 'emission'];
    expect(columnsOf(state, [], [])).toEqual(usual);
    expect(columnsOf(state, ['coat'], ['emission'])).toEqual([
      ...usual.filter((name) => name !== 'emission'),
      'coat',
    ]);
    expect(columnsOf(testState([testMaterial('Glass', { transmission: 'g.png' })]), [], [])).toContain(
      'transmission',
    );
  });

  it('go from any corner to any other', () => {
    const columns = ['baseColor', 'metalness', 'roughness'] as const;
    const entryAt = (material: string, channel: (typeof columns)[number]) => ({ material, channel });
    const both = rectangle(entryAt('Deck', 'roughness'), entryAt('Hull', 'metalness'), rows, columns);
    expect(both).toEqual([
      entryAt('Hull', 'metalness'),
      entryAt('Hull', 'roughness'),
      entryAt('Deck', 'metalness'),
      entryAt('Deck', 'roughness'),
    ]);
    expect(rectangle(entryAt('Hull', 'baseColor'), entryAt('Gone', 'baseColor'), rows, columns)).toEqual([]);
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
    expect(
      edit?.kind === 'pasteSlots' &&
        edit.slots.map(({ material, channel, content }) => [material, channel, content?.map?.image]),
    ).toEqual([
      ['Deck', 'baseColor', 'maps/hull_color.png'],
      ['Mast', 'emission', 'maps/hull_color.png'],
    ]);
  });

  it('puts a row into the same channels of other rows, and several rows below each other', () => {
    copySlots([base, { material: 'Hull', channel: 'metalness' }], state.materials, rows);
    const across = pasteEdit([{ material: 'Mast', channel: 'normal' }], rows);
    expect(
      across?.kind === 'pasteSlots' && across.slots.map(({ material, channel }) => `${material} ${channel}`),
    ).toEqual(['Mast baseColor', 'Mast metalness']);
    copySlots([base, { material: 'Deck', channel: 'normal' }], state.materials, rows);
    const down = pasteEdit([{ material: 'Deck', channel: 'baseColor' }], rows);
    expect(
      down?.kind === 'pasteSlots' && down.slots.map(({ material, channel }) => `${material} ${channel}`),
    ).toEqual(['Deck baseColor', 'Mast normal']);
    expect(pasteEdit([], rows)).toBeNull();
  });

  it('fills down from the topmost slot, an empty one too', () => {
    const column = (channel: 'baseColor' | 'normal') => rows.map((material) => ({ material, channel }));
    const filled = fillDownEdit(column('baseColor').reverse(), state.materials, rows);
    expect(
      filled?.kind === 'pasteSlots' &&
        filled.slots.map(({ material, content }) => [material, content?.map?.image]),
    ).toEqual([
      ['Deck', 'maps/hull_color.png'],
      ['Mast', 'maps/hull_color.png'],
    ]);
    const emptied = fillDownEdit(column('normal').slice(0, 2), state.materials, rows);
    expect(emptied?.kind === 'pasteSlots' && emptied.slots).toEqual([
      { material: 'Deck', channel: 'normal', content: null },
    ]);
    expect(fillDownEdit([base], state.materials, rows)).toBeNull();
  });
});
