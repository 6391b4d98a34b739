import { collectFacts } from '@kinkajou/core/asset/collectFacts';
import { runChecks } from '@kinkajou/core/findings/checks';
import { createContext } from '@kinkajou/core/findings/context';
import { NOTHING_KNOWN } from '@kinkajou/core/findings/knowledge';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { applyRules, leftOf } from '@kinkajou/core/rules/applyRules';
import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import { describe, expect, it } from 'vitest';
import { FAMILIES, LIBRARY_RULEBOOKS, quayLibrary } from './library.ts';

describe('the library of the quay', () => {
  it('has 520 assets in six families', () => {
    expect(Object.values(FAMILIES).reduce((sum, count) => sum + count, 0)).toBe(520);
    expect(Object.keys(FAMILIES)).toHaveLength(6);
    for (const book of LIBRARY_RULEBOOKS)
      expect(parseRulebook(JSON.parse(JSON.stringify(book)))).toEqual(book);
  });

  it('is settled by the built-in rulebooks and two of its own, all but the true doubts', async () => {
    // Of each family the first, and some from the tenth on: a lost lamp is among them.
    const { files, truth } = await quayLibrary((_, number) => number === 0 || number % 38 === 9);
    expect(truth.length).toBeGreaterThan(20);
    expect(new Set(truth.flatMap(({ asks }) => asks))).toEqual(new Set(['link.ambiguous', 'link.missing']));
    const source = memorySource('library', files);
    const books = [...LIBRARY_RULEBOOKS, ...Object.values(BUILT_IN_RULEBOOKS)];
    for (const { model, rules, asks } of truth) {
      const asset = await openAsset(source, model);
      const knowledge = { ...NOTHING_KNOWN, ...(await collectFacts(asset.images, asset.read)) };
      const ruled = await applyRules(asset, books, {
        parcel: 'library',
        folderFor: (written) => written,
        knowledge,
      });
      const left = leftOf(
        runChecks(createContext(asset.source, ruled.state, asset.images, knowledge)),
        ruled.settled,
        ruled.asked,
      );
      expect({
        model,
        asks: left.map(({ code }) => code),
        rules: [...new Set(ruled.edits.map(({ origin }) => origin.rule?.rule))],
      }).toEqual({
        model,
        asks,
        rules,
      });
    }
  });
});
