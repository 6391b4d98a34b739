import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { buffer } from 'node:stream/consumers';
import { fileURLToPath } from 'node:url';
import type { Edit } from '@kinkajou/core/asset/asset';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { sql } from 'drizzle-orm';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { blobs } from '../blobs.ts';
import { db, pool } from '../db/client.ts';
import { dataFolder } from '../env.ts';
import { assetImages, findAsset } from '../services/assetRow.ts';
import { benchView } from '../services/benchView.ts';
import { addEdits, moveCursor } from '../services/edits.ts';
import { exportAsset } from '../services/exported.ts';
import { requestHandoffs } from '../services/handoffs.ts';
import { findParcel, parcelSource } from '../services/parcelFiles.ts';
import { createParcel } from '../services/parcels.ts';
import { bringBack, removeAsset } from '../services/removal.ts';
import { shelfPage } from '../services/shelf.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { backUp, restore } from './backup.ts';
import { examine } from './doctor.ts';
import { keep } from './main.ts';
import { sweep } from './sweep.ts';

closeAfterwards();

const PROGRAM = fileURLToPath(new URL('../../../bin/kinkajou', import.meta.url));
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-keep-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Runs the program on another machine, so to speak: with a database and a folder of its own. */
function program(
  args: string[],
  env: Record<string, string>,
): Promise<{ exit: number; out: string; err: string }> {
  return new Promise((resolve) => {
    execFile(PROGRAM, args, { env: { ...process.env, ...env } }, (error, out, err) =>
      resolve({ exit: error ? Number(error.code) : 0, out, err }),
    );
  });
}

/** The same commands in this process, on its own database. */
async function here(...args: string[]): Promise<{ exit: number; out: string; err: string }> {
  const told = { out: '', err: '' };
  const keepIn = (stream: 'out' | 'err') => (text: unknown) => {
    told[stream] += String(text);
    return true;
  };
  const spies = [
    vi.spyOn(process.stdout, 'write').mockImplementation(keepIn('out')),
    vi.spyOn(process.stderr, 'write').mockImplementation(keepIn('err')),
  ];
  try {
    return { exit: await keep(args), ...told };
  } finally {
    for (const spy of spies) spy.mockRestore();
  }
}

async function otherDatabase(name: string): Promise<string> {
  await pool().query(`drop database if exists ${name} with (force)`);
  await pool().query(`create database ${name}`);
  const url = new URL(process.env.DATABASE_URL ?? '');
  url.pathname = `/${name}`;
  return url.href;
}

/** A day and a half ago, so that a sweep minds it. */
const age = (path: string) => utimes(path, new Date(), new Date(Date.now() - 36 * 3600_000));
const problems = async () =>
  (await examine())
    .filter(({ ok, part }) => !ok && part !== 'workers')
    .map(({ part, text }) => `${part}: ${text}`);

describe('a content in the store', () => {
  it('that was changed or lost on the disk is never read as what it was, is found, and heals when the same arrives again', async () => {
    const files = await quay();
    const { assets } = await send('Quay', files);
    const [image] = (await assetImages(await findAsset(assets.quay))).filter(
      ({ path }) => path === 'stone_basecolor.png',
    );
    const path = await blobs.fileOf(image.sha256);
    expect(await problems()).toEqual([]);

    await writeFile(path, 'eaten by a mouse');
    await expect(blobs.get(image.sha256)).rejects.toMatchObject({
      code: 'blob.changed',
      hint: expect.stringContaining('Drop the same file again'),
    });
    const [summary, changed, ...more] = await problems();
    expect(summary).toMatch(/^blobs: \d+ contents in use, \d+ that nothing refers to$/);
    expect([changed, more]).toEqual([
      `blobs: 1 were changed in the store: ${image.sha256.slice(0, 12)}; drop the same files again, and they are whole`,
      [],
    ]);
    await send('Quay again', files);
    expect(sha256(await blobs.get(image.sha256))).toBe(image.sha256);

    await rm(path);
    await expect(blobs.get(image.sha256)).rejects.toMatchObject({ code: 'blob.missing' });
    expect((await problems()).at(-1)).toMatch(/^blobs: 1 are missing: /);
    await blobs.put(files['stone_basecolor.png'] as Uint8Array);
    expect(await problems()).toEqual([]);
  });
});

