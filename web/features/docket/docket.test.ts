import type { Edit } from '@kinkajou/core/asset/asset';
import { joinLinks } from '@kinkajou/core/edits/linkEdits';
import { sameKindWithMend } from '@kinkajou/core/edits/mends';
import type { Finding } from '@kinkajou/core/findings/finding';
import { describe, expect, it } from 'vitest';
import type { Bench } from '../bench/useBench.ts';
import { besideQuestion, questionsOf, questionTitle } from '../questions/questions.ts';
import { mendSafe, mendSameKind } from './mend.ts';

const link = (image: string, reason: string): Edit => ({
  kind: 'linkImages',
  links: [{ image, path: `maps/${image}`, reason }],
  origin: { from: 'evidence', detail: reason },
});
const turn: Edit = {
  kind: 'adjustSlots',
  slots: [],
  change: { invert: true },
  origin: { from: 'evidence', detail: '' },
};

function finding(code: string, key: string, more: Partial<Finding> = {}): Finding {
  return {
    code,
    step: 'links',
    severity: 'error',
    key,
    title: 'A title',
    subject: key,
    message: '',
    evidence: [],
    mend: null,
    safe: false,
    mendLabel: '',
    target: {},
    ...more,
  };
}

/** A bench that notes what it is asked to do. */
function benchOf(findings: Finding[]): { bench: Bench; applied: Edit[][]; made: unknown[] } {
  const [applied, made]: [Edit[][], unknown[]] = [[], []];
  const bench = {
    view: { findings },
    apply: (edits: Edit[]) => applied.push(edits),
    make: (request: unknown) => made.push(request),
  } as unknown as Bench;
  return { bench, applied, made };
}

describe('mending from the docket', () => {
  it('makes one entry of all links, with every reason once', () => {
    expect(
      joinLinks([link('a.png', 'same name'), turn, link('b.png', 'same name'), link('c.png', 'same set')]),
    ).toEqual([
      {
        kind: 'linkImages',
        links: ['a.png', 'b.png', 'c.png'].map((image, i) => ({
          image,
          path: `maps/${image}`,
          reason: i < 2 ? 'same name' : 'same set',
        })),
        origin: { from: 'evidence', detail: 'same name; same set' },
      },
      turn,
    ]);
    expect(joinLinks([turn])).toEqual([turn]);
  });

  it('takes those of the same kind and the same safety only', () => {
    const list = [
      finding('link.missing', '1', { mend: link('a.png', 'x'), safe: true }),
      finding('link.missing', '2', { mend: link('b.png', 'x'), safe: true }),
      finding('link.missing', '3', { mend: link('c.png', 'x') }),
      finding('link.missing', '4'),
      finding('map.gloss', '5', { mend: turn, safe: true }),
    ];
    expect(sameKindWithMend(list, list[0]).map(({ key }) => key)).toEqual(['1', '2']);
    const { bench, applied } = benchOf(list);
    mendSameKind(bench, list[0]);
    expect(applied).toHaveLength(1);
    expect(applied[0]).toHaveLength(1);
    mendSafe(bench);
    expect(applied[1].map(({ kind }) => kind)).toEqual(['linkImages', 'adjustSlots']);
  });

  it('asks for one job where several materials want the same', () => {
    const make = (materials: string[], recipe = 'mend-edges') => ({ materials, recipe, params: {} });
    const { bench, made } = benchOf([
      finding('edge.fringe', '1', { make: make(['Sail']), safe: true }),
      finding('edge.fringe', '2', { make: make(['Flag', 'Sail']), safe: true }),
      finding('edge.other', '3', { make: make(['Net'], 'bake-tint'), safe: true }),
    ]);
    mendSafe(bench);
    expect(made).toEqual([make(['Sail', 'Flag']), make(['Net'], 'bake-tint')]);
  });
});

describe('questions', () => {
  const choices = [{ id: 'a', label: 'a', reason: '', images: [], edits: [] }];
  const list = [
    finding('set.ambiguous', 'one', { choices, subject: 'Hull' }),
    finding('link.missing', 'two'),
    finding('slot.pixels', 'three', { choices }),
  ];

  it('are the findings that give a choice, in the order of the docket, round and round', () => {
    expect(questionsOf(list).map(({ finding: { key } }) => key)).toEqual(['one', 'three']);
    expect(besideQuestion(list, 'one', 1)).toBe('three');
    expect(besideQuestion(list, 'three', 1)).toBe('one');
    expect(besideQuestion(list, 'one', -1)).toBe('three');
    expect(besideQuestion(list, null, 1)).toBe('one');
    expect(besideQuestion(list, 'two', -1)).toBe('three');
    expect(besideQuestion([], null, 1)).toBeNull();
  });

  it('ask whose images these are', () => {
    expect(questionTitle(list[0])).toBe('Which images belong to Hull?');
    expect(questionTitle(list[2])).toBe('A title');
  });
});
