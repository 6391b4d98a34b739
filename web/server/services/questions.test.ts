import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { eq, inArray } from 'drizzle-orm';
import { describe, expect, it } from 'vitest';
import { db } from '../db/client.ts';
import { assets, jobs } from '../db/schema.ts';
import type { RunData } from '../jobs/kinds.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { benchView } from './benchView.ts';
import { answerQuestions, listQuestions } from './questions.ts';
import { removeAsset } from './removal.ts';
import { learnFromRun, listRulebooks } from './rulebooks.ts';
import { applyRulebook, findRun, undoRun } from './runs.ts';
import { tallyOldAssets } from './shelf.ts';

closeAfterwards();

/** A model whose roughness may be either of two images of the same name. */
async function doubtful(n: number) {
  const name = `pile_${n}_grain.png`;
  const files = await quay();
  return {
    'quay.obj': files['quay.obj'],
    'quay.mtl': `newmtl Stone\nKd 0.5 0.5 0.5\nmap_Kd ${name}\nnewmtl Brass\nKd 0.9 0.8 0.4\nPr 0.3\nPm 1\n`,
    [`dry/${name}`]: await plain(90 + n, 80, 70),
    [`wet/${name}`]: await plain(30 + n, 30, 30),
  };
}

describe('what is asked over the shelf', () => {
  it('is one question where only numbers differ, is answered for all at once, and taken back', async () => {
    const ids: string[] = [];
    for (const n of [3, 14, 15]) ids.push((await send(`Doubt ${n}`, await doubtful(n))).assets.quay);
    await work();
    const asked = async () =>
      (await listQuestions()).filter(({ members }) => members.some(({ asset }) => ids.includes(asset)));
    const [group, ...others] = await asked();
    expect([others, group.members.map(({ asset }) => asset).sort()]).toEqual([[], [...ids].sort()]);
    expect(group).toMatchObject({ code: 'link.ambiguous', title: 'Several images fit' });
    expect(group.choices.map(({ kind, pictures }) => [kind, pictures.length])).toEqual([
      ['dry/pile_#_grain.png', 1],
      ['wet/pile_#_grain.png', 1],
    ]);
    expect(new Set(group.choices.flatMap(({ pictures }) => pictures)).size).toBe(2);

    const answers = group.members.map(({ asset, finding, choices }) => ({
      asset,
      finding,
      choice: choices[1],
    }));
    const job = await answerQuestions('Wet it is', [
      ...answers,
      { asset: ids[0], finding: 'gone', choice: 'x' },
    ]);
    await work();
    expect(await findRun(job)).toMatchObject({
      title: 'Wet it is',
      counts: { reached: 3, changed: 3, failed: 0 },
    });
    // Begun anew after its worker ended, the run tells what it answered, though nothing is asked any more.
    const [{ data }] = await db().select().from(jobs).where(eq(jobs.id, job));
    const again = await applyRulebook({
      id: job,
      data: data as RunData,
      attempt: 2,
      signal: new AbortController().signal,
      progress: () => undefined,
    });
    expect(again.outcomes.map(({ edits, fault }) => [edits.length, fault])).toEqual(ids.map(() => [1, null]));
    for (const id of ids) {
      const { state } = await benchView(id);
      expect(state.images.map(({ resolved }) => resolved)).toEqual([
        expect.stringMatching(/^wet\/pile_\d+_grain\.png$/),
      ]);
    }
    expect(await asked()).toEqual([]);
    // What was answered for all of them becomes one rule.
    const { id: learnt, without } = await learnFromRun(job);
    const { book } = (await listRulebooks()).find((entry) => entry.id === learnt) as { book: Rulebook };
    expect([without, book.title, book.rules.map(({ when, then: actions }) => [when, actions])]).toEqual([
      [],
      'From Wet it is',
      [[{}, [{ do: 'link', from: '', to: 'wet' }]]],
    ]);
    await undoRun(job);
    expect((await asked())[0].members).toHaveLength(3);
    // Assets from before doubts were kept are tallied when a worker starts.
    await db().update(assets).set({ doubts: [], open: {}, found: {} }).where(inArray(assets.id, ids));
    expect(await asked()).toEqual([]);
    expect(await tallyOldAssets()).toBeGreaterThanOrEqual(3);
    expect([(await asked())[0].members.length, await tallyOldAssets()]).toEqual([3, 0]);
    // What is off the shelf asks nothing.
    for (const id of ids) await removeAsset(id);
    expect(await asked()).toEqual([]);
  });
});
