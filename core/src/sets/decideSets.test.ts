import { describe, expect, it } from 'vitest';
import { LAYOUT, type UvLayout } from '../asset/uvLayout.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { plainReading } from '../maps/nameSpans.ts';
import type { ChannelName } from '../scene/material.ts';
import { testMaterial } from '../test/assets.ts';
import { decideSets, type EvidenceTable } from './decideSets.ts';
import type { ImageSet } from './imageSet.ts';
import type { SetEvidence } from './setEvidence.ts';

function setOf(label: string, more: Partial<ImageSet> = {}): ImageSet {
  const channels: ChannelName[] = ['baseColor', 'normal'];
  return {
    id: label,
    label,
    words: [label],
    folder: '',
    folderWords: [],
    members: channels.map((channel) => ({
      map: { path: `${label}_${channel}.png` } as DetectedMap,
      reading: plainReading(channel),
      confidence: 0.95,
    })),
    content: label,
    guess: false,
    spare: [],
    other: null,
    ...more,
  };
}

type Row = (number | Partial<SetEvidence>)[];

/** Who gets which set beyond doubt, by what speaks for each pair; a number is what the names say. */
function decided(rows: Record<string, Row>, sets: ImageSet[], more: Partial<EvidenceTable> = {}): string[] {
  const evidence = Object.values(rows).map((row) =>
    row.map((given, i): SetEvidence => {
      const said = typeof given === 'number' ? { name: given } : given;
      const blank = { set: sets[i], name: 0, layout: null, narrower: false, reasons: [] };
      return { ...blank, score: said.name ?? 0, ...said };
    }),
  );
  const materials = Object.keys(rows).map((name) => testMaterial(name));
  const table = { rows: materials, sets, evidence, taken: new Set<ImageSet>(), layouts: {}, shared: false };
  return decideSets({ ...table, ...more }).sure.map(({ material, set }) => `${material}: ${set.label}`);
}

/** Faces on the columns from one to another of the 64. */
function columns(from: number, to: number, repeats = 0): UvLayout {
  const bits = Array.from({ length: LAYOUT * LAYOUT }, (_, i) =>
    Number(i % LAYOUT >= from && i % LAYOUT < to),
  );
  const digits = Array.from({ length: bits.length / 4 }, (_, i) =>
    parseInt(bits.slice(i * 4, i * 4 + 4).join(''), 2).toString(16),
  );
  return { cells: digits.join(''), repeats };
}

const [hull, deck] = [setOf('hull'), setOf('deck')];

describe('a set of images is given', () => {
  it('where its name is clear and no rival is near, where it is fair and rivals are far', () => {
    expect(decided({ Hull: [0.6, 0.45], Mast: [0, 0] }, [hull, deck])).toEqual(['Hull: hull']);
    expect(decided({ Hull: [0.6, 0.55], Mast: [0, 0] }, [hull, deck])).toEqual([]);
    expect(decided({ Hull: [0.5, 0.2], Mast: [0, 0] }, [hull, deck])).toEqual(['Hull: hull']);
    expect(decided({ Hull: [0.5, 0.3], Mast: [0, 0] }, [hull, deck])).toEqual([]);
  });

  it('by the whole, where a rival is better off elsewhere', () => {
    expect(decided({ Hull: [0.9, 0.8], Mast: [0.8, 0] }, [hull, deck])).toEqual(['Hull: deck', 'Mast: hull']);
  });

  it('never because it is the only one that a name hints at', () => {
    expect(decided({ Hull: [0.2], Mast: [0] }, [hull])).toEqual([]);
  });

  it('against its layout only where no other fits that better', () => {
    const belied = { name: 0.8, layout: -0.4, score: 0.7 };
    const fits = { name: 0, layout: 0.5, score: 0.15 };
    expect(decided({ Hull: [belied, fits], Mast: [0, 0] }, [hull, deck])).toEqual([]);
    expect(decided({ Hull: [belied, { layout: 0.1 }], Mast: [0, 0] }, [hull, deck])).toEqual(['Hull: hull']);
  });

  it('where it says more than the material only if the layout agrees', () => {
    const rope = setOf('mast rope');
    const narrower = { name: 0.8, narrower: true, score: 0.8 };
    expect(decided({ Mast: [narrower, 0], Hull: [0, 0] }, [rope, deck])).toEqual([]);
    expect(decided({ Mast: [{ ...narrower, layout: 0.3 }, 0], Hull: [0, 0] }, [rope, deck])).toEqual([
      'Mast: mast rope',
    ]);
    // Alone it has nobody else to be for, but with other models around.
    expect(decided({ Mast: [narrower] }, [rope])).toEqual(['Mast: mast rope']);
    expect(decided({ Mast: [narrower] }, [rope], { shared: true })).toEqual([]);
  });
});

