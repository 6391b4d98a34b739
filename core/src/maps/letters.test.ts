import { describe, expect, it } from 'vitest';
import { classifyNames } from './classifyName.ts';

/** What the first of the letters means beside the others, likeliest first. */
function first(...letters: string[]): { channel: string; confidence: number; evidence: readonly string[] } {
  const [found] = classifyNames(letters.map((letter) => `hull_${letter}.png`));
  return {
    channel: found.readings[0]?.channel ?? 'none',
    confidence: found.confidence,
    evidence: found.evidence,
  };
}

describe('single letters at the end of names', () => {
  it.each<[string[], string, number]>([
    // Colour beside `d` leaves height; `d` beside `s` is a classic pair.
    [['d', 'c'], 'height', 0.8],
    [['d', 'b'], 'height', 0.8],
    [['d', 's'], 'baseColor', 0.8],
    [['d', 'n'], 'baseColor', 0.8],
    [['b', 'c'], 'bump', 0.8],
    [['b', 'd'], 'bump', 0.8],
    [['b', 'a'], 'bump', 0.8],
    [['b', 'd', 'n'], 'baseColor', 0.5],
    [['b', 'r'], 'baseColor', 0.8],
    [['b', 'm'], 'baseColor', 0.8],
    [['b', 'n'], 'baseColor', 0.8],
    [['a', 'c'], 'occlusion', 0.5],
    [['a', 'd'], 'occlusion', 0.5],
    [['a', 'b'], 'occlusion', 0.5],
    [['a', 'o'], 'baseColor', 0.8],
    [['a', 'r'], 'baseColor', 0.5],
    [['a', 'n'], 'baseColor', 0.5],
    // Roughness or gloss beside `m` makes metalness of it, and specular of `s`.
    [['m', 'r'], 'metalness', 0.8],
    [['m', 'g'], 'metalness', 0.8],
    [['s', 'd'], 'specularColor', 0.8],
    [['s', 'r'], 'specularColor', 0.8],
    [['s', 'g'], 'specularColor', 0.8],
    [['s', 'm'], 'specularColor', 0.5],
  ])('%j begin with %s', (letters, channel, confidence) => {
    expect(first(...letters)).toMatchObject({ channel, confidence });
  });

  it('are settled by words beside them as by letters', () => {
    expect(first('d', 'color').channel).toBe('height');
    expect(first('b', 'color').channel).toBe('bump');
    expect(first('a', 'color')).toMatchObject({ channel: 'occlusion', confidence: 0.5 });
    expect(first('m', 'roughness').channel).toBe('metalness');
    expect(first('m', 'glossiness').channel).toBe('metalness');
    expect(first('s', 'metalness').channel).toBe('specularColor');
  });

  it('say what they may mean and what settled them', () => {
    expect(first('d', 'c').evidence).toEqual([
      'single letters name the channel here (c, d)',
      '"d" means height',
    ]);
    expect(first('b', 'n', 'd').evidence).toEqual([
      'single letters name the channel here (b, d, n)',
      '"b" may mean base colour or bump',
    ]);
  });

  it('tell nothing alone, in the middle of a name, or where no channel begins so', () => {
    expect(first('d')).toMatchObject({
      confidence: 0,
      evidence: ['"d" alone may mean base colour or height; no sibling settles it'],
    });
    const [middle, none] = classifyNames(['hull_n_01.png', 'hull_z.png', 'hull_d.png', 'hull_c.png']);
    expect([middle.readings, none.readings]).toEqual([[], []]);
    expect(middle.evidence).toEqual(['the name holds no word for a channel']);
    expect(none.evidence).toEqual(['"z" stands where its siblings name the channel']);
    expect(middle.set).toBe('hull n 01');
    expect(none.set).toBe('hull');
  });
});
