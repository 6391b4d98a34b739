import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import type { Conditions, Rulebook } from '@kinkajou/core/rules/rulebook';
import { eq } from 'drizzle-orm';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { edits, jobs } from '../db/schema.ts';
import type { RunData } from '../jobs/kinds.ts';
import { enqueue } from '../jobs/queue.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { quay } from '../test/quay.ts';
import { benchView } from './benchView.ts';
import { addEdits } from './edits.ts';
import { listHandoffs } from './handoffs.ts';
import { keepOnShelf } from './materials.ts';
import {
  learnRules,
  listRulebooks,
  removeRulebook,
  rulebookPast,
  saveRulebook,
  setOnArrival,
} from './rulebooks.ts';
import {
  applyRulebook,
  findRun,
  listRuns,
  type RunRequest,
  type RunResult,
  repeatRun,
  requestRun,
  undoRun,
} from './runs.ts';
import { allAssetIds } from './shelf.ts';
import { requestTrialPictures, type TrialPicture } from './trialPictures.ts';

closeAfterwards();

const origin = { from: 'hand', detail: '' } as const;

/** A rulebook of one rule. */
function book(title: string, when: Conditions, action: object, reason = ''): { rules: object[] } {
  return { rulebook: 1, title, rules: [{ name: `${title} rule`, reason, when, ...then([action]) }] } as {
    rules: object[];
  };
}

function then(actions: object[]): object {
  // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
  return { then: actions };
}
const BRONZE = { do: 'renameMaterial', to: 'Bronze_$1' };
const NAMES = book('Quay names', { material: 'bra*' }, BRONZE, 'as the yard calls it');

/** Runs a rulebook to its end. */
async function run(
  book: unknown,
  assets: string[] | null,
  apply: boolean,
): Promise<{ job: string; result: RunResult }> {
  const job = await requestRun({ book, assets, apply });
  await work();
  const [row] = await db().select().from(jobs).where(eq(jobs.id, job));
  return { job, result: row.result as RunResult };
}

async function namesOf(id: string): Promise<string[]> {
  return (await benchView(id)).state.materials.map(({ name }) => name).sort();
}

describe('a rulebook', () => {
  it('is made of some edits of a log, whose names become patterns', async () => {
    const { quay: id } = (await send('Learn', await quay())).assets;
    await addEdits(id, [{ kind: 'renameMaterials', names: [{ material: 'Brass', name: 'Bronze' }], origin }]);
    await addEdits(id, [
      { kind: 'setValues', slots: [{ material: 'Stone', channel: 'metalness' }], value: 1, origin },
    ]);
    const { id: learnt, without } = await learnRules(id, [2]);
    const { book } = (await listRulebooks()).find((entry) => entry.id === learnt) as { book: Rulebook };
    expect([book.title, without, book.rules.map(({ when, then: actions }) => [when, actions])]).toEqual([
      'From quay',
      [],
      [[{ material: 'Stone' }, [{ do: 'set', channel: 'metalness', value: 1 }]]],
    ]);
    await expect(learnRules(id, [99])).rejects.toMatchObject({ code: 'rules.none' });
    await removeRulebook(learnt);
  });

  it('is kept, changed, listed by title and removed; one that is wrong is refused by rule and field', async () => {
    const { id } = await saveRulebook(NAMES, null);
    await saveRulebook({ ...NAMES, title: 'A first' }, null);
    expect((await listRulebooks()).map(({ book }) => book.title)).toEqual(['A first', 'Quay names']);
    const { rulebooks } = await saveRulebook({ ...NAMES, title: 'Ahead' }, id);
    expect(rulebooks.map(({ book }) => book.title)).toEqual(['A first', 'Ahead']);
    const wrong = book('Wrong', {}, { do: 'tag', space: 'pretty' });
    await expect(saveRulebook(wrong, null)).rejects.toMatchObject({
      code: 'rulebook.invalid',
      message: expect.stringMatching(/space.*Wrong rule/s),
    });
    expect((await removeRulebook(id)).map(({ book }) => book.title)).toEqual(['A first']);
    await expect(removeRulebook(id)).rejects.toMatchObject({ code: 'notFound' });
  });
});

