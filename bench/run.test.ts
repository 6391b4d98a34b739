import { execFileSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { expect, it } from 'vitest';

it('the measure of speed runs to its end, over little here, and every number in it is one', () => {
  const script = fileURLToPath(new URL('run.ts', import.meta.url));
  const printed = execFileSync(process.execPath, ['--import', 'tsx', script, '--small'], {
    encoding: 'utf8',
  });
  expect(printed).not.toMatch(/NaN|Infinity|undefined/);
  expect(printed).toMatch(/classified as baseColor[\s\S]*classified as normal/);
  expect(printed).toMatch(/100 missing paths among 2,000 files: .*; (100|9\d|8\d) found a candidate/);
  expect(printed).toMatch(/4 materials and 40 images: .*; [1-9]\d* slots filled/);
  // A sheet in three formats beside two other readers, and usdc beside GLB.
  expect(printed.match(/; three \d+ ms, ratio \d/g)).toHaveLength(3);
  expect(printed.match(/^usdc (read|written): /gm)).toHaveLength(2);
  expect(printed).toMatch(/facts of shape of 2,\d{3} triangles/);
});
