import { mkdir, mkdtemp, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { builtFolder, stampOf, workOf } from './built.mjs';

describe('the build that threads and commands start from', () => {
  it('is made once for the sources as they are, with every thread and the command line in it', async () => {
    const [first, second] = await Promise.all([builtFolder(), builtFolder()]);
    expect(first).toMatch(/[0-9a-f]{20}$/);
    expect([second, await builtFolder()]).toEqual([first, first]);
    for (const name of ['main', 'thread', 'watchdog', 'bakeThread', 'batchThread'])
      expect((await stat(join(first as string, `${name}.js`))).size, name).toBeGreaterThan(0);
    expect(typeof (await import(join(first as string, 'main.js'))).run).toBe('function');
  });

  it('gives threads their work', async () => {
    const bake = await workOf('bakeThread');
    // A plan with nothing in it cannot be baked; that it is told as data shows who was asked.
    expect(
      await bake({ image: { copyOf: null, components: [], map: {} }, sources: new Map() }),
    ).toMatchObject({
      fault: { code: expect.any(String) },
    });
  });

  it('is another one where a source was changed, added or removed, but not for a test', async () => {
    const root = await mkdtemp(join(tmpdir(), 'kinkajou-built-'));
    const put = async (path: string, text: string) => {
      await mkdir(dirname(join(root, path)), { recursive: true });
      await writeFile(join(root, path), text);
    };
    await put('core/src/scene/mesh.ts', 'a');
    await put('cli/src/main.ts', 'b');
    const first = await stampOf(root, ['core/src', 'cli/src']);
    await put('core/src/scene/mesh.test.ts', 'c');
    await put('core/src/test/help.ts', 'd');
    expect(await stampOf(root, ['core/src', 'cli/src'])).toBe(first);
    await put('core/src/scene/mesh.ts', 'other');
    const second = await stampOf(root, ['core/src', 'cli/src']);
    await put('cli/src/more.ts', '');
    const third = await stampOf(root, ['core/src', 'cli/src']);
    await put('package-lock.json', '{}');
    expect(new Set([first, second, third, await stampOf(root, ['core/src', 'cli/src'])]).size).toBe(4);
    await rm(join(root, 'cli/src/more.ts'));
    await rm(join(root, 'package-lock.json'));
    expect(await stampOf(root, ['core/src', 'cli/src'])).toBe(second);
    await rm(root, { recursive: true });
  });
});