describe('a run', () => {
  it('tells first and changes nothing; applied it changes each asset once, and is undone as a whole but for what moved on', async () => {
    const [one, two, three] = [
      await send('One', await quay()),
      await send('Two', await quay()),
      await send('Three', await quay()),
    ].map(({ assets }) => assets.quay);
    const tried = await run(NAMES, [one, two], false);
    expect(tried.result.outcomes.map(({ id, edits }) => [id, edits])).toEqual(
      [one, two].map((id) => [
        id,
        [{ text: 'Renamed the material Brass to Bronze_ss', rule: 'Quay names rule' }],
      ]),
    );
    expect(await namesOf(one)).toEqual(['Brass', 'Stone']);
    expect(await listRuns()).toEqual([]);

    const applied = await run(NAMES, null, true);
    expect(applied.result.outcomes.filter((outcome) => outcome.edits.length > 0)).toHaveLength(3);
    for (const id of [one, two, three]) expect(await namesOf(id)).toEqual(['Bronze_ss', 'Stone']);
    const [{ edit }] = await db().select().from(edits).where(eq(edits.assetId, one));
    const made = edit.origin;
    expect(made).toMatchObject({
      from: 'rule',
      detail: 'as the yard calls it',
      rule: { rulebook: 'Quay names', rule: 'Quay names rule' },
    });
    // Begun anew after its worker ended, it finds what it did, and does nothing twice.
    await db()
      .update(jobs)
      .set({ state: 'queued', finishedAt: null, worker: null })
      .where(eq(jobs.id, applied.job));
    await work();
    const [again] = await db().select().from(jobs).where(eq(jobs.id, applied.job));
    const byId = ({ outcomes }: RunResult) => [...outcomes].sort((a, b) => (a.id < b.id ? -1 : 1));
    expect(byId(again.result as RunResult)).toEqual(byId(applied.result));
    expect(await db().select().from(edits).where(eq(edits.assetId, one))).toHaveLength(1);
    // Another time there is nothing to do.
    expect((await run(NAMES, [one], true)).result.outcomes[0].edits).toEqual([]);

    await addEdits(two, [
      { kind: 'setValues', slots: [{ material: 'Brass', channel: 'roughness' }], value: 0.6, origin },
    ]);
    expect((await undoRun(applied.job)).undone).toEqual({ assets: 2, kept: ['quay'] });
    expect([await namesOf(one), await namesOf(two), await namesOf(three)]).toEqual([
      ['Brass', 'Stone'],
      ['Bronze_ss', 'Stone'],
      ['Brass', 'Stone'],
    ]);
    await expect(undoRun(applied.job)).rejects.toMatchObject({ code: 'run.undone' });
    expect(
      (await listRuns()).map(({ title, state, undone }) => [title, state, undone?.assets ?? null]),
    ).toEqual([
      ['Quay names', 'done', null],
      ['Quay names', 'done', 2],
    ]);
  });

  it('asks before it undoes what a person did, and tells what is left', async () => {
    const { quay: id } = (await send('Hand', await quay({ missing: true }))).assets;
    await addEdits(id, [{ kind: 'renameMaterials', names: [{ material: 'Brass', name: 'Brazen' }], origin }]);
    const { result } = await run(book('Quay names', { material: 'Brazen' }, BRONZE), [id], true);
    expect(result.outcomes[0]).toMatchObject({
      edits: [],
      left: expect.arrayContaining([
        {
          code: 'rule.undoesHand',
          title: 'A person chose otherwise',
          subject: 'Quay names rule',
          rule: 'Quay names rule',
        },
      ]),
    });
    expect(result.outcomes[0].left.map(({ code }) => code)).toContain('link.missing');
    // Another parcel holds the image, under the very name that is written.
    const [found] = (await run(BUILT_IN_RULEBOOKS.paths, [id], false)).result.outcomes;
    expect([found.edits.map(({ rule }) => rule), found.left]).toEqual([['What surely is the file'], []]);
  });

  it('begun anew asks for no package twice, and takes an edit of a person’s that came between as it is', async () => {
    const { quay: id } = (await send('Again', await quay())).assets;
    const { rules } = book('Out', { material: 'bra*' }, BRONZE);
    const both = { ...NAMES, rules: [{ ...rules[0], ...then([BRONZE, { do: 'handOff', to: 'web-gltf' }]) }] };
    const { job } = await run(both, [id], true);
    await addEdits(id, [
      { kind: 'setValues', slots: [{ material: 'Stone', channel: 'metalness' }], value: 1, origin },
    ]);
    await db().update(jobs).set({ state: 'queued', finishedAt: null, worker: null }).where(eq(jobs.id, job));
    await work();
    expect((await listHandoffs(id)).map(({ destination }) => destination)).toEqual(['web-gltf']);
    const log = await db().select().from(edits).where(eq(edits.assetId, id));
    expect(log.map(({ edit }) => edit.kind)).toEqual(['renameMaterials', 'setValues']);
    const [again] = await db().select().from(jobs).where(eq(jobs.id, job));
    expect((again.result as RunResult).outcomes[0].edits.map(({ text }) => text)).toEqual([
      'Renamed the material Brass to Bronze_ss',
    ]);
  });

  it('passes over an asset that is there no more', async () => {
    const { quay: id } = (await send('Stays', await quay())).assets;
    const { result } = await run(NAMES, ['00000000-0000-4000-8000-00000000000c', id], false);
    expect(result.outcomes.map((outcome) => outcome.id)).toEqual([id]);
  });

  it('comes by itself where a rulebook is for whatever arrives, after the images were looked at, but not to assets with edits', async () => {
    const { id } = await saveRulebook(NAMES, null);
    expect((await setOnArrival(id, true)).find((entry) => entry.id === id)?.onArrival).toBe(true);
    const { quay: arrived } = (await send('Arrived', await quay())).assets;
    expect(await namesOf(arrived)).toEqual(['Bronze_ss', 'Stone']);
    expect((await listRuns())[0]).toMatchObject({ title: 'Quay names', state: 'done' });
    // Read once more, it has edits, and is left as it is.
    await setOnArrival(id, false);
    const worked = await send('Worked on', await quay());
    await addEdits(worked.assets.quay, [
      { kind: 'setValues', slots: [{ material: 'Stone', channel: 'metalness' }], value: 1, origin },
    ]);
    await setOnArrival(id, true);
    await enqueue('read-parcel', { parcelId: worked.parcel });
    await work();
    expect(await namesOf(worked.assets.quay)).toEqual(['Brass', 'Stone']);
    await setOnArrival(id, false);
    expect(await namesOf((await send('Later', await quay())).assets.quay)).toEqual(['Brass', 'Stone']);
  });

  it('puts a material of the shelf in the place of others, and one asset that fails does not take the others along', async () => {
    const { quay: from } = (await send('From', await quay({ tint: '0.5 0.5 0.5' }))).assets;
    await keepOnShelf(from, 'Stone', 'House stone');
    const { quay: to } = (await send('To', await quay())).assets;
    const replace = (name: string) =>
      book('Stones', { material: 'stone' }, { do: 'replaceMaterial', with: name });
    expect((await run(replace('House stone'), [to], true)).result.outcomes[0].edits).toHaveLength(1);
    expect(
      (await benchView(to)).state.materials.find(({ key }) => key === 'Stone')?.channels.baseColor?.value,
    ).toEqual([0.5, 0.5, 0.5]);
    const nowhere = await run(
      { ...NAMES, rules: [{ ...NAMES.rules[0], ...then([BRONZE, { do: 'handOff', to: 'moon' }]) }] },
      [to],
      true,
    );
    expect([nowhere.result.outcomes[0].fault, await namesOf(to)]).toEqual([
      expect.stringContaining('no destination "moon"'),
      ['Brass', 'Stone'],
    ]);
    const { result } = await run(replace('Nobody knows'), [to], true);
    expect(result.outcomes[0].fault).toMatch(/no material "Nobody knows" on the shelf/);
  });
});

