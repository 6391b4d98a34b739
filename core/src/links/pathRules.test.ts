import { describe, expect, it } from 'vitest';
import { buildFileIndex } from './fileIndex.ts';
import { applyRule, learnRule, ruleInWords } from './pathRules.ts';

describe('path rules', () => {
  it('learn what differs before the common end', () => {
    expect(learnRule('D:\\quay\\art\\maps\\hull.png', 'delivery/maps/hull.png')).toEqual({
      from: 'quay/art',
      to: 'delivery',
    });
    expect(learnRule('/home/mo/hull.png', 'hull.png')).toEqual({ from: 'home/mo', to: '' });
    expect(learnRule('D:\\quay\\hull.png', 'delivery/boat.png')).toBeNull();
    // Of another type; what begins with its only point has none.
    expect(learnRule('C:/quay/maps/Hull.tif', 'new/maps/hull.png')).toEqual({ from: 'quay', to: 'new' });
    expect(learnRule('C:/quay/.tif', 'new/.png')).toBeNull();
  });

  it('settle the missing images that lie under the same prefix, case aside, and no other', () => {
    const rule = { from: 'quay/art', to: 'delivery' };
    const index = buildFileIndex(['delivery/maps/Deck.PNG', 'delivery/hull/a.png', 'deck.png']);
    const missing = [
      { key: '1', written: 'D:\\Quay\\art\\maps\\deck.png' },
      { key: '2', written: '/quay/art/hull/a.png' },
      { key: '3', written: 'E:\\other\\maps\\deck.png' },
      { key: '4', written: 'D:\\quay\\art\\maps\\gone.png' },
    ];
    expect(applyRule(rule, missing, index)).toEqual([
      { image: '1', path: 'delivery/maps/Deck.PNG' },
      { image: '2', path: 'delivery/hull/a.png' },
    ]);
  });

  it('take the file of the same spelling before another', () => {
    const missing = [{ key: '1', written: 'D:/quay/deck.png' }];
    for (const order of [
      ['deck.png', 'Deck.png'],
      ['Deck.png', 'deck.png'],
    ])
      expect(applyRule({ from: 'quay', to: '' }, missing, buildFileIndex(order))).toEqual([
        { image: '1', path: 'deck.png' },
      ]);
  });

  it('hold for the top folder on either side, and for whole folders only', () => {
    const index = buildFileIndex(['delivery/maps/a.png', 'maps/a.png', 'quay/b.png']);
    expect(
      applyRule({ from: '', to: 'delivery' }, [{ key: '1', written: 'D:\\maps\\a.png' }], index),
    ).toEqual([{ image: '1', path: 'delivery/maps/a.png' }]);
    expect(applyRule({ from: 'art', to: '' }, [{ key: '1', written: '/art/maps/a.png' }], index)).toEqual([
      { image: '1', path: 'maps/a.png' },
    ]);
    expect(applyRule({ from: 'art', to: '' }, [{ key: '1', written: '/artwork/maps/a.png' }], index)).toEqual(
      [],
    );
    expect(applyRule({ from: '', to: '' }, [{ key: '1', written: '/artwork/maps/a.png' }], index)).toEqual(
      [],
    );
  });

  it('read as a sentence', () => {
    expect(ruleInWords({ from: '', to: '' })).toBe('the written folders lie in the top folder');
    expect(ruleInWords({ from: 'quay/art', to: 'delivery' })).toBe('quay/art lies in delivery');
  });
});