describe('a sweep', () => {
  it('takes what nothing refers to, and only what is old; the rest stays', async () => {
    const { assets, parcel } = await send('Kept', await quay());
    const { assets: gone, parcel: removed } = await send('Gone', {
      ...(await quay({ tint: '0.5 0.5 0.5' })),
      'stone_basecolor.png': await plain(9, 9, 9),
    });
    const [lost] = (await assetImages(await findAsset(gone.quay))).filter(
      ({ path }) => path === 'stone_basecolor.png',
    );
    await db().execute(sql`delete from parcels where id = ${removed}`);
    const young = await sweep({ yes: true });
    expect([young.done, young.blobs.count]).toEqual([true, 0]);
    expect(await blobs.has(lost.sha256)).toBe(true);

    for (const file of await readdir(join(dataFolder(), 'blobs'), { recursive: true, withFileTypes: true }))
      if (file.isFile()) await age(join(file.parentPath, file.name));
    const arriving = join(dataFolder(), 'blobs/incoming/half');
    await mkdir(dirname(arriving), { recursive: true });
    await writeFile(arriving, 'half a file');
    await age(arriving);
    const abandoned = await createParcel('Never came');
    await db().execute(
      sql`update parcels set created_at = now() - interval '3 days' where id = ${abandoned}`,
    );

    const told = await sweep();
    expect([told.done, told.blobs.count > 0, told.uploads.count, told.parcels]).toEqual([
      false,
      true,
      1,
      [{ id: abandoned, name: 'Never came' }],
    ]);
    expect(await blobs.has(lost.sha256)).toBe(true);
    const taken = await sweep({ yes: true });
    expect({ ...taken, done: false }).toEqual(told);
    expect([await blobs.has(lost.sha256), (await sweep()).blobs.count]).toEqual([false, 0]);
    expect(await problems()).toEqual([]);
    expect((await benchView(assets.quay)).parcel.id).toBe(parcel);
  });
});

describe('an asset that was removed', () => {
  it('goes with its parcel at the next sweep after a day, and not before', async () => {
    const { assets, parcel } = await send('Old stair', {
      ...(await quay()),
      'stone_basecolor.png': await plain(7, 6, 5),
    });
    const [image] = (await assetImages(await findAsset(assets.quay))).filter(
      ({ path }) => path === 'stone_basecolor.png',
    );
    await removeAsset(assets.quay);
    expect((await sweep({ yes: true })).assets).toEqual([]);
    await bringBack(assets.quay);
    await removeAsset(assets.quay);
    await db().execute(
      sql`update assets set removed_at = now() - interval '2 days' where id = ${assets.quay}`,
    );
    await age(await blobs.fileOf(image.sha256));
    expect(await sweep()).toMatchObject({ done: false, assets: [{ id: assets.quay, name: 'quay' }] });
    await bringBack(assets.quay);
    expect((await sweep({ yes: true })).assets).toEqual([]);
    await db().execute(
      sql`update assets set removed_at = now() - interval '2 days' where id = ${assets.quay}`,
    );
    expect((await sweep({ yes: true })).assets).toEqual([{ id: assets.quay, name: 'quay' }]);
    await expect(bringBack(assets.quay)).rejects.toMatchObject({ code: 'notFound' });
    await expect(findParcel(parcel)).rejects.toMatchObject({ code: 'notFound' });
    expect(await blobs.has(image.sha256)).toBe(false);
  });
});

