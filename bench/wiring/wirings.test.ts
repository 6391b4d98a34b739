import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { silentOf, tryWiring } from './wirings.ts';

let folder = '';
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-wirings-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

it('nothing that is wired wrongly comes out wrong without a word', { timeout: 120_000 }, async () => {
  const [wired, faults]: [Awaited<ReturnType<typeof tryWiring>>[], string[]] = [[], []];
  for (const seed of SEEDS) {
    const one = await tryWiring(seed, folder);
    wired.push(one);
    faults.push(...one.faults);
    expect(silentOf(one), `${one.id}: ${one.faults.join('; ')}`).toEqual([]);
  }
  const measured = wired.flatMap((one) => one.measured);
  const right = measured.filter(({ outcome }) => outcome === 'right').length;
  // Most comes right by itself, and what does not is asked about.
  expect(right / measured.length).toBeGreaterThan(0.85);
  expect(right).toBeLessThan(measured.length);
  expect(faults.length).toBeGreaterThanOrEqual(SEEDS.length);
});

const SEEDS = [1, 2, 3, 4, 5, 6, 7, 8];
