import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { scrambleTable } from '@kinkajou/demo/scramble/table';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Recovered, recover } from './recovery.ts';

/** Every so many parcels of the table one is tried; `npm run recovery` tries all. */
const SAMPLE = 24;

let folder: string;
const done: Recovered[] = [];

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-recovery-'));
  const table = scrambleTable();
  for (let i = 0; i < SAMPLE; i += 1)
    done.push(await recover(table[Math.floor(((i + 0.5) * table.length) / SAMPLE)], folder));
});

afterAll(() => rm(folder, { recursive: true, force: true }));

describe('a sample of scrambled parcels', () => {
  it('comes right in 97 of 100 channels, by the pixels of the written package', () => {
    const channels = done
      .filter(({ of }) => !of.asks)
      .flatMap(({ id, measured }) => measured.map((one) => ({ ...one, id })));
    const wrong = channels.filter(({ outcome }) => outcome !== 'right');
    expect(channels.length).toBeGreaterThan(180);
    expect(wrong.length / channels.length, JSON.stringify(wrong.slice(0, 10))).toBeLessThanOrEqual(0.03);
  });

  it('fills nothing wrongly without a word, and leaves nothing empty without one', () => {
    const silent = done
      .filter(({ of }) => !of.asks)
      .flatMap(({ id, measured }) =>
        measured
          .filter(({ outcome, told }) => outcome !== 'right' && !told)
          .map(({ channel }) => `${id} ${channel}`),
      );
    expect(silent).toEqual([]);
  });

  it('asks at most one needless question in two parcels, and every one that is needed', () => {
    const plain = done.filter(({ of }) => !of.asks);
    const needless = plain.flatMap(({ questions }) => questions).length;
    expect(needless).toBeLessThanOrEqual(plain.length / 2);
    for (const { id, exit, questions, measured } of done.filter(({ of }) => of.asks)) {
      expect([id, exit]).toEqual([id, 1]);
      expect(questions.length, id).toBeGreaterThan(0);
      expect(
        measured.filter(({ outcome }) => outcome !== 'missing'),
        id,
      ).toEqual([]);
    }
  });

  it('is clean, or open only with what needs somebody', () => {
    for (const { id, exit, questions } of done)
      expect([id, exit === 0]).toEqual([id, questions.length === 0]);
  });
});