describe('an asset as one file', () => {
  const edit = (value: number): Edit => ({
    kind: 'setValues',
    slots: [{ material: 'Brass', channel: 'roughness' }],
    value,
    origin: { from: 'hand', detail: '' },
  });

  it('comes in elsewhere with every byte and the log as it was, what was undone included', async () => {
    const files = await quay();
    const { assets } = await send('Stair', files);
    await addEdits(assets.quay, [edit(0.55)]);
    await addEdits(assets.quay, [edit(0.65)]);
    await moveCursor(assets.quay, { by: -1 });
    const file = join(folder, 'stair.asset.zip');
    const told = await program(['export', assets.quay, file, '--json'], {});
    expect(told).toMatchObject({ exit: 0, err: '' });
    expect(JSON.parse(told.out)).toMatchObject({ asset: assets.quay, file });
    expect(await here('export', assets.quay, file)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('there is a file already'),
    });

    const before = await shelfPage();
    expect(await here('import', file)).toMatchObject({
      exit: 0,
      err: '',
      out: expect.stringContaining('is taken in'),
    });
    await work();
    const [came] = (await shelfPage()).assets.filter(({ id }) => !before.assets.some((one) => one.id === id));
    expect(came).toMatchObject({ name: 'quay', parcelName: 'Stair', model: 'quay.obj' });
    const source = await parcelSource(came.parcelId);
    for (const [path, content] of Object.entries(files))
      expect(sha256(await source.read(path)), path).toBe(sha256(Buffer.from(content)));
    expect(source.files).toHaveLength(Object.keys(files).length);
    const view = await benchView(came.id);
    expect([view.log.length, view.cursor]).toEqual([2, 1]);
    expect(view.state.materials.find(({ name }) => name === 'Brass')?.channels.roughness?.value).toBe(0.55);
    await moveCursor(came.id, { by: 1 });
    expect(
      (await benchView(came.id)).state.materials.find(({ name }) => name === 'Brass')?.channels.roughness
        ?.value,
    ).toBe(0.65);
  });

  it('that was tampered with is refused by what is wrong, and nothing of it is on the shelf', async () => {
    const { assets } = await send('Sound', await quay());
    const { stream } = await exportAsset(assets.quay);
    const sound = unzipSync(await buffer(stream));
    const manifest = JSON.parse(strFromU8(sound['asset.json']));
    const total = (await shelfPage()).total;
    const refusal = async (change: (list: Record<string, Uint8Array>, words: typeof manifest) => void) => {
      const [list, words] = [{ ...sound }, structuredClone(manifest)];
      change(list, words);
      const { parcel } = await send('Tampered', {
        'tampered.zip': zipSync({ ...list, 'asset.json': strToU8(JSON.stringify(words)) }),
      });
      const { state, faults } = await findParcel(parcel);
      expect([state, faults[0].code]).toEqual(['failed', expect.stringMatching(/^(import|edit)\./)]);
      return faults[0].message;
    };
    const content = `files/${manifest.files[0].sha256}`;
    expect(await refusal((list) => Reflect.set(list, content, strToU8('other')))).toContain(
      'is not what the list says',
    );
    expect(await refusal((list) => Reflect.deleteProperty(list, content))).toContain('is missing');
    expect(await refusal((_, words) => Reflect.set(words.files[0], 'path', '../quay.mtl'))).toContain(
      'leads out of the parcel',
    );
    expect(
      await refusal((_, words) => words.edits.push({ edit: { kind: 'eat' }, act: 1, text: '' })),
    ).toContain('"eat" is no kind of edit');
    expect(await refusal((_, words) => Reflect.set(words, 'cursor', 3))).toContain(
      'more edits are in force than it holds',
    );
    expect(await refusal((_, words) => Reflect.set(words, 'kinkajouAsset', 2))).toContain(
      'another version of Kinkajou',
    );
    expect((await shelfPage()).total).toBe(total);
  });
});

