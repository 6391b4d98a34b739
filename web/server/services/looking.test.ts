import { mkdir, mkdtemp, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Edit } from '@kinkajou/core/asset/asset';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { TAKE_ALL } from '@kinkajou/core/scene/intake';
import { eq } from 'drizzle-orm';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { imageFacts } from '../db/schema.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { assetImages, findAsset } from './assetRow.ts';
import { benchView } from './benchView.ts';
import { addEdits } from './edits.ts';
import { checkHealth } from './health.ts';
import { factsOf } from './imageFacts.ts';
import { rememberedIntake } from './intake.ts';
import { listWords, removeWord, saveWord } from './knowledge.ts';
import { lookAtImages } from './lookAtImages.ts';
import { pictureOf } from './pictures.ts';
import { readPixels } from './pixels.ts';
import { addRoot, allowedFolder, listRoots, reindexRoot, removeRoot } from './searchRoots.ts';

closeAfterwards();

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-roots-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('a search folder', () => {
  it('may only lie where that is allowed', async () => {
    await expect(allowedFolder('maps')).rejects.toMatchObject({ code: 'folder.relative' });
    await expect(allowedFolder(join(folder, 'nowhere'))).rejects.toMatchObject({ code: 'folder.missing' });
    await expect(allowedFolder('/etc')).rejects.toMatchObject({ code: 'folder.notAllowed' });
    await expect(allowedFolder(join(folder, '..', '..', 'etc'))).rejects.toMatchObject({
      code: 'folder.notAllowed',
    });
    expect(await allowedFolder(folder)).toBe(folder);
  });

  it('is listed by name and content, offers what an asset lacks, and forgets what is gone', async () => {
    const shelf = join(folder, 'shelf');
    await mkdir(join(shelf, 'maps'), { recursive: true });
    const image = await plain(183, 181, 179);
    await writeFile(join(shelf, 'maps', 'stone_roughness.png'), image);
    await writeFile(join(shelf, 'notes.txt'), 'gone fishing');
    await addRoot(shelf);
    await expect(addRoot(shelf)).rejects.toMatchObject({ code: 'folder.known' });
    const own = async () => (await listRoots()).find(({ path }) => path === shelf);
    const root = await own();
    expect(root).toMatchObject({ state: 'waiting', files: 0 });
    await work();
    expect(await own()).toMatchObject({ state: 'ready', files: 1, hashed: 1 });

    const { assets } = await send('Quay', await quay({ missing: true }));
    const { candidates, further } = await benchView(assets.quay);
    const [first] = Object.entries(candidates).find(([key]) => key.includes('stone_roughness'))?.[1] ?? [];
    expect(first?.path).toMatch(/^search\/.*stone_roughness\.png$/);
    expect(further.map(({ sha256: hash }) => hash)).toContain(sha256(image));
    // A picture of it is drawn from where it lies, until it is changed there.
    expect((await pictureOf(sha256(image), 96)).type).toBe('image/webp');
    const other = await plain(23, 21, 19);
    await writeFile(join(shelf, 'maps', 'stone_roughness.png'), other);
    await utimes(join(shelf, 'maps', 'stone_roughness.png'), new Date(), new Date(Date.now() + 5000));
    await expect(pictureOf(sha256(image), 192)).rejects.toMatchObject({ code: 'notFound' });

    // Linked, it becomes part of the parcel.
    await reindexRoot(root?.id ?? 0);
    await work();
    const link: Edit = {
      kind: 'linkImages',
      links: [{ image: 'stone_roughness.png', path: first.path, reason: 'by hand' }],
      origin: { from: 'hand', detail: '' },
    };
    await addEdits(assets.quay, [link]);
    expect((await benchView(assets.quay)).findings.filter(({ code }) => code === 'link.missing')).toEqual([]);
    expect(await blobs.has(sha256(other))).toBe(true);

    await rm(join(shelf, 'maps'), { recursive: true });
    await reindexRoot(root?.id ?? 0);
    await work();
    expect(await own()).toMatchObject({ state: 'ready', files: 0 });
    await rm(shelf, { recursive: true });
    await reindexRoot(root?.id ?? 0);
    await work();
    expect((await own())?.state).toBe('failed');
    await removeRoot(root?.id ?? 0);
    expect(await own()).toBeUndefined();
    await expect(reindexRoot(root?.id ?? 0)).rejects.toMatchObject({ code: 'notFound' });
  });
});

describe('images that are looked at', () => {
  it('have facts, pictures and pixels by their content', async () => {
    const { assets } = await send('Quay', await quay());
    const images = await assetImages(await findAsset(assets.quay));
    const base = images.find(({ path }) => path === 'stone_basecolor.png');
    const hash = base?.sha256 ?? '';
    expect(await factsOf(hash)).not.toBeNull();
    expect(await factsOf('0'.repeat(64))).toBeNull();
    const { bytes, type } = await pictureOf(hash, 1024);
    expect(type).toBe('image/png');
    expect([...(await sharp(bytes).raw().toBuffer()).subarray(0, 3)]).toEqual([120, 110, 100]);
    const place = { sha256: hash, path: 'stone_basecolor.png' };
    const [inside, outside, nowhere] = await readPixels([
      { ...place, x: 3, y: 7 },
      { ...place, x: 8, y: 0 },
      { ...place, sha256: '0'.repeat(64), x: 0, y: 0 },
    ]);
    [120, 110, 100].forEach((code, k) => expect(inside?.[k]).toBeCloseTo(code / 255, 6));
    expect([outside, nowhere]).toEqual([null, null]);
  });

  it('are drawn once, however many ask at once', async () => {
    const { assets } = await send('Quay', await quay());
    const [image] = await assetImages(await findAsset(assets.quay));
    const all = await Promise.all(Array.from({ length: 6 }, () => pictureOf(image.sha256, 384)));
    expect(new Set(all.map(({ bytes }) => Buffer.from(bytes).toString('base64'))).size).toBe(1);
    await expect(pictureOf('f'.repeat(64), 96)).rejects.toMatchObject({ code: 'notFound' });
  });
});

