import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { db } from '../db/client.ts';
import { assets, parcels } from '../db/schema.ts';
import { closeAfterwards, work } from '../test/harness.ts';
import { addArrivalFolder, listArrivalFolders, removeArrivalFolder } from './arrivalFolders.ts';
import { ArrivalKeeper } from './arrivalKeeper.ts';

closeAfterwards();

const CRATE = 'o Crate\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\n';
const FACE = 'f 1/1/1 2/2/1 3/3/1 4/4/1\n';
let home: string;
let before: string | undefined;
beforeAll(async () => {
  home = await mkdtemp(join(tmpdir(), 'kinkajou-arrivals-'));
  before = process.env.KINKAJOU_FOLDERS;
  process.env.KINKAJOU_FOLDERS = tmpdir();
});
afterAll(async () => {
  process.env.KINKAJOU_FOLDERS = before;
  await rm(home, { recursive: true });
});

async function folders(
  name: string,
): Promise<{ path: string; output: string; put(file: string, content: string): Promise<void> }> {
  const [path, output] = [join(home, name, 'in'), join(home, name, 'out')];
  for (const folder of [path, output]) await mkdir(folder, { recursive: true });
  return {
    path,
    output,
    async put(file, content) {
      await mkdir(join(path, file, '..'), { recursive: true });
      await writeFile(join(path, file), content);
    },
  };
}

/** What a worker does between two looks: everything that waits. */
async function looks(keeper: ArrivalKeeper, count: number): Promise<void> {
  for (let i = 0; i < count; i += 1) {
    await keeper.look();
    await work();
  }
}

const filesIn = async (path: string) =>
  (await readdir(path, { recursive: true, withFileTypes: true }))
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(path.length + 1))
    .sort();
const listed = async (path: string) => (await listArrivalFolders()).find((folder) => folder.path === path);

