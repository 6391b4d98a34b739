import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';

const WEB = fileURLToPath(new URL('../..', import.meta.url));
// The server runs in its own folder, which is asked for when the pages are loaded.
vi.spyOn(process, 'cwd').mockReturnValue(WEB);
const { helpText, listHelp } = await import('./helpPages.ts');

beforeAll(() => void vi.spyOn(process, 'cwd').mockReturnValue(WEB));
afterAll(() => vi.restoreAllMocks());

describe('the help', () => {
  it('lists the guide in order and what it refers to, by their titles', async () => {
    const { guide, reference } = await listHelp();
    expect(guide).toHaveLength(21);
    expect(guide[0]).toEqual({ path: 'guide/01-partly-metal', title: 'Partly metal' });
    expect(reference.find(({ path }) => path === 'rules')?.title).toBe('Rulebooks and batch');
    for (const { path } of [...guide, ...reference]) expect(await helpText(path)).toBe(await readFile(join(WEB, '../docs', `${path}.md`), 'utf8'));
  });

  it.each(['../package', 'guide/../../package', 'guide/README', 'decisions/01', 'guide/99-nothing', 'testing'])('does not give out %s', async (path) => {
    await expect(helpText(path)).rejects.toMatchObject({ code: 'notFound' });
  });
});
