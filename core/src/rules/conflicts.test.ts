// biome-ignore-all lint/suspicious/noThenProperty: the rulebook's own word

import { expect, it } from 'vitest';
import { bare, look } from '../test/sets.ts';
import { applyRules } from './applyRules.ts';
import { conflictsIn } from './conflicts.ts';
import { parseRulebook } from './parseRulebook.ts';

const book = (...rules: object[]) => parseRulebook({ rulebook: 1, title: 'House', rules });

async function conflicts(...rules: object[]) {
  const { source, files } = look({ materials: bare('Hull', 'Deck'), paths: ['hull_color.png'] });
  const known = { source, images: files, read: () => Promise.reject(new Error('no file is read')) };
  const { outcomes } = await applyRules(known, [book(...rules)], { parcel: 'Hulls' });
  return conflictsIn(outcomes);
}

const set = (name: string, material: string, value: number) => ({
  name,
  when: { material },
  then: [{ do: 'set', channel: 'roughness', value }],
});

it('rules that say otherwise of the same are told, with what they speak of', async () => {
  expect(await conflicts(set('all dull', '*', 0.9), set('wet deck', 'Deck', 0.2))).toEqual([
    { rule: 'wet deck', over: 'all dull', about: 'value of Deck, roughness' },
  ]);
});

it('rules that agree, speak of other things, or are one rule, are not', async () => {
  expect(await conflicts(set('all dull', '*', 0.9), set('deck', 'Deck', 0.9))).toEqual([]);
  expect(await conflicts(set('hull', 'Hull', 0.9), set('deck', 'Deck', 0.2))).toEqual([]);
  expect(
    await conflicts({
      name: 'twice',
      when: { material: 'Hull' },
      then: [
        { do: 'set', channel: 'roughness', value: 0.1 },
        { do: 'set', channel: 'roughness', value: 0.2 },
      ],
    }),
  ).toEqual([]);
});

it.each([
  [{ do: 'alpha', mode: 'mask' }, { do: 'alpha', mode: 'blend' }, 'alphaMode of Hull'],
  [{ do: 'renameMaterial', to: 'A' }, { do: 'renameMaterial', to: 'B' }, 'name of Hull'],
  [{ do: 'numberMaterial', number: 1 }, { do: 'numberMaterial', number: 2 }, 'number of Hull'],
])('%o against %o', async (first, second, about) => {
  const rules = [first, second].map((action, i) => ({
    name: `rule ${i}`,
    when: { material: 'Hull' },
    then: [action],
  }));
  expect(await conflicts(...rules)).toEqual([{ rule: 'rule 1', over: 'rule 0', about }]);
});

it('rules of one name in two rulebooks are two rules', async () => {
  const { source, files } = look({ materials: bare('Hull'), paths: ['hull_color.png'] });
  const known = { source, images: files, read: () => Promise.reject(new Error('no file is read')) };
  const books = [0.9, 0.2].map((value, i) =>
    parseRulebook({ rulebook: 1, title: `House ${i}`, rules: [set('gloss', 'Hull', value)] }),
  );
  const { outcomes } = await applyRules(known, books, { parcel: 'Hulls' });
  expect(conflictsIn(outcomes)).toEqual([
    { rule: 'gloss', over: 'gloss', about: 'value of Hull, roughness' },
  ]);
});

it('an image that one rule takes off a slot and another puts there is a conflict', () => {
  const outcome = (rule: string, edit: object) =>
    ({ rulebook: 'House', rule, edits: [edit], settled: [] }) as unknown as Parameters<
      typeof conflictsIn
    >[0][0];
  const address = { material: 'Hull', channel: 'normal' };
  const puts = {
    kind: 'assignSlots',
    assignments: [{ ...address, image: 'a.png', component: 'rgb', invert: false }],
  };
  const takes = { kind: 'assignSlots', assignments: [], clears: [address] };
  expect(conflictsIn([outcome('puts', puts), outcome('takes', takes)])).toEqual([
    { rule: 'takes', over: 'puts', about: 'image of Hull, normal' },
  ]);
  expect(conflictsIn([outcome('takes', takes), outcome('takes again', takes)])).toEqual([]);
});