describe('a backup', () => {
  it('brings database and contents to another machine, and is never written over', async () => {
    const { assets } = await send('Precious', await quay());
    await requestHandoffs(assets.quay, [{ destination: 'web-gltf', choices: {} }]);
    await work();
    await addEdits(assets.quay, [
      {
        kind: 'setValues',
        slots: [{ material: 'Brass', channel: 'roughness' }],
        value: 0.55,
        origin: { from: 'hand', detail: '' },
      },
    ]);
    const file = join(folder, 'quay.backup');
    const made = await backUp(file);
    expect([made.lacking, made.blobs > 3]).toEqual([[], true]);
    await expect(backUp(file)).rejects.toMatchObject({ code: 'out.occupied' });
    expect((await readdir(folder)).filter((name) => name.includes('backup'))).toEqual(['quay.backup']);

    const other = {
      DATABASE_URL: await otherDatabase('kinkajou_restored'),
      KINKAJOU_DATA: join(folder, 'other'),
    };
    await mkdir(other.KINKAJOU_DATA);
    expect(await program(['restore', file], other)).toMatchObject({
      exit: 0,
      err: '',
      out: expect.stringContaining(`with ${made.blobs} contents`),
    });
    const doctor = JSON.parse((await program(['doctor', '--json'], other)).out).checked as {
      part: string;
      ok: boolean;
      text: string;
    }[];
    expect(doctor.filter(({ ok }) => !ok).map(({ part }) => part)).toEqual(['workers']);
    const { default: pg } = await import('pg');
    const client = new pg.Client({ connectionString: other.DATABASE_URL });
    await client.connect();
    const { rows } = await client.query(
      'select a.cursor, e.edit from assets a join edits e on e.asset_id = a.id where a.id = $1',
      [assets.quay],
    );
    await client.end();
    expect(rows).toEqual([{ cursor: 1, edit: expect.objectContaining({ kind: 'setValues', value: 0.55 }) }]);
    for (const { sha256: hash } of await assetImages(await findAsset(assets.quay)))
      expect(
        sha256(await readFile(join(other.KINKAJOU_DATA, 'blobs', hash.slice(0, 2), hash.slice(2, 4), hash))),
      ).toBe(hash);

    // A second time there is something there.
    expect(await program(['restore', file], other)).toMatchObject({
      exit: 2,
      err: expect.stringMatching(/the database holds \d+ parcels/),
    });
  });

  it('that is none, or was changed, is refused before anything is touched', async () => {
    const other = {
      DATABASE_URL: await otherDatabase('kinkajou_refused'),
      KINKAJOU_DATA: join(folder, 'refused'),
    };
    const bad = join(folder, 'bad.backup');
    const attempt = async (content: Uint8Array) => {
      await writeFile(bad, content);
      return restore(bad);
    };
    await expect(attempt(strToU8('no zip'))).rejects.toMatchObject({
      code: expect.stringContaining('zip'),
      place: { file: bad },
    });
    await expect(attempt(zipSync({ 'notes.txt': strToU8('x') }))).rejects.toMatchObject({
      code: 'restore.broken',
      place: { file: bad },
    });
    const manifest = { kind: 'kinkajou backup', version: 1, made: '', blobs: 1, lacking: [] };
    const changed = zipSync({
      'database.dump': strToU8('x'),
      'manifest.json': strToU8(JSON.stringify(manifest)),
      [`blobs/${'0'.repeat(64)}`]: strToU8('y'),
    });
    await writeFile(bad, changed);
    expect(await program(['restore', bad], other)).toMatchObject({
      exit: 2,
      err: expect.stringContaining('is not what its name says'),
    });
    const newer = zipSync({
      'database.dump': strToU8('x'),
      'manifest.json': strToU8(JSON.stringify({ ...manifest, version: 2 })),
    });
    await expect(attempt(newer)).rejects.toMatchObject({ code: 'restore.newer' });
    expect(await here('backup')).toMatchObject({
      exit: 2,
      err: expect.stringMatching(/missing required argument 'file'/),
    });
    expect(await here('sweep', '--dry')).toMatchObject({
      exit: 2,
      err: expect.stringMatching(/unknown option '--dry'/),
    });
    expect(await here('sweep', '--hours', 'many')).toMatchObject({
      exit: 2,
      err: expect.stringContaining('--hours is "many"'),
    });
    expect(
      await program(['doctor'], { ...other, DATABASE_URL: 'postgres://x:y@127.0.0.1:1/none' }),
    ).toMatchObject({
      exit: 2,
      err: expect.stringContaining('the database does not answer'),
    });
  });
});