describe('a folder of arrivals', () => {
  it('is taken from, ruled, handed off and written out; what needs a person is put aside with a note', async () => {
    const { path, output, put } = await folders('harbour');
    await addArrivalFolder({ path, output, rules: [], destinations: ['web-gltf'], mend: true });
    await put('crate.obj', CRATE + FACE);
    await put('stair/stair.obj', `mtllib stair.mtl\n${CRATE}usemtl Oak\n${FACE}`);
    await put('stair/stair.mtl', 'newmtl Oak\nmap_Kd oak_basecolor.png\n');
    await put('torn.obj', 'f 1 2 3\n');
    await put('letter.txt', 'no model');
    await put('.part.obj', CRATE + FACE);

    const keeper = new ArrivalKeeper();
    await keeper.look();
    // What was seen once may still be written to.
    expect(await db().select().from(parcels)).toEqual([]);
    await looks(keeper, 3);

    expect(await listed(path)).toMatchObject({
      message: '',
      entries: { working: 0, done: 1, asks: 1, failed: 1 },
    });
    const written = await filesIn(output);
    expect(written).toEqual(
      expect.arrayContaining([
        'crate/web-gltf/crate.glb',
        'crate/web-gltf/receipt.json',
        'needs a person/stair/note.txt',
        'needs a person/torn/note.txt',
      ]),
    );
    expect(written.filter((file) => file.startsWith('crate/') && file.endsWith('note.txt'))).toEqual([]);
    expect(written.some((file) => file.startsWith('needs a person/stair/web-gltf/'))).toBe(true);
    expect(await readFile(join(output, 'needs a person/stair/note.txt'), 'utf8')).toBe(
      'stair has one finding that is an error\n',
    );
    expect(await readFile(join(output, 'needs a person/torn/note.txt'), 'utf8')).toMatch(/torn\.obj/);
    const glb = await readFile(join(output, 'crate/web-gltf/crate.glb'));
    expect(glb.subarray(0, 4).toString()).toBe('glTF');

    // Nothing comes twice; what changes comes again, and its packages take the place of those before.
    const parcelsBefore = (await db().select().from(parcels)).length;
    await looks(keeper, 3);
    expect((await db().select().from(parcels)).length).toBe(parcelsBefore);
    await put('stair/stair.mtl', 'newmtl Oak\nKd 0.5 0.3 0.1\n');
    await looks(keeper, 4);
    expect((await db().select().from(parcels)).length).toBe(parcelsBefore + 1);
    expect(await listed(path)).toMatchObject({ entries: { done: 2, asks: 0, failed: 1 } });
    const now = await filesIn(output);
    expect([
      now.includes('stair/web-gltf/stair.glb'),
      now.some((file) => file.includes('person/stair')),
    ]).toEqual([true, false]);
    expect(await filesIn(path)).toEqual([
      '.part.obj',
      'crate.obj',
      'letter.txt',
      'stair/stair.mtl',
      'stair/stair.obj',
      'torn.obj',
    ]);
  });

  it('writes over nothing that it did not write, says so, and goes on when that is gone', async () => {
    const { path, output, put } = await folders('occupied');
    await mkdir(join(output, 'crate'));
    await writeFile(join(output, 'crate/mine.txt'), 'mine');
    await addArrivalFolder({ path, output, rules: ['paths'], destinations: ['web-gltf'], mend: false });
    await put('crate.obj', CRATE + FACE);
    const keeper = new ArrivalKeeper();
    await looks(keeper, 3);
    expect(await listed(path)).toMatchObject({
      entries: { working: 1 },
      message: expect.stringContaining('something else lies where this would be written'),
    });
    expect(await filesIn(output)).toEqual(['crate/mine.txt']);
    await rm(join(output, 'crate'), { recursive: true });
    await keeper.look();
    expect(await listed(path)).toMatchObject({ entries: { working: 0, done: 1 }, message: '' });
  });

  it('gives entries of one stem folders of their own', async () => {
    const { path, output, put } = await folders('twins');
    await addArrivalFolder({ path, output, rules: [], destinations: ['web-gltf'], mend: false });
    await put('pile.obj', CRATE + FACE);
    await put('pile/mast.obj', CRATE + FACE);
    await looks(new ArrivalKeeper(), 4);
    expect(await listed(path)).toMatchObject({ entries: { done: 2 }, message: '' });
    expect((await readdir(output)).sort()).toEqual(['pile', 'pile_obj']);
    expect(await readdir(join(output, 'pile/web-gltf'))).toContain('mast.glb');
  });

  it('needs no output, and is forgotten without what came', async () => {
    const { path, put } = await folders('quiet');
    await addArrivalFolder({ path, output: null, rules: [], destinations: [], mend: false });
    await put('buoy.obj', CRATE + FACE);
    const keeper = new ArrivalKeeper();
    await looks(keeper, 3);
    const folder = await listed(path);
    expect(folder).toMatchObject({ entries: { done: 1 } });
    await removeArrivalFolder(folder?.id ?? '');
    expect(await listed(path)).toBeUndefined();
    expect(await db().select().from(assets).where(eq(assets.name, 'buoy'))).toHaveLength(1);
  });

  it('that is away says so', async () => {
    const { path, put } = await folders('away');
    await addArrivalFolder({ path, output: null, rules: [], destinations: [], mend: false });
    await put('a.obj', CRATE + FACE);
    await rm(path, { recursive: true });
    await new ArrivalKeeper().look();
    expect(await listed(path)).toMatchObject({ message: expect.stringContaining(path) });
  });

  it('is refused where it may not be read, would feed itself, or has words that stand for nothing', async () => {
    const { path, output } = await folders('refused');
    const ask = { path, output, rules: [] as string[], destinations: ['web-gltf'], mend: false };
    await expect(addArrivalFolder({ ...ask, path: '/etc' })).rejects.toMatchObject({
      code: 'folder.notAllowed',
    });
    await expect(addArrivalFolder({ ...ask, output: join(home, 'nowhere') })).rejects.toMatchObject({
      code: 'folder.missing',
    });
    await expect(addArrivalFolder({ ...ask, output: path })).rejects.toMatchObject({
      code: 'arrival.output',
    });
    await expect(addArrivalFolder({ ...ask, output: join(path, '..') })).rejects.toMatchObject({
      code: 'arrival.output',
    });
    await expect(addArrivalFolder({ ...ask, destinations: [] })).rejects.toMatchObject({
      code: 'arrival.output',
    });
    await expect(addArrivalFolder({ ...ask, destinations: ['moon'] })).rejects.toMatchObject({
      code: 'handoff.destination',
    });
    await expect(addArrivalFolder({ ...ask, rules: ['by the moon'] })).rejects.toMatchObject({
      code: 'rulebook.none',
    });
    await addArrivalFolder(ask);
    await expect(addArrivalFolder(ask)).rejects.toMatchObject({ code: 'folder.known' });
  });
});
