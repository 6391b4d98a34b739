import { promises as disk } from 'node:fs';
import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { folderSource } from './folderSource.ts';
import { DEFAULT_LIMITS } from './limits.ts';

let home: string;
beforeEach(async () => {
  // Root may read every folder, so one that may not be read is made up.
  const real = disk.readdir as (path: string, ...rest: unknown[]) => Promise<never>;
  vi.spyOn(disk, 'readdir').mockImplementation((path: unknown, ...rest: unknown[]) =>
    String(path).endsWith('locked')
      ? Promise.reject(Object.assign(new Error('EACCES'), { code: 'EACCES' }))
      : real(String(path), ...rest),
  );
  home = await mkdtemp(join(tmpdir(), 'kinkajou-folder-'));
  for (const folder of ['maps/deep', 'locked']) await mkdir(join(home, folder), { recursive: true });
  for (const file of ['hull.obj', 'maps/hull.png', 'maps/deep/b.png', 'locked/secret.png', 'Thumbs.db'])
    await writeFile(join(home, file), file);
});
afterEach(() => {
  vi.restoreAllMocks();
  return rm(home, { recursive: true, force: true });
});

describe('a folder', () => {
  it('gives everything below it in order, and names what may not be read', async () => {
    const source = await folderSource(home);
    expect(source.files.map(({ path, size }) => [path, size])).toEqual([
      ['hull.obj', 8],
      ['maps/deep/b.png', 15],
      ['maps/hull.png', 13],
    ]);
    expect(source.notices).toEqual([
      {
        code: 'disk.forbidden',
        path: 'locked',
        message: 'the folder is left out: this account may not read or write there',
      },
    ]);
    expect(new TextDecoder().decode(await source.read('maps/hull.png'))).toBe('maps/hull.png');
    await expect(source.read('maps/none.png')).rejects.toMatchObject({ code: 'source.missing' });
  });

  it('itself must be readable', async () => {
    await expect(folderSource(join(home, 'locked'))).rejects.toMatchObject({
      code: 'disk.forbidden',
      place: { file: join(home, 'locked') },
    });
    await expect(folderSource(join(home, 'nowhere'))).rejects.toMatchObject({ code: 'disk.missing' });
  });

  it('does not lead out of itself by links', async () => {
    await symlink('/etc', join(home, 'maps/etc'));
    await symlink('/etc/passwd', join(home, 'passwd.png'));
    const { files } = await folderSource(home);
    expect(files.map(({ path }) => path)).toEqual(['hull.obj', 'maps/deep/b.png', 'maps/hull.png']);
  });

  it('of more files than may be is refused, or looked at as far as it may', async () => {
    const limits = { ...DEFAULT_LIMITS, entries: 2 };
    await expect(folderSource(home, { limits })).rejects.toMatchObject({ code: 'limit.entries' });
    const partial = await folderSource(home, { limits, partial: true });
    expect(partial.notices.map(({ code }) => code)).toContain('limit.entries');
  });
});
