import { describe, expect, it } from 'vitest';
import type { QuestionGroup } from '@/server/services/questions';
import { overAssets, settles } from './questionGroups.ts';

const group = (kind: string, ...assets: string[]) =>
  ({ kind, members: assets.map((asset) => ({ asset })) }) as unknown as QuestionGroup;

describe('questions over some assets', () => {
  it('keep what asks there, the biggest first', () => {
    const groups = [group('a', '1', '2', '3'), group('b', '4'), group('c', '1', '4', '4')];
    const counts = (list: QuestionGroup[]) => list.map(({ kind, members }) => [kind, members.length]);
    expect(counts(overAssets(groups, null))).toEqual([
      ['a', 3],
      ['b', 1],
      ['c', 3],
    ]);
    expect(counts(overAssets(groups, new Set(['1', '4'])))).toEqual([
      ['c', 3],
      ['a', 1],
      ['b', 1],
    ]);
    expect(overAssets(groups, new Set(['9']))).toEqual([]);
  });

  it.each([
    [group('a', '1'), 'settles 1 asset'],
    [group('a', '1', '2'), 'settles 2 assets'],
    [group('a', '1', '1', '2'), 'settles 3 in 2 assets'],
  ])('tell what an answer does', (one, words) => expect(settles(one)).toBe(words));
});