describe('what is left over', () => {
  it('meets where one of each is, unless both names say something else or it is a mere guess', () => {
    const first = { Hull: [1, 0] };
    expect(decided({ ...first, Material: [0, 0] }, [hull, deck])).toEqual(['Hull: hull', 'Material: deck']);
    expect(decided({ ...first, Mast: [0, 0] }, [hull, deck])).toEqual(['Hull: hull']);
    const guessed = setOf('deck', { guess: true });
    expect(decided({ ...first, Material: [0, 0] }, [hull, guessed])).toEqual(['Hull: hull']);
    expect(decided({ Mast: [0] }, [guessed])).toEqual(['Mast: deck']);
  });

  it('knows no rival in an image that only its colours speak for', () => {
    const guessed = setOf('scratches', { guess: true });
    expect(decided({ Material: [0, 0] }, [hull, guessed])).toEqual(['Material: hull']);
    expect(decided({ Material: [0, 0] }, [hull, deck])).toEqual([]);
    // Unless the material is called so, faintly.
    expect(decided({ Material: [0, 0.2] }, [hull, guessed])).toEqual([]);
    expect(decided({ Material: [0, 0] }, [guessed, setOf('rope', { guess: true })])).toEqual([]);
  });

  it('is one atlas where the layouts lie beside each other in it, and repeat nothing', () => {
    const atlas = (bow: UvLayout, stern: UvLayout, more: Partial<EvidenceTable> = {}) =>
      decided({ Bow: [0], Stern: [0] }, [hull], { layouts: { Bow: bow, Stern: stern }, ...more });
    const both = ['Bow: hull', 'Stern: hull'];
    expect(atlas(columns(0, 32), columns(32, 64))).toEqual(both);
    // One whose layout fits best is no reason to leave out the others; one that is called so is.
    const beside = { layouts: { Bow: columns(0, 32), Stern: columns(32, 64) } };
    expect(decided({ Bow: [{ layout: 0.6, score: 0.2 }], Stern: [0] }, [hull], beside)).toEqual(both);
    expect(decided({ Bow: [0.6], Stern: [0] }, [hull], beside)).toEqual(['Bow: hull']);
    // Two of 32 columns are a touch, six are not.
    expect(atlas(columns(0, 32), columns(30, 62))).toEqual(both);
    expect(atlas(columns(0, 32), columns(26, 58))).toEqual([]);
    expect(atlas(columns(0, 32), columns(32, 64, 0.1))).toEqual([]);
    expect(atlas(columns(0, 32), columns(32, 64), { shared: true })).toEqual([]);
    expect(atlas(columns(0, 32), columns(32, 64), { taken: new Set([hull]) })).toEqual([]);
  });

  it('does not matter where all sets hold the very same images', () => {
    const copy = setOf('copy', { content: 'hull' });
    expect(decided({ Bow: [0, 0], Stern: [0, 0] }, [hull, copy])).toEqual(['Bow: hull', 'Stern: copy']);
    expect(decided({ Bow: [0, 0], Stern: [0, 0] }, [hull, deck])).toEqual([]);
    expect(decided({ Bow: [0.5, 0.5], Stern: [0, 0] }, [hull, copy])[0]).toBe('Bow: hull');
  });
});
