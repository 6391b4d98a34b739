import { describe, expect, it } from 'vitest';
import { differenceOf, isSame } from './differences.ts';
import type { Receipt } from './receipt.ts';

const receipt = (outputs: Record<string, string>, edits: string[] = [], losses: string[] = []) =>
  ({
    outputs: Object.entries(outputs).map(([path, sha256]) => ({ path, bytes: 1, sha256 })),
    edits: edits.map((text) => ({ text, from: 'user', detail: '' })),
    losses,
  }) as unknown as Receipt;

describe('two handoffs', () => {
  it('differ by the content of files, by edits and by losses', () => {
    const before = receipt(
      { 'a.fbx': '1', 'b.png': '2', 'c.png': '3' },
      ['link sail', 'set space'],
      ['no coat', 'one set of UVs'],
    );
    const after = receipt(
      { 'a.fbx': '1', 'b.png': '9', 'd.png': '3' },
      ['set space', 'link sail', 'link sail'],
      ['no sheen', 'one set of UVs'],
    );
    const difference = differenceOf(before, after);
    expect(difference).toEqual({
      changed: ['b.png'],
      added: ['d.png'],
      removed: ['c.png'],
      // Done twice now and once before: one of them is new.
      edits: ['link sail'],
      lossesGone: ['no coat'],
      lossesNew: ['no sheen'],
    });
    expect(isSame(difference)).toBe(false);
  });

  it('are the same where no file differs, whatever was done', () => {
    const files = { 'a.fbx': '1' };
    expect(isSame(differenceOf(receipt(files), receipt(files, ['link sail'])))).toBe(true);
    expect(isSame(differenceOf(receipt(files), receipt({})))).toBe(false);
    expect(isSame(differenceOf(receipt({}), receipt(files)))).toBe(false);
    expect(isSame(differenceOf(receipt(files), receipt({ 'a.fbx': '2' })))).toBe(false);
  });
});