describe('what is remembered', () => {
  it('are words of the house', async () => {
    await saveWord('glim', 'emission');
    expect(await listWords()).toContainEqual(expect.objectContaining({ word: 'glim', channel: 'emission' }));
    await saveWord('glim', 'roughness');
    expect((await listWords()).filter(({ word }) => word === 'glim')).toEqual([
      expect.objectContaining({ channel: 'roughness' }),
    ]);
    expect((await removeWord('glim')).filter(({ word }) => word === 'glim')).toEqual([]);
  });

  it('is how the unit of a source program is understood', async () => {
    const files = await quay();
    const { assets } = await send('Quay', {
      ...files,
      'quay.obj': `# Exported by Harrow Quay drawing office 4\n${files['quay.obj']}`,
    });
    const { generator } = (await benchView(assets.quay)).source;
    expect(await rememberedIntake('some other program')).toBeNull();
    await addEdits(assets.quay, [
      {
        kind: 'setIntake',
        choice: { ...TAKE_ALL, metresPerUnit: 0.01 },
        origin: { from: 'hand', detail: '' },
      } as Edit,
    ]);
    expect(generator).not.toBe('');
    expect(await rememberedIntake(generator)).toMatchObject({ kind: 'setIntake' });
  });
});

describe('health', () => {
  it('tells each part, and that no worker is there', async () => {
    const health = await checkHealth();
    expect(health).toMatchObject({ database: 'ok', blobs: 'ok' });
    expect(health.worker).toMatch(/no worker/);
    expect(health.ok).toBe(false);
  });

  it('are known as damaged where their pixels are, in this parcel and in the next, and never drawn', async () => {
    const broken = (await plain(90, 80, 70)).slice();
    // Into the packed pixels, under a good header and up to a good end.
    broken.fill(0x5a, broken.indexOf(0x49, 40) + 6, broken.length - 20);
    for (let times = 0; times < 2; times += 1) {
      const { assets } = await send(`Quay ${times}`, { ...(await quay()), 'stone_basecolor.png': broken });
      const { findings } = await benchView(assets.quay);
      expect(
        findings
          .filter(({ code }) => code === 'link.unreadable')
          .map(({ severity, subject, message }) => [severity, subject, message]),
      ).toEqual([
        ['error', 'stone_basecolor.png', 'stone_basecolor.png: its pixels are damaged or cut off.'],
      ]);
    }
    await expect(pictureOf(sha256(broken), 96)).rejects.toMatchObject({
      code: 'image.broken',
      place: { file: 'stone_basecolor.png' },
    });
  });

  it('are not drawn past the limit of pixels', async () => {
    const { assets } = await send('Quay', await quay());
    const [image] = await assetImages(await findAsset(assets.quay));
    process.env.KINKAJOU_LIMIT_PIXELS = '10';
    await expect(pictureOf(image.sha256, 2048)).rejects.toMatchObject({ code: 'limit.pixels' });
    delete process.env.KINKAJOU_LIMIT_PIXELS;
  });

  it('whose content was away, or too large for once, are looked at again another time', async () => {
    const content = await plain(71, 72, 73);
    const hash = sha256(content);
    const files = { ...(await quay()), 'stone_basecolor.png': content };
    const { assets, parcel } = await send('Away', files);
    const look = async () => {
      await db().delete(imageFacts).where(eq(imageFacts.sha256, hash));
      await lookAtImages({
        id: '',
        data: { parcelId: parcel },
        attempt: 1,
        signal: new AbortController().signal,
        progress: () => undefined,
      });
      return factsOf(hash);
    };
    const unreadable = async (id: string) =>
      (await benchView(id)).findings
        .filter(({ code }) => code === 'link.unreadable')
        .map(({ message }) => message);
    await rm(await blobs.fileOf(hash));
    expect([await look(), await unreadable(assets.quay)]).toEqual([null, []]);
    await blobs.put(content);
    expect(await look()).not.toBeNull();

    process.env.KINKAJOU_LIMIT_PIXELS = '10';
    expect(await look()).toBeNull();
    delete process.env.KINKAJOU_LIMIT_PIXELS;
    expect((await unreadable(assets.quay))[0]).toMatch(
      /^stone_basecolor\.png: 64 pixels in one image, and the limit is 10/,
    );
    const again = await send('Again', files);
    expect([await unreadable(again.assets.quay), (await factsOf(hash)) !== null]).toEqual([[], true]);
  });
});
