import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { identityWords, isDefaultName, likenessOf, nameIndex, nameSide, readName } from './identity.ts';

const NONE = new Set<string>();

/** Likeness of one material and one set among all names of both sides. */
function like(
  material: string,
  set: string,
  materials: string[] = [material],
  sets: string[] = [set],
  asset = '',
): number {
  const words = (names: string[]) => names.map(identityWords);
  const own = asset === '' ? NONE : new Set(identityWords(asset));
  return likenessOf(
    readName(identityWords(material), nameSide(words(materials), own)),
    readName(identityWords(set), nameSide(words(sets), own)),
  ).score;
}

describe('likeness of names', () => {
  it('is 1 for the same name, whatever its case, accents and separators', () => {
    expect(like('Hull paint', 'hull_paint')).toBe(1);
    expect(like('HULLPAINT', 'hull paint')).toBe(1);
    expect(like('Möwe', 'mowe')).toBe(1);
    expect(like('Part 1', 'part 001')).toBe(1);
  });

  it('takes decoration off both sides', () => {
    for (const material of ['M_Hull', 'MI_Hull', 'Hull_mat', 'HullSG', 'Hull_shd'])
      expect(like(material, 't hull'), material).toBeGreaterThanOrEqual(0.95);
  });

  it('takes off what all names of a side share, and the name of the asset', () => {
    expect(
      like('Hull', 'pilot boat hull', ['Hull', 'Deck'], ['pilot boat hull', 'pilot boat deck']),
    ).toBeGreaterThanOrEqual(0.9);
    expect(like('Hull', 'boat hull', ['Hull'], ['boat hull'], 'boat')).toBeGreaterThanOrEqual(0.9);
  });

  it('takes off once what all names share, so that what stands twice stays', () => {
    const sets = ['door door', 'door glass', 'door handle'];
    expect(like('Door', 'door door', ['Door', 'Glass'], sets)).toBeGreaterThanOrEqual(0.9);
    expect(like('Glass', 'door door', ['Door', 'Glass'], sets)).toBe(0);
    expect(like('Door', 'door door', ['Door'], ['door door'], 'door')).toBeGreaterThanOrEqual(0.9);
  });

  it('knows short forms of words that keep their beginning', () => {
    const [materials, sets] = [
      ['house ext', 'house int'],
      ['house exterior', 'house interior'],
    ];
    const lead =
      like('house ext', 'house exterior', materials, sets) -
      like('house int', 'house exterior', materials, sets);
    expect(lead).toBeGreaterThan(0.3);
    expect(like('bar', 'barnacles')).toBe(0);
  });

  it('knows the same words in another order', () => {
    expect(like('rope mast', 'mast rope')).toBeCloseTo(0.94, 9);
  });

  it('holds an exact match above a contained one by more than a clear lead', () => {
    const sets = ['mast', 'mast rope', 'boom'];
    const materials = ['mast', 'mast rope', 'boom'];
    expect(
      like('mast', 'mast', materials, sets) - like('mast', 'mast rope', materials, sets),
    ).toBeGreaterThan(0.4);
    expect(like('boom', 'mast rope', materials, sets)).toBe(0);
  });

  it('takes other numbers for other things', () => {
    const parts = ['part 001', 'part 002', 'part 003'];
    expect(like('part 001', 'part 002', parts, parts)).toBeLessThan(0.15);
    expect(like('Hull.001', 'hull')).toBeGreaterThan(0.8);
    expect(like('Hull.001', 'hull 001') - like('Hull.001', 'hull')).toBeGreaterThan(0.1);
  });

  it('knows names that programs give', () => {
    for (const name of ['Material.001', 'lambert2', 'DefaultMaterial', 'initialShadingGroup', 'None'])
      expect(isDefaultName(identityWords(name)), name).toBe(true);
    for (const name of ['Hull', 'Material Hull', 'winch 2'])
      expect(isDefaultName(identityWords(name)), name).toBe(false);
  });

  it('passes over no name that is like another', () => {
    const word = fc.constantFrom(
      'hull',
      'hulls',
      'deck',
      'mast',
      'rope',
      '1',
      '001',
      'M',
      'mat',
      'paint',
      'pain',
      'boat',
    );
    const names = fc.array(fc.array(word, { minLength: 1, maxLength: 3 }), { minLength: 1, maxLength: 8 });
    fc.assert(
      fc.property(names, names, (materials, sets) => {
        const [first, second] = [nameSide(materials, NONE), nameSide(sets, NONE)];
        const all = sets.map((words) => readName(words, second));
        const mayBeLike = nameIndex(all);
        for (const words of materials) {
          const name = readName(words, first);
          const found = mayBeLike(name);
          for (const [i, other] of all.entries())
            if (likenessOf(name, other).score > 0) expect(found.has(i), `${words} ${other.words}`).toBe(true);
        }
      }),
      { numRuns: 300 },
    );
  });
});
