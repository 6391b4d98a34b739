import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { DEFAULT_LIMITS } from './limits.ts';
import { openSource } from './openSource.ts';

const text = (value: string) => new TextEncoder().encode(value);

async function opened(files: Record<string, Uint8Array>, limits = DEFAULT_LIMITS) {
  const path = join(await mkdtemp(join(tmpdir(), 'kinkajou-')), 'delivery.zip');
  await writeFile(path, zipSync(files));
  return (await openSource(path, limits)).source;
}
const spooled = async () =>
  (await readdir(tmpdir())).filter((name) => name.startsWith('kinkajou-zip-')).length;

describe('zips within a zip', () => {
  it('are folders of their names, as deep as three', async () => {
    const deepest = zipSync({ 'd.txt': text('4') });
    const third = zipSync({ 'c.txt': text('3'), 'four.zip': deepest });
    const second = zipSync({ 'b.txt': text('2'), 'three.zip': third });
    const before = await spooled();
    const source = await opened({
      'hull.obj': text('o'),
      'art/maps.zip': second,
      'art/maps/b.txt': text('1'),
    });
    expect(source.files.map(({ path }) => path)).toEqual([
      'art/maps/b.txt',
      'art/maps/three/c.txt',
      'art/maps/three/four/d.txt',
      'hull.obj',
    ]);
    const read = async (path: string) => new TextDecoder().decode(await source.read(path));
    expect(await read('art/maps/b.txt')).toBe('1');
    expect(await read('art/maps/three/four/d.txt')).toBe('4');
    await expect(source.read('art/maps.zip')).rejects.toMatchObject({ code: 'source.missing' });
    await source.close();
    expect(await spooled()).toBe(before);
    const fourth = await opened({ 'one.zip': zipSync({ 'two.zip': zipSync({ 'x.zip': third }) }) });
    expect(fourth.files.map(({ path }) => path)).toEqual(['one/two/x/c.txt', 'one/two/x/four.zip']);
    await fourth.close();
  });

  it('leave what lies in their place, with a word where that is another file', async () => {
    const source = await opened({
      'maps.zip': zipSync({ 'a.txt': text('same'), 'b.txt': text('longer') }),
      'maps/a.txt': text('same'),
      'maps/b.txt': text('short'),
    });
    expect(new TextDecoder().decode(await source.read('maps/b.txt'))).toBe('short');
    expect(source.notices.map(({ code, path }) => [code, path])).toEqual([['zip.twice', 'maps/b.txt']]);
    const pieces: Uint8Array[] = [];
    for await (const piece of source.stream?.('maps/a.txt') ?? []) pieces.push(piece);
    expect(Buffer.concat(pieces).toString()).toBe('same');
    expect(() => source.stream?.('maps.zip')).toThrow('maps.zip');
    await source.close();
  });

  it('are left out with a word where they are broken, and count for the limits of the whole', async () => {
    const source = await opened({ 'a.txt': text('a'), 'bad.zip': text('no zip') });
    expect(source.files.map(({ path }) => path)).toEqual(['a.txt']);
    expect(source.notices).toMatchObject([{ code: 'zip.broken', path: 'bad.zip' }]);
    await source.close();
    const many = zipSync({ '1.txt': text('1'), '2.txt': text('2') });
    const before = await spooled();
    const limits = { ...DEFAULT_LIMITS, entries: 3 };
    await expect(opened({ 'a.zip': many, 'b.zip': many }, limits)).rejects.toMatchObject({
      code: 'limit.entries',
      place: { file: 'delivery.zip' },
    });
    const small = { ...DEFAULT_LIMITS, totalBytes: 400 };
    await expect(
      opened({ 'a.zip': zipSync({ 'a.txt': text('a'.repeat(300)) }), 'b.txt': text('b'.repeat(150)) }, small),
    ).rejects.toMatchObject({ code: 'limit.totalBytes' });
    expect(await spooled()).toBe(before);
  });

  it('are opened in a folder where no model lies beside them', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'kinkajou-'));
    await writeFile(join(folder, 'buoy.zip'), zipSync({ 'buoy.obj': text('o') }));
    await writeFile(join(folder, 'readme.txt'), 'two deliveries');
    const opening = async () => {
      const { source } = await openSource(folder);
      await source.close();
      return source;
    };
    const paths = async () => (await opening()).files.map(({ path }) => path);
    expect(await paths()).toEqual(['buoy/buoy.obj', 'readme.txt']);
    await writeFile(join(folder, 'winch.obj'), 'o');
    expect(await paths()).toEqual(['buoy.zip', 'readme.txt', 'winch.obj']);
    // Images of a model are packed beside it, at times with the model's name; other models are deliveries.
    await writeFile(
      join(folder, 'winch.zip'),
      zipSync({ 'winch_color.png': text('c'), 'read.txt': text('r') }),
    );
    expect(await paths()).toEqual([
      'buoy.zip',
      'readme.txt',
      'winch.obj',
      'winch/read.txt',
      'winch/winch_color.png',
    ]);
    expect((await opening()).notices.map(({ code, path }) => [code, path])).toEqual([
      ['zip.closed', 'buoy.zip'],
    ]);
    // What lies deeper is opened with the zip around it.
    await rm(join(folder, 'buoy.zip'));
    const deep = zipSync({ 'more.zip': zipSync({ 'more.obj': text('o') }) });
    await writeFile(join(folder, 'winch.zip'), deep);
    expect(await paths()).toEqual(['readme.txt', 'winch.obj', 'winch/more/more.obj']);
  });

  it('have no files of systems, whichever way their slashes lean', async () => {
    const source = await opened({
      'a.txt': text('a'),
      '__MACOSX\\a.txt': text('x'),
      'maps\\._a.txt': text('x'),
    });
    expect(source.files.map(({ path }) => path)).toEqual(['a.txt']);
  });
});