/** Does something to assets, to its end. */
async function done(asked: Omit<RunRequest, 'apply'>): Promise<string> {
  const job = await requestRun({ ...asked, apply: true });
  await work();
  return job;
}

describe('a run over what was selected', () => {
  it('mends what is safe and nothing else, and is undone as a whole', async () => {
    // A file of another case is surely the one; an image that is not there is nobody's.
    const files = {
      ...(await quay({ missing: true })),
      'quay.mtl':
        'newmtl Stone\nmap_Kd STONE_BASECOLOR.png\nmap_Pr unseen_anywhere.png\nnewmtl Brass\nKd 0.9 0.8 0.4\n',
    };
    const { quay: id } = (await send('Mend', files)).assets;
    const before = await benchView(id);
    const safe = before.findings.filter(({ safe: sure, mend }) => sure && mend);
    expect(safe.length).toBeGreaterThan(0);
    const job = await done({ title: 'Mended', mend: true, assets: [id] });
    const after = await benchView(id);
    expect(after.findings.filter(({ safe: sure, mend }) => sure && mend)).toEqual([]);
    expect(after.findings.some(({ code }) => code === 'link.missing')).toBe(true);
    expect(await findRun(job)).toMatchObject({
      title: 'Mended',
      state: 'done',
      counts: { reached: 1, changed: 1, failed: 0, asks: 0 },
    });
    expect((await undoRun(job)).undone).toEqual({ assets: 1, kept: [] });
    expect((await benchView(id)).findings.map(({ key }) => key)).toEqual(
      before.findings.map(({ key }) => key),
    );
  });

  it('makes packages for several destinations, and refuses one that is not there before anything begins', async () => {
    const { quay: id } = (await send('Pack', await quay())).assets;
    await done({ destinations: ['web-gltf', 'modelling'], assets: [id] });
    expect((await listHandoffs(id)).map(({ destination }) => destination).sort()).toEqual([
      'modelling',
      'web-gltf',
    ]);
    await expect(requestRun({ destinations: ['moon'], assets: [id], apply: true })).rejects.toMatchObject({
      code: 'handoff.destination',
    });
  });

  it('takes assets off the shelf by a filter, and brings them back', async () => {
    const parcel = `Gone ${Date.now()}`;
    const sent = [await send(`${parcel} a`, await quay()), await send(`${parcel} b`, await quay())].map(
      ({ assets }) => assets.quay,
    );
    const job = await done({ remove: true, assets: null, filter: { search: parcel } });
    const there = async () => (await allAssetIds()).filter((id) => sent.includes(id)).length;
    expect([await there(), (await findRun(job)).counts.changed]).toEqual([0, 2]);
    // Begun anew after its worker ended, it still knows what it removed.
    const [{ data }] = await db().select().from(jobs).where(eq(jobs.id, job));
    const again = await applyRulebook({
      id: job,
      data: data as RunData,
      attempt: 2,
      signal: new AbortController().signal,
      progress: () => undefined,
    });
    expect(again.outcomes.map(({ id, removed }) => [sent.includes(id), removed])).toEqual([
      [true, true],
      [true, true],
    ]);
    expect((await undoRun(job)).undone).toEqual({ assets: 2, kept: [] });
    expect(await there()).toBe(2);
  });

  it('that was stopped keeps what it did, goes on with the rest, and repeats what failed', async () => {
    const [a, b] = [
      (await send('Stop a', await quay())).assets.quay,
      (await send('Stop b', await quay())).assets.quay,
    ];
    const data = { books: [NAMES as never], assets: [a, b], apply: true };
    const job = await enqueue('apply-rules', data);
    const stop = new AbortController();
    let told = 0;
    const progress = () => {
      told += 1;
      if (told === 2) throw new Error('stopped');
    };
    await expect(applyRulebook({ id: job, data, attempt: 1, signal: stop.signal, progress })).rejects.toThrow(
      'stopped',
    );
    await db().update(jobs).set({ state: 'cancelled', finishedAt: new Date() }).where(eq(jobs.id, job));
    expect((await findRun(job)).outcomes.map(({ id }) => id)).toEqual([a]);
    const rest = await repeatRun(job);
    await work();
    expect((await findRun(rest)).outcomes.map(({ id }) => id)).toEqual([b]);
    expect([await namesOf(a), await namesOf(b)]).toEqual([
      ['Bronze_ss', 'Stone'],
      ['Bronze_ss', 'Stone'],
    ]);
    await expect(repeatRun(rest)).rejects.toMatchObject({ code: 'run.whole' });
    expect((await undoRun(job)).undone).toEqual({ assets: 1, kept: [] });
  });
});

