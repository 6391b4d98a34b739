import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { watchBatch } from './watchBatch.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-watch-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('batch --watch', () => {
  it('hands over what comes and what changes, once it has come to rest, until it is stopped', async () => {
    const dir = join(folder, 'arrivals');
    const out = join(folder, 'handed');
    await mkdir(dir);
    const stop = new AbortController();
    const told: string[] = [];
    const tell = (line: string) => void told.push(line);
    const options = { to: ['web-gltf'], out, rules: [], mend: 'safe', threads: '1' };
    const watching = watchBatch(
      dir,
      options,
      { json: () => undefined, text: tell, message: tell },
      { signal: stop.signal, everyMs: 20 },
    );
    await vi.waitFor(() => expect(told.join('\n')).toContain('there is no model in it'), { timeout: 60_000 });
    const square = (wide: number) => `o Crate\nv 0 0 0\nv ${wide} 0 0\nv ${wide} 1 0\nv 0 1 0\nf 1 2 3 4\n`;
    const widthOf = async () => {
      const receipt = JSON.parse(
        await readFile(join(out, 'crate', 'receipt.json'), 'utf8').catch(() => '{}'),
      );
      const files = receipt.inputs?.map(({ sha256 }: { sha256: string }) => sha256) ?? [];
      return files[0];
    };
    const hash = (text: string) => createHash('sha256').update(text).digest('hex');
    for (const wide of [2, 3]) {
      await writeFile(join(dir, 'crate.obj'), square(wide));
      await vi.waitFor(async () => expect(await widthOf()).toBe(hash(square(wide))), { timeout: 60_000 });
    }
    stop.abort();
    expect(await watching).toBe(0);
    await expect(
      watchBatch(
        dir,
        { ...options, json: true },
        { json: tell, text: tell, message: tell },
        { signal: stop.signal },
      ),
    ).rejects.toMatchObject({
      code: 'call.watch',
    });
  });
});
