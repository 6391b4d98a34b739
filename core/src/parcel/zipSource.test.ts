import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { DEFAULT_LIMITS } from './limits.ts';
import { zipSource } from './zipSource.ts';

async function stored(bytes: Uint8Array): Promise<string> {
  const path = join(await mkdtemp(join(tmpdir(), 'kinkajou-')), 'a.zip');
  await writeFile(path, bytes);
  return path;
}

describe('zip', () => {
  const text = new TextEncoder().encode('bollard');

  it('keeps what is sound and notes paths that lead out', async () => {
    const source = await zipSource(
      await stored(zipSync({ 'ok/a.txt': text, '../evil.txt': text, '/abs.txt': text, 'C:\\x.txt': text })),
    );
    expect(source.files.map((file) => file.path)).toEqual(['ok/a.txt']);
    expect(source.notices.map((notice) => notice.code)).toEqual(['zip.path', 'zip.path', 'zip.path']);
    expect(await source.read('ok/a.txt')).toEqual(Buffer.from(text));
    await expect(source.read('../evil.txt')).rejects.toMatchObject({ code: 'source.missing' });
  });

  it('notes an encrypted entry', async () => {
    const bytes = zipSync({ 'a.txt': text });
    const directory = bytes.findIndex(
      (_, i) => bytes[i] === 0x50 && bytes[i + 1] === 0x4b && bytes[i + 2] === 1 && bytes[i + 3] === 2,
    );
    bytes[directory + 8] |= 1;
    const source = await zipSource(await stored(bytes));
    expect(source.files).toEqual([]);
    expect(source.notices[0].code).toBe('zip.encrypted');
  });

  it('stops at too many entries and at a bomb, naming the limit', async () => {
    const many = await stored(
      zipSync(Object.fromEntries(Array.from({ length: 30 }, (_, i) => [`${i}.txt`, text]))),
    );
    await expect(zipSource(many, 'many.zip', { ...DEFAULT_LIMITS, entries: 20 })).rejects.toMatchObject({
      code: 'limit.entries',
      place: { file: 'many.zip' },
    });
    const bomb = await stored(zipSync({ 'b.bin': new Uint8Array(80 * 1024 * 1024) }));
    await expect(zipSource(bomb, 'bomb.zip')).rejects.toMatchObject({ code: 'limit.expansionRatio' });
  });

  it('names a broken archive', async () => {
    await expect(zipSource(await stored(text), 'x.zip')).rejects.toMatchObject({
      code: 'zip.broken',
      place: { file: 'x.zip' },
    });
  });
});
