import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { BlobCache } from './blobCache.ts';

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-cache-'));
  vi.useFakeTimers({ toFake: ['Date'], now: new Date('2031-05-04T10:00:00Z') });
});
afterEach(async () => {
  vi.useRealTimers();
  await rm(folder, { recursive: true, force: true });
});

const later = (minutes: number) => vi.setSystemTime(Date.now() + minutes * 60_000);
const hashOf = (letter: string) => letter.repeat(64);

async function keep(cache: BlobCache, letter: string): Promise<string> {
  const path = join(folder, `arrived-${letter}`);
  await writeFile(path, letter.repeat(10));
  return cache.keep({ path, sha256: hashOf(letter), size: 10 });
}

async function kept(root: string): Promise<string> {
  const files = await readdir(root, { recursive: true, withFileTypes: true });
  return files
    .flatMap((file) => (file.isFile() ? [file.name[0]] : []))
    .sort()
    .join('');
}

describe('contents of a store elsewhere', () => {
  it('are kept up to the limit; what was unused for longest goes first, and nothing that was used within a minute', async () => {
    const root = join(folder, 'kept');
    const cache = new BlobCache(root, 30);
    for (const letter of 'abc') {
      await keep(cache, letter);
      later(2);
    }
    expect(await readFile((await cache.find(hashOf('a'))) as string, 'utf8')).toBe('aaaaaaaaaa');
    await keep(cache, 'd');
    expect(await kept(root)).toBe('acd');
    // All but c were used just now.
    await keep(cache, 'e');
    expect(await kept(root)).toBe('ade');
    await keep(cache, 'f');
    expect(await kept(root)).toBe('adef');
    expect([await cache.find(hashOf('c')), (await cache.find(hashOf('f'))) !== null]).toEqual([null, true]);
  });

  it('that an earlier process left count as well', async () => {
    const root = join(folder, 'kept');
    const earlier = new BlobCache(root, 100);
    for (const letter of 'abc') await keep(earlier, letter);
    later(2_000_000);
    const cache = new BlobCache(root, 20);
    expect(await cache.find(hashOf('b'))).not.toBeNull();
    await keep(cache, 'd');
    expect(await kept(root)).toBe('bd');
  });

  it('that went meanwhile are not there', async () => {
    const cache = new BlobCache(join(folder, 'kept'), 100);
    await rm(await keep(cache, 'a'));
    expect(await cache.find(hashOf('a'))).toBeNull();
    await keep(cache, 'b');
    await cache.drop(hashOf('b'));
    expect(await cache.find(hashOf('b'))).toBeNull();
  });
});
