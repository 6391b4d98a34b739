import { describe, expect, it } from 'vitest';
import { distinctLosses, isUnsaid, LOSS_CODES, lossesInWords, lossInWords } from './loss.ts';

describe('losses in words', () => {
  it('have a sentence for every code, without holes', () => {
    for (const code of LOSS_CODES) {
      const words = lossInWords({
        code,
        material: 'Brass',
        channel: 'coat',
        part: 'Lid',
        count: 3,
        detail: 'glTF',
      });
      // What a whole format has no word for is told once, not of each material.
      expect(words, code).toMatch(code.startsWith('format.') ? /^glTF \S/ : /^Brass: \S/);
      expect(words, code).not.toMatch(/undefined|null|NaN|\s\s/);
    }
    expect(LOSS_CODES.length).toBeGreaterThan(30);
  });

  it('name what they are about', () => {
    expect(
      lossInWords({ code: 'map.noPlace', material: 'Brass', channel: 'coat', detail: 'Garment figure' }),
    ).toBe('Brass: the map of coat has no place in Garment figure');
    expect(lossInWords({ code: 'tile.across', count: 1 })).toBe(
      '1 face reaches over the border of a tile, where its image repeats',
    );
    expect(lossInWords({ code: 'tile.across', count: 2 })).toBe(
      '2 faces reach over the border of a tile, where their image repeats',
    );
    expect(lossInWords({ code: 'shape.clips', part: 'Sail', count: 4 })).toBe(
      'Sail: the clips of its shapes cannot drive 4 pieces',
    );
  });

  it('are told once each', () => {
    const loss = { code: 'obj.skins' } as const;
    expect(distinctLosses([loss, { ...loss }, { code: 'obj.motion' }])).toEqual([
      { code: 'obj.skins' },
      { code: 'obj.motion' },
    ]);
    expect(lossesInWords([loss, loss])).toEqual(['OBJ has no skins']);
  });

  it('of words alone are told apart from those of looks', () => {
    expect(LOSS_CODES.filter((code) => isUnsaid({ code }))).toEqual([
      'format.space',
      'format.direction',
      'format.alpha',
      'format.filter',
      'format.sides',
      'format.height',
      'format.unit',
      'fbx.inverted',
      'fbx.component',
      'usd.space',
    ]);
  });
});
