import { mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { callIn } from './test/call.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-join-'));
  await writeFile(join(folder, 'crate.obj'), 'o Lid\nv 0 0 0\nv 2 0 0\nv 2 3 0\nf 1 2 3\n');
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const kinkajou = (...args: string[]) => callIn(folder, args);

describe('join', () => {
  it('makes one model of several, which every command takes, and refuses what lies elsewhere', async () => {
    await mkdir(join(folder, 'harbour/post'), { recursive: true });
    await writeFile(
      join(folder, 'harbour/slab.obj'),
      'o Slab\nv 0 0 0\nv 4 0 0\nv 4 0 -3\nv 0 0 -3\nf 1 2 3 4\n',
    );
    await writeFile(
      join(folder, 'harbour/post/post.obj'),
      'mtllib post.mtl\no Post\nusemtl Tar\nv 0 0 0\nv 1 0 0\nv 0 2 0\nf 1 2 3\n',
    );
    await writeFile(join(folder, 'harbour/post/post.mtl'), 'newmtl Tar\nKd 0.1 0.1 0.1\n');
    await writeFile(
      join(folder, 'post.log.json'),
      JSON.stringify([
        {
          kind: 'renameMaterials',
          names: [{ material: 'Tar', name: 'Pitch' }],
          origin: { from: 'hand', detail: '' },
        },
      ]),
    );
    const first = await kinkajou(
      'join',
      'harbour/all.joined',
      'harbour/slab.obj',
      'harbour/post/post.obj',
      '--at',
      '1,0.5,0',
      '--turn',
      '90',
      '--json',
    );
    expect([first.exit, first.err]).toEqual([0, '']);
    expect(JSON.parse(first.out)).toMatchObject({
      models: [{ model: 'slab.obj' }, { model: 'post/post.obj', name: 'post', at: [1, 0.5, 0], turn: 90 }],
      nodes: 3,
    });
    const again = [
      'join',
      'harbour/all.joined',
      'harbour/all.joined',
      'harbour/post/post.obj',
      '--name',
      'Second',
      '--scale',
      '3',
      '--log',
      'post.log.json',
    ];
    expect(await kinkajou(...again)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('there is a file already'),
    });
    expect(await kinkajou(...again, '--replace')).toMatchObject({
      exit: 0,
      out: 'harbour/all.joined: 3 models, 5 nodes\n',
    });

    const report = JSON.parse((await kinkajou('inspect', 'harbour/all.joined', '--json')).out);
    expect(report.parts.map(({ name }: { name: string }) => name)).toEqual([
      'Slab',
      'post',
      'Post',
      'Second',
      'Post',
    ]);
    expect(report.materials.map(({ name }: { name: string }) => name)).toEqual(['Tar', 'Pitch']);
    // The slab 4 wide and 3 deep; the first post turned, from 0 to -1 in depth; the second thrice as large, 6
    // high.
    expect(report.bounds).toEqual({ min: [0, 0, -3], max: [4, 6, 0] });
    expect(await kinkajou('convert', 'harbour/all.joined', 'harbour/out/all.glb')).toMatchObject({ exit: 0 });
    const patched = await kinkajou('convert', 'harbour/all.joined', 'harbour/out/all.joined', '--patch');
    expect(patched).toMatchObject({ exit: 2, err: expect.stringContaining('no file to patch') });

    expect(await kinkajou('join', 'harbour/b.joined', 'harbour/slab.obj', 'crate.obj')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('a folder that holds both'),
    });
    expect(await kinkajou('join', 'harbour/b.joined', 'harbour/slab.obj', 'harbour/gone.obj')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('there is nothing at this path'),
    });
    expect(await kinkajou('join', 'harbour/b.obj', 'harbour/slab.obj', 'harbour/slab.obj')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('.joined file'),
    });
    expect(
      await kinkajou('join', 'harbour/b.joined', 'harbour/slab.obj', 'harbour/slab.obj', '--at', '1,2'),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('Give 3 numbers'),
    });
    expect(await readdir(join(folder, 'harbour'))).not.toContain('b.joined');
  });
});
