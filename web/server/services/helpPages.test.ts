import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';

const WEB = fileURLToPath(new URL('../..', import.meta.url));
// The server runs in its own folder, which is asked for when the pages are loaded.
vi.spyOn(process, 'cwd').mockReturnValue(WEB);
const { helpPicture, helpText, listHelp } = await import('./helpPages.ts');

beforeAll(() => void vi.spyOn(process, 'cwd').mockReturnValue(WEB));
afterAll(() => vi.restoreAllMocks());

describe('the help', () => {
  it('lists the guide in order and what it refers to, by their titles', async () => {
    const { guide, reference } = await listHelp();
    expect(guide).toHaveLength(21);
    expect(guide[0]).toEqual({ path: 'guide/01-partly-metal', title: 'Partly metal' });
    expect(reference.find(({ path }) => path === 'rules')?.title).toBe('Rulebooks and batch');
    for (const { path } of [...guide, ...reference])
      expect(await helpText(path)).toBe(await readFile(join(WEB, '../docs', `${path}.md`), 'utf8'));
  });

  it('shows a picture of each situation, at the size of the page that it was taken of', async () => {
    for (const { path } of (await listHelp()).guide) {
      const [, name] = /!\[[^\]]{10,}\]\(pictures\/(\d\d\.png)\)/.exec(await helpText(path)) ?? [];
      expect(`${path} ${name}`).toMatch(/^guide\/(\d\d)-\S+ \1\.png$/);
      const bytes = await helpPicture(name);
      const view = new DataView(bytes.buffer, bytes.byteOffset);
      // The size stands in the first chunk of a PNG.
      expect([view.getUint32(0), view.getUint32(16), view.getUint32(20)]).toEqual([0x89504e47, 1280, 800]);
    }
    for (const name of ['22.png', '../../package.json', '01.PNG', '..%2f01.png'])
      await expect(helpPicture(name)).rejects.toMatchObject({ code: 'notFound' });
  });

  it('names what there is in the page by the words that stand there', async () => {
    const words = await wordsOfInterface();
    const unknown: string[] = [];
    for (const { path } of (await listHelp()).guide) {
      const [, steps] = /## In the page\n([\s\S]*?)\n## /.exec(await helpText(path)) ?? [];
      for (const [, name] of (steps ?? '').replaceAll(/`[^`]*`/g, '').matchAll(/\*{1,2}([^*]+)\*{1,2}/g)) {
        const said = name.replace(/ \.\.\.$/, '').toLowerCase();
        if (!words.includes(said)) unknown.push(`${path}: ${name}`);
      }
    }
    expect(unknown).toEqual([]);
  });

  it.each([
    '../package',
    'guide/../../package',
    'guide/README',
    'decisions/01',
    'guide/99-nothing',
    'testing',
  ])('does not give out %s', async (path) => {
    await expect(helpText(path)).rejects.toMatchObject({ code: 'notFound' });
  });
});

/**
 * All texts of the page and of what the core tells it: labels, titles of findings, rules and destinations.
 */
async function wordsOfInterface(): Promise<string> {
  const texts: string[] = [];
  for (const folder of [
    'features',
    'ui',
    '../core/src/findings',
    '../core/src/rules',
    '../core/src/destinations',
    '../core/src/edits',
  ])
    for (const file of await readdir(join(WEB, folder), { recursive: true }))
      if (/\.tsx?$/.test(file) && !file.includes('.test.'))
        texts.push(await readFile(join(WEB, folder, file), 'utf8'));
  return texts.join('\n').toLowerCase();
}
