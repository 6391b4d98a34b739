import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { callIn } from './test/call.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-rules-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const text = (content: string) => new TextEncoder().encode(content);
const FACE = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf -3 -2 -1\n';

/** Rules of an exported asset whose log drops one of two bolts. */
async function rulesOf(model: string) {
  const edit = {
    kind: 'editParts',
    change: { do: 'drop', parts: ['bolt_1'] },
    origin: { from: 'hand', detail: '' },
  };
  const log = {
    model: 'pier/pier.obj',
    cursor: 1,
    files: [{ path: 'pier/pier.obj', sha256: 'ab12' }],
    edits: [
      { edit, act: 1 },
      { edit: { ...edit, change: { do: 'drop', parts: ['undone'] } }, act: 2 },
    ],
  };
  const zip = zipSync({ 'asset.json': text(JSON.stringify(log)), 'files/ab12': text(model) });
  await writeFile(join(folder, 'pier.asset.zip'), zip);
  const { out, err } = await callIn(folder, ['rules', 'from', 'pier.asset.zip']);
  return { err, when: JSON.parse(out).rules.map((rule: { when: unknown }) => rule.when) };
}

it('rules from an exported asset reach no more of it than its edits did', async () => {
  expect(await rulesOf(`o bolt_1\n${FACE}o bolt_2\n${FACE}`)).toEqual({
    err: '',
    when: [{ part: 'bolt_1' }],
  });
  expect((await rulesOf(`o bolt_1\n${FACE}o post_2\n${FACE}`)).when).toEqual([{ part: 'bolt_*' }]);
});

it('rules from an exported asset whose model cannot be read say so', async () => {
  const { err, when } = await rulesOf('f 1 2 3\n');
  expect(err).toMatch(/pier\/pier\.obj cannot be read .*; all numbers in names are left open/);
  expect(when).toEqual([{ part: 'bolt_*' }]);
});
