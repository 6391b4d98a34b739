import type { Part } from '@kinkajou/core/asset/parts';
import type { Finding } from '@kinkajou/core/findings/finding';
import { describe, expect, it } from 'vitest';
import { keysBetween, marksOf, renamed, treeRows } from './partTree.ts';

const part = (key: string, parent: string | null = null, name = key) => ({ key, name, parent }) as Part;
const parts = [
  part('Pier'),
  part('Post', 'Pier'),
  part('Bolt', 'Post'),
  part('Bolt (2)', 'Post', 'Bolt'),
  part('Sign'),
  part('Cap', 'Pier'),
  part('Lost', 'Gone'),
];
const rows = (options: { search?: string; folded?: string[] } = {}) =>
  treeRows(parts, { search: options.search, folded: new Set(options.folded) }).map(
    ({ part: one, depth, children }) => `${depth} ${one.key} ${children}`,
  );

describe('the tree of parts', () => {
  it('has each part below what it hangs on, whatever their order', () => {
    expect(rows()).toEqual([
      '0 Pier 2',
      '1 Post 2',
      '2 Bolt 0',
      '2 Bolt (2) 0',
      '1 Cap 0',
      '0 Sign 0',
      '0 Lost 0',
    ]);
  });

  it('leaves out what hangs on a folded part', () => {
    expect(rows({ folded: ['Post'] })).toEqual(['0 Pier 2', '1 Post 2', '1 Cap 0', '0 Sign 0', '0 Lost 0']);
  });

  it('lists what a pattern fits, or a word anywhere; one that is not finished fits nothing', () => {
    expect(rows({ search: 'b*' })).toEqual(['0 Bolt 0', '0 Bolt (2) 0']);
    expect(rows({ search: 'os' })).toEqual(['0 Post 2', '0 Lost 0']);
    expect(rows({ search: '/^[PS]/' })).toEqual(['0 Pier 2', '0 Post 2', '0 Sign 0']);
    expect(rows({ search: '[z-' })).toEqual([]);
    expect(rows({ search: '/(/' })).toEqual([]);
  });

  it('goes as deep as a model does', () => {
    const deep = Array.from({ length: 20_000 }, (_, i) => part(`n${i}`, i === 0 ? null : `n${i - 1}`));
    expect(treeRows(deep, { folded: new Set() }).at(-1)).toMatchObject({ depth: 19_999 });
  });

  it('is selected from one row to another, either way', () => {
    const listed = treeRows(parts, { folded: new Set() });
    expect(keysBetween(listed, 'Cap', 'Bolt')).toEqual(['Bolt', 'Bolt (2)', 'Cap']);
    expect(keysBetween(listed, 'Bolt', 'Cap')).toEqual(['Bolt', 'Bolt (2)', 'Cap']);
  });

  it('bears the worst mark of what was found', () => {
    const finding = (severity: string, key: string, step = 'parts') =>
      ({ step, severity, target: { part: key }, message: severity }) as unknown as Finding;
    const marks = marksOf([
      finding('note', 'Post'),
      finding('error', 'Post'),
      finding('warning', 'Post'),
      finding('note', 'Cap'),
      finding('error', 'Sign', 'slots'),
    ]);
    expect([...marks].map(([key, { mark, texts }]) => [key, mark, texts.length])).toEqual([
      ['Post', 'broken', 3],
      ['Cap', 'empty', 1],
    ]);
  });
});

describe('renaming by pattern', () => {
  it('takes what the stars matched, and leaves what keeps its name or would have none', () => {
    const bolts = [part('bolt_01'), part('bolt_02_old'), part('nut_1')];
    expect(renamed(bolts, 'bolt_*', 'screw-$1')).toEqual([
      { part: 'bolt_01', name: 'screw-01' },
      { part: 'bolt_02_old', name: 'screw-02_old' },
    ]);
    expect(renamed(bolts, '*_*', '$2_$1')).toContainEqual({ part: 'nut_1', name: '1_nut' });
    expect(renamed(bolts, '*', '$1')).toEqual([]);
    expect(renamed(bolts, '*', '$2')).toEqual([]);
  });
});
