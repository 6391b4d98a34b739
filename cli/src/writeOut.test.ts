import { chmod, mkdir, mkdtemp, readdir, readFile, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { beforeEach, describe, expect, it } from 'vitest';
import { checkFree, type OutFiles, writeBeside, writePackage } from './writeOut.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
let home: string;
beforeEach(async () => {
  home = await mkdtemp(join(tmpdir(), 'kinkajou-out-'));
});
const at = (...path: string[]) => join(home, ...path);
const text = (path: string) => readFile(at(path), 'utf8');

/** A package of a model and its receipt, as a handoff gives it. */
function made(content: string, asset = 'hull'): OutFiles {
  const files = { 'hull.fbx': bytes(content), 'maps/hull.png': bytes(`${content} map`) };
  const outputs = Object.entries(files).map(([path, file]) => ({
    path,
    bytes: file.length,
    sha256: sha256(file),
  }));
  return new Map([
    ...Object.entries(files),
    ['receipt.json', bytes(JSON.stringify({ asset: { name: asset }, outputs }))],
  ]);
}

describe('a package', () => {
  it('appears as a whole, in a folder that is made', async () => {
    await writePackage(at('a/b/out'), made('one'), { replace: false, asset: 'hull' });
    expect(await text('a/b/out/maps/hull.png')).toBe('one map');
    expect(await readdir(at('a/b'))).toEqual(['out']);
    await mkdir(at('empty'));
    await writePackage(at('empty'), made('one'), { replace: false, asset: 'hull' });
    expect(await text('empty/hull.fbx')).toBe('one');
  });

  it('is refused where anything lies, and leaves it alone', async () => {
    await mkdir(at('out/deep'), { recursive: true });
    await writeFile(at('out/deep/notes.txt'), 'mine');
    await expect(
      writePackage(at('out'), made('one'), { replace: false, asset: 'hull' }),
    ).rejects.toMatchObject({
      code: 'out.occupied',
      message: 'deep/notes.txt is there already',
      place: { file: at('out') },
      hint: expect.stringContaining('--replace'),
    });
    await expect(writePackage(at('out'), made('one'), { replace: true, asset: 'hull' })).rejects.toThrow(
      /holds no package that an earlier run made/,
    );
    expect([await text('out/deep/notes.txt'), await readdir(home)]).toEqual(['mine', ['out']]);
    await writeFile(at('file'), 'x');
    await expect(
      writePackage(at('file'), made('one'), { replace: true, asset: 'hull' }),
    ).rejects.toMatchObject({ code: 'out.occupied' });
  });

  it('takes the place of the earlier one of the same asset, and of nothing else', async () => {
    const write = (content: string, replace = true, asset = 'hull') =>
      writePackage(at('out'), made(content, asset), { replace, asset });
    await write('one', false);
    await write('two');
    expect([await text('out/hull.fbx'), await readdir(home)]).toEqual(['two', ['out']]);
    await expect(write('three', true, 'mast')).rejects.toThrow(
      /no package that an earlier run made of this asset/,
    );
    await writeFile(at('out/notes.txt'), 'mine');
    await expect(write('three')).rejects.toThrow(
      'nothing was replaced: notes.txt was not written by the earlier run',
    );
    await rm(at('out/notes.txt'));
    await writeFile(at('out/maps/hull.png'), 'painted over');
    await expect(write('three')).rejects.toThrow(
      'nothing was replaced: maps/hull.png was changed since it was written',
    );
    expect([await text('out/hull.fbx'), await text('out/maps/hull.png')]).toEqual(['two', 'painted over']);
  });

  it('that cannot be written whole leaves nothing half', async () => {
    const impossible = new Map([...made('two'), [`${'x'.repeat(300)}.png`, bytes('')]]);
    await expect(
      writePackage(at('out'), impossible, { replace: false, asset: 'hull' }),
    ).rejects.toMatchObject({ code: 'ENAMETOOLONG' });
    expect(await readdir(home)).toEqual([]);
    await writePackage(at('out'), made('one'), { replace: false, asset: 'hull' });
    await expect(writePackage(at('out'), impossible, { replace: true, asset: 'hull' })).rejects.toMatchObject(
      { code: 'ENAMETOOLONG' },
    );
    expect([await text('out/hull.fbx'), await readdir(home)]).toEqual(['one', ['out']]);
  });

  it('is refused before it is made where files lie, and not where folders do', async () => {
    await mkdir(at('out/web'), { recursive: true });
    await checkFree(at('out'), false);
    await checkFree(at('nowhere'), false);
    for (const name of ['a', 'b', 'c', 'd', 'e']) await writeFile(at('out', name), '');
    await expect(checkFree(at('out'), false)).rejects.toThrow('a, b, c and 2 more are there already');
    await checkFree(at('out'), true);
  });
});

describe('files among others', () => {
  const write = (files: Record<string, string>, { from = 'in/hull.obj', replace = false } = {}) =>
    writeBeside({
      folder: at('out'),
      files: new Map(Object.entries(files).map(([path, content]) => [path, bytes(content)])),
      from: at(from),
      replace,
    });

  it('share what is the same, and refuse what is not', async () => {
    await write({ 'hull.fbx': 'one', 'maps/wood.png': 'wood' });
    await write({ 'mast.fbx': 'mast', 'maps/wood.png': 'wood' }, { from: 'in/mast.obj' });
    await expect(
      write({ 'boom.fbx': 'boom', 'maps/wood.png': 'other' }, { from: 'in/boom.obj' }),
    ).rejects.toMatchObject({
      code: 'out.occupied',
      message: 'maps/wood.png is there already',
    });
    expect([await text('out/maps/wood.png'), (await readdir(at('out'))).sort()]).toEqual([
      'wood',
      ['.kinkajou.json', 'hull.fbx', 'maps', 'mast.fbx'],
    ]);
  });

  it('take the place of what the same input wrote, and of nothing else', async () => {
    await write({ 'hull.fbx': 'one' });
    await write({ 'hull.fbx': 'two' }, { replace: true });
    expect(await text('out/hull.fbx')).toBe('two');
    await expect(write({ 'hull.fbx': 'three' }, { replace: true, from: 'in/mast.obj' })).rejects.toThrow(
      /^nothing was replaced: hull\.fbx was not written by an earlier run of .*mast\.obj$/,
    );
    await writeFile(at('out/hull.fbx'), 'by hand');
    await expect(write({ 'hull.fbx': 'three' }, { replace: true })).rejects.toThrow(
      'nothing was replaced: hull.fbx was changed since it was written',
    );
    expect(await text('out/hull.fbx')).toBe('by hand');
  });

  it('with names that are words of the language are files like others', async () => {
    await mkdir(at('out'));
    await writeFile(at('out/constructor'), 'mine');
    await expect(write({ constructor: 'theirs' }, { replace: true })).rejects.toThrow(
      /constructor was not written by an earlier run/,
    );
  });

  it('never take the place of the input, by whatever name', async () => {
    await mkdir(at('out'));
    await writeFile(at('out/hull.obj'), 'source');
    await symlink(at('out/hull.obj'), at('out/link.obj'));
    for (const name of ['hull.obj', 'link.obj'])
      await expect(write({ [name]: 'new' }, { from: 'out/hull.obj', replace: true })).rejects.toMatchObject({
        code: 'out.source',
        place: { file: at('out', name) },
      });
    expect(await text('out/hull.obj')).toBe('source');
  });

  it('leave nothing half where the disk refuses', async () => {
    await expect(write({ 'hull.fbx': 'one', [`${'x'.repeat(300)}.png`]: '' })).rejects.toMatchObject({
      code: 'ENAMETOOLONG',
    });
    expect(await readdir(at('out'))).toEqual([]);
    if (process.getuid?.() === 0) return;
    await chmod(at('out'), 0o500);
    await expect(write({ 'hull.fbx': 'one' })).rejects.toMatchObject({ code: 'EACCES' });
  });
});
