import type { AssetSource, AssetState } from '@kinkajou/core/asset/asset';
import { expect, test } from 'vitest';
import { hide, isDrawn, isHidden, NOTHING, usePartFocus } from './partFocus.ts';
import { viewParts } from './viewParts.ts';

const node = (name: string) => ({ name, parent: -1, mesh: -1, materials: [] });
const source = (...names: string[]) =>
  ({ nodes: names.map(node), shapes: [], upAxis: 'Y' }) as unknown as AssetSource;
const state = (parts: unknown[] = []) => ({ materials: [], parts }) as unknown as AssetState;

test('parts are worked out once for a state and a source, and anew for another of either', () => {
  const [quay, edited] = [
    source('Crate', 'Barrel'),
    state([{ do: 'rename', names: [{ part: 'Crate', name: 'Box' }] }]),
  ];
  const first = viewParts({ source: quay, state: state() });
  expect(first.map(({ name }) => name)).toEqual(['Crate', 'Barrel']);
  const renamed = viewParts({ source: quay, state: edited });
  expect(renamed.map(({ name }) => name)).toEqual(['Box', 'Barrel']);
  expect(viewParts({ source: quay, state: edited })).toBe(renamed);
  expect(viewParts({ source: source('Lamp'), state: edited }).map(({ name }) => name)).toEqual(['Lamp']);
});

test('what the file hides is not shown until someone shows it; anything else until someone hides it', () => {
  usePartFocus.getState().set(NOTHING);
  const parts = viewParts({
    source: {
      ...source(),
      nodes: [node('Deck'), { ...node('Proxy'), hidden: true }],
    } as unknown as AssetSource,
    state: state(),
  });
  const away = () => parts.filter((part) => isHidden(part, usePartFocus.getState())).map(({ name }) => name);
  expect(away()).toEqual(['Proxy']);
  hide(
    parts.map(({ key }) => key),
    false,
  );
  expect(away()).toEqual([]);
  hide([parts[1].key], true);
  hide([parts[0].key], true);
  expect(away()).toEqual(['Deck', 'Proxy']);
  usePartFocus.getState().set(NOTHING);
  expect(away()).toEqual(['Proxy']);
});

test('a view draws what is not dropped, alone what is chosen so, and a whole one what the file shows', () => {
  const part = (more: object) => ({ key: 'Deck', hidden: false, dropped: false, ...more });
  const drawn = (more: object, focus: object, whole = false) =>
    isDrawn(part(more), { ...NOTHING, ...focus }, whole);
  const [deck, other] = [new Set(['Deck']), new Set(['Mast'])];
  expect(drawn({}, {})).toBe(true);
  expect(drawn({ dropped: true }, { revealed: deck, alone: deck })).toBe(false);
  expect(drawn({ hidden: true }, {})).toBe(false);
  expect([drawn({ hidden: true }, { alone: deck }), drawn({}, { alone: other })]).toEqual([true, false]);
  expect([drawn({}, { hidden: deck }, true), drawn({ hidden: true }, { revealed: deck }, true)]).toEqual([
    true,
    false,
  ]);
});
