// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word

import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import type { Action } from '@kinkajou/core/rules/rulebook';
import { describe, expect, it } from 'vitest';
import {
  ACTION_WORDS,
  changesBetween,
  conflictPairs,
  fieldText,
  patternsOf,
  patternsText,
  thenInWords,
  whenInWords,
  withField,
} from './ruleWords.ts';

const field = (action: Action['do'], name: string) =>
  ACTION_WORDS[action].fields.find((one) => one.name === name) as never;

describe('a rule in words', () => {
  it('reads as a sentence', () => {
    expect(whenInWords({ material: '*_flags', finding: ['link.missing', 'link.ambiguous'] })).toBe(
      'Where the material is called *_flags and the finding is link.missing or link.ambiguous',
    );
    expect(whenInWords({})).toBe('For every asset');
    expect(
      thenInWords([
        { do: 'assign', channel: 'roughness', component: 'g', invert: true },
        { do: 'axes', up: 'Z', turn: [0, 90, 0] },
      ]),
    ).toBe('assign the image to roughness component g inverted, then stand it up up Z turned by 0 90 0');
    expect(thenInWords([{ do: 'mend' }])).toBe('mend it');
  });
});

describe('what is typed', () => {
  it('is one pattern, several, or a regular expression with its commas', () => {
    expect([patternsOf(' bolt* '), patternsOf('bolt*, nut*,'), patternsOf('/^a{1,3}$/')]).toEqual([
      'bolt*',
      ['bolt*', 'nut*'],
      '/^a{1,3}$/',
    ]);
    expect([patternsText(['a', 'b']), patternsText('c')]).toEqual(['a, b', 'c']);
  });

  it('becomes the value that the rulebook wants, and goes where it is left empty', () => {
    const set = withField(
      withField({ do: 'set' } as never, field('set', 'channel'), 'roughness'),
      field('set', 'value'),
      '0.4',
    );
    expect(set).toEqual({ do: 'set', channel: 'roughness', value: 0.4 });
    expect(withField(set, field('set', 'value'), '1 0.5 0')).toEqual({
      do: 'set',
      channel: 'roughness',
      value: [1, 0.5, 0],
    });
    expect(fieldText({ do: 'set', channel: 'baseColor', value: [1, 0.5, 0] }, field('set', 'value'))).toBe(
      '1 0.5 0',
    );
    expect(withField(set, field('set', 'value'), '')).toEqual({ do: 'set', channel: 'roughness' });
    expect(withField({ do: 'handOff', to: 'a' }, field('handOff', 'to'), 'web-gltf, modelling')).toEqual({
      do: 'handOff',
      to: ['web-gltf', 'modelling'],
    });
    expect(withField({ do: 'assign', channel: 'opacity' }, field('assign', 'invert'), 'true')).toEqual({
      do: 'assign',
      channel: 'opacity',
      invert: true,
    });
    expect(withField({ do: 'link', from: 'x', to: 'y' }, field('link', 'from'), '')).toEqual({
      do: 'link',
      from: '',
      to: 'y',
    });
  });

  it('has a field for whatever an action may say, by the rulebook’s own rules', () => {
    const filled: Record<string, string> = {
      space: 'lin_rec709_scene',
      channel: 'roughness',
      component: 'g',
      invert: 'true',
      normalY: 'Y+',
      value: '0.5',
      mode: 'mask',
      cutoff: '0.5',
      number: '3',
      at: 'centre',
      shape: 'hull',
      hulls: '4',
      error: '0.1',
      keep: '0.5',
      up: 'Y',
      unit: 'cm',
      turn: '90',
      scale: '2',
    };
    for (const [name, { fields }] of Object.entries(ACTION_WORDS)) {
      const action = fields.reduce((made, one) => withField(made, one, filled[one.name] ?? 'x'), {
        do: name,
      } as Action);
      expect(
        () => parseRulebook({ rulebook: 1, title: 't', rules: [{ name: 'r', when: {}, then: [action] }] }),
        name,
      ).not.toThrow();
    }
  });
});

describe('states of a rulebook', () => {
  const rule = (name: string, value = 0.5) => ({
    name,
    when: { material: '*' },
    then: [{ do: 'set' as const, channel: 'roughness' as const, value }],
  });
  const book = (title: string, ...rules: ReturnType<typeof rule>[]) => ({
    rulebook: 1 as const,
    title,
    rules,
  });

  it('tell what became of each rule', () => {
    expect(
      changesBetween(book('A', rule('dull'), rule('wet')), book('A', rule('dull', 0.9), rule('gold'))),
    ).toBe('new: gold; changed: dull; gone: wet');
    expect(changesBetween(book('A', rule('dull')), book('B', rule('dull')))).toBe('called B');
    expect(changesBetween(book('A', rule('dull'), rule('wet')), book('A', rule('wet'), rule('dull')))).toBe(
      'another order',
    );
  });
});

describe('rules that contradict each other', () => {
  it('are pairs, those in most assets first, each asset counted once', () => {
    const conflict = (rule: string, about: string) => ({ rule, over: 'all dull', about });
    const pairs = conflictPairs([
      {},
      { conflicts: [conflict('wet', 'value of A')] },
      { conflicts: [conflict('old', 'x'), conflict('old', 'y')] },
      { conflicts: [conflict('old', 'x')] },
    ]);
    expect(pairs).toEqual([
      { rule: 'old', over: 'all dull', about: 'x', assets: 2 },
      { rule: 'wet', over: 'all dull', about: 'value of A', assets: 1 },
    ]);
  });
});
