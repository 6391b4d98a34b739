import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { pauseBefore, supervise } from '../../scripts/lib/application.mjs';

it('a process that goes on ending is started after ever longer, up to ten seconds', () => {
  expect([1, 2, 3, 4, 5, 6, 7, 50].map(pauseBefore)).toEqual([
    500, 500, 1000, 2000, 4000, 8000, 10_000, 10_000,
  ]);
});

it('one that never came up is given up after five ends, and one that was well is not', async () => {
  const dataFolder = await mkdtemp(join(tmpdir(), 'kinkajou-supervise-'));
  const watch = async (wasWell: boolean) => {
    const again: boolean[] = [];
    const ends = new Promise<boolean[]>((resolve) => {
      const onEnd = (end: { again: boolean; reason: number }) => {
        expect(end.reason).toBe(3);
        again.push(end.again);
        if (again.length === 5) resolve(again);
      };
      const label = wasWell ? 'well' : 'never';
      void supervise({
        label,
        args: ['-e', 'process.exit(3)'],
        cwd: dataFolder,
        env: process.env,
        dataFolder,
        onEnd,
      }).then((state) => {
        state.wasWell = wasWell;
        void ends.then(() => state.stop());
      });
    });
    return ends;
  };
  const [never, well] = await Promise.all([watch(false), watch(true)]);
  expect(never).toEqual([true, true, true, true, false]);
  expect(well).toEqual([true, true, true, true, true]);
  await rm(dataFolder, { recursive: true, force: true });
});