describe('what a rulebook was', () => {
  it('is kept with each change, said again when taken, and tells where it was used', async () => {
    const names = { ...NAMES, title: 'Past names' };
    const { id } = await saveRulebook(names, null);
    expect(await rulebookPast(id)).toEqual({ states: [], parcels: [], folders: [] });
    const { assets, parcel } = await send('Ruled', await quay());
    await run(names, [assets.quay], true);
    const other = { ...names, title: 'Other names' };
    await saveRulebook(other, id);
    // Kept without a change, it is no other state.
    await saveRulebook(other, id);
    const past = await rulebookPast(id);
    expect(past.states.map((state) => state.book)).toEqual([names]);
    expect(past.parcels).toEqual([{ id: parcel, name: 'Ruled', assets: 1 }]);
    await saveRulebook(past.states[0].book, id);
    expect((await rulebookPast(id)).states.map((state) => state.book.title)).toEqual([
      'Other names',
      'Past names',
    ]);
    await removeRulebook(id);
    await expect(rulebookPast(id)).rejects.toMatchObject({ code: 'notFound' });
  });

  it('would do is drawn beside what is there; rules that contradict each other are told, and nothing is changed', async () => {
    const { assets } = await send('Drawn', await quay());
    const dark = book('Dark', { material: 'Brass' }, { do: 'set', channel: 'baseColor', value: [0, 0, 0] });
    const light = book('Light', { material: '*' }, { do: 'set', channel: 'baseColor', value: [1, 1, 1] });
    const both = { ...dark, rules: [...light.rules, ...dark.rules] };
    const { result } = await run(both, [assets.quay], false);
    expect(result.outcomes[0].conflicts).toEqual([
      { rule: 'Dark rule', over: 'Light rule', about: 'value of Brass, baseColor' },
    ]);
    const job = await requestTrialPictures(dark, [assets.quay]);
    await work();
    const [row] = await db().select().from(jobs).where(eq(jobs.id, job));
    const [{ asset, before, after }] = (row.result as { pictures: TrialPicture[] }).pictures;
    expect(asset).toBe(assets.quay);
    const brightness = async (hash: string | null) =>
      (await sharp(await blobs.get(hash as string)).stats()).channels
        .slice(0, 3)
        .reduce((sum, { mean }) => sum + mean, 0);
    expect(await brightness(after)).toBeLessThan(await brightness(before));
    expect((await benchView(assets.quay)).log).toEqual([]);
  });
});
