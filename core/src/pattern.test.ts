import { describe, expect, it } from 'vitest';
import { createMatcher } from './pattern.ts';

describe('a pattern', () => {
  it.each<[string, string, string[] | null]>([
    ['bolt*', 'Bolt_01', ['_01']],
    ['*_flags', 'signal_FLAGS', ['signal']],
    ['*', '', ['']],
    ['*', 'a/b', ['a/b']],
    ['bolt', 'bolts', null],
    ['bolt?', 'bolt7', []],
    ['lamp (2)', 'Lamp (2)', []],
    ['*.*', 'hull.001', ['hull', '001']],
    ['*_*', 'a_b_c', ['a', 'b_c']],
    ['bolt[0-9]', 'bolt7', []],
    ['bolt[!0-9]', 'bolt7', null],
    ['{a*,b}_{x,y}', 'abc_y', ['bc']],
    ['a\\*', 'a*', []],
    ['a{b', 'a{b', []],
    ['[x', '[x', []],
    ['größe*', 'GRÖSSE', null],
    ['größe*', 'GRÖßE', ['']],
    ['{post,cap}_*', 'cap_2', ['2']],
    ['[ab]x', 'bx', []],
    ['!bolt', 'bolt', null],
    ['!bolt', '!bolt', []],
    ['.hidden*', '.hidden_1', ['_1']],
    ['/^bolt_(\\d+)$/', 'bolt_12', ['12']],
    ['/^bolt_(\\d+)$/', 'Bolt_12', null],
    ['/^bolt_(\\d+)$/i', 'Bolt_12', ['12']],
    ['/bolt(x)?/', 'a bolt', ['']],
  ])('%s meets %s', (pattern, name, expected) => {
    expect(createMatcher(pattern)(name)).toEqual(expected);
  });

  it('says what is wrong with one that is none', () => {
    expect(() => createMatcher('/(/')).toThrow(/"\/\(\/" is no pattern: .*[Uu]nterminated group/);
    expect(() => createMatcher('')).toThrow(/it has 0 letters/);
    expect(() => createMatcher('[z-a]')).toThrow(/is no pattern: .*out of order/);
  });
});
