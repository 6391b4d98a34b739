import { convertAsset } from '@kinkajou/core/convert';
import { writeModel } from '@kinkajou/core/formats/writeModel';
import { encodeImage } from '@kinkajou/core/images/encode';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { createDocument, createMesh, createNode, type SceneDocument } from '@kinkajou/core/scene/document';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { expect, type Page, test } from '@playwright/test';
import { zipSync } from 'fflate';
import { encodeToKTX2 } from 'ktx2-encoder';
import sharp from 'sharp';
import { smallParcel } from '../core/src/test/harbour.ts';
import { foldView } from './parcels.ts';

async function send(page: Page, name: string, files: Record<string, Uint8Array>): Promise<void> {
  await page.goto('/intake');
  await page.getByTestId('pick-files').setInputFiles({
    name: `${name}.zip`,
    mimeType: 'application/zip',
    buffer: Buffer.from(zipSync(files, { level: 1 })),
  });
}

/** A parcel of one asset opens it by itself. */
async function opened(page: Page): Promise<void> {
  await page.waitForURL(/\/assets\/[^/]+\/\w+/);
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
}

async function openCard(page: Page, name: string): Promise<void> {
  const card = page.getByRole('link', { name: new RegExp(`^${name}\\b`) }).first();
  await expect(card).toBeVisible();
  await card.click();
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
}

test('the same buoy opens from USD and from glTF with its maps in place', async ({ page }) => {
  await foldView(page);
  const parcel = await smallParcel(channelBuoy, 256);
  const path = Object.keys(parcel.files).find((name) => name.endsWith('.fbx')) as string;
  const asset = await openAsset(memorySource('channel-buoy', parcel.files), path);
  const files: Record<string, Uint8Array> = {};
  for (const [folder, name] of [
    ['package', 'buoy_package.usdz'],
    ['crate', 'buoy_crate.usdc'],
    ['web', 'buoy_web.glb'],
  ]) {
    for (const [file, bytes] of (await convertAsset(asset, name)).files) files[`${folder}/${file}`] = bytes;
  }
  await send(page, 'buoys', files);
  // Several stand as cards, worst first, and are mended or handed off from there.
  const cards = page.getByRole('region', { name: 'Buoys, arrived' });
  await expect(cards.getByRole('link', { name: /^Open buoy_/ })).toHaveCount(3);
  await expect(cards.getByRole('button', { name: 'Mend all that is safe' })).toBeEnabled();
  await cards.getByRole('button', { name: 'Select all 3 on the shelf' }).click();
  await expect(page.getByText('3 selected')).toBeVisible();
  for (const name of ['buoy_package', 'buoy_crate', 'buoy_web']) {
    await page.goto('/');
    await openCard(page, name);
    await page.keyboard.press('3');
    const slot = page.locator('[data-slot$="/baseColor"][aria-label*="fender" i]').first();
    await expect(slot).toHaveAttribute('aria-label', /, sRGB/);
    await expect(slot).not.toHaveAttribute('aria-label', /missing|broken/);
  }
});

/** A quay bollard as a plain box of the given size in the file's unit, 0.01 m. */
function bollard(height: number): SceneDocument {
  const document = createDocument('fbx', 'binary 7.5');
  Object.assign(document, { generator: 'Quayside Exporter 2.1', metresPerUnit: 0.01, unitStated: true });
  const points = Float64Array.from(
    [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [i & 1 ? 20 : -20, i & 2 ? height : 0, i & 4 ? 20 : -20]),
  );
  const corners = Uint32Array.from([0, 2, 3, 1, 4, 5, 7, 6, 0, 1, 5, 4, 2, 6, 7, 3, 0, 4, 6, 2, 1, 3, 7, 5]);
  document.meshes.push(
    createMesh('bollard', { points, faceCounts: new Uint32Array(6).fill(4), faceCorners: corners }),
  );
  document.nodes.push(createNode('bollard', 'mesh', -1, { mesh: 0 }));
  return document;
}

test('the unit chosen at intake changes the size, is undone, and is remembered for the program', async ({
  page,
}) => {
  await foldView(page);
  const model = (name: string, height: number) => ({
    [name]: writeModel(bollard(height), name).files.get(name) as Uint8Array,
  });
  await send(page, 'bollard', model('bollard_a.fbx', 90));
  await opened(page);
  await page.keyboard.press('1');
  const panel = page.getByRole('form', { name: 'What to take' });
  await expect(panel.getByText('0.400 × 0.900 m', { exact: true })).toBeVisible();
  await panel.getByLabel('Unit').selectOption('inches');
  await expect(panel.getByText('1.02 × 2.29 m')).toBeVisible();
  await expect(panel.getByText('stated: 0.400 × 0.900 m')).toBeVisible();
  await panel.getByRole('button', { name: 'Take it so' }).click();
  await expect(panel.getByRole('button', { name: 'Take it so' })).toBeDisabled();
  await page.keyboard.press('Escape');
  await page.getByRole('heading', { name: 'Docket' }).click();
  await page.keyboard.press('Control+z');
  await expect(panel.getByLabel('Unit')).toHaveValue('');
  await page.keyboard.press('Control+Shift+z');
  await expect(panel.getByLabel('Unit')).toHaveValue('0.0254');
  await panel.getByLabel('Size, times').fill('0.1');
  await panel.getByRole('button', { name: 'Take it so' }).click();
  await expect(panel.getByRole('button', { name: 'Take it so' })).toBeDisabled();

  await send(page, 'second', model('bollard_b.fbx', 45));
  await opened(page);
  await page.keyboard.press('1');
  // The unit holds for the program, the size for the one model.
  await expect(panel.getByText('1.02 × 1.14 m')).toBeVisible();
  await expect(page.getByText('Taken as the last one')).toBeVisible();
  await panel.getByRole('button', { name: 'As stated' }).click();
  await expect(page.getByText('Taken as the last one')).toBeHidden();
  await expect(panel.getByText('0.400 × 0.450 m')).toBeVisible();
});

test('pictures of every image type are drawn', async ({ page, request }) => {
  const [width, height] = [32, 32];
  const data = Uint8Array.from({ length: width * height * 4 }, (_, i) => [200, 90, 30, 255][i & 3]);
  // The curve of IEC 61966-2-1 above its straight part, where all these values lie.
  const floats = Float32Array.from(data, (value) => ((value / 255 + 0.055) / 1.055) ** 2.4);
  const eight = { width, height, components: 4, data };
  const images: Record<string, Uint8Array> = {
    'rope.ktx2': await encodeToKTX2(data, {
      isUASTC: true,
      generateMipmap: false,
      imageDecoder: async () => ({ width, height, data }),
    }),
    'rope_a.tga': await encodeImage(eight, 'tga'),
    'rope_b.exr': await encodeImage({ ...eight, data: floats }, 'exr'),
    'rope_c.tif': await encodeImage(
      { ...eight, data: Uint16Array.from(data, (value) => value * 257) },
      'tiff',
    ),
    'rope_d.webp': await encodeImage(eight, 'webp'),
    'rope_e.jpg': await encodeImage(eight, 'jpeg'),
  };
  await send(page, 'ropes', {
    'rope_stand.fbx': writeModel(bollard(30), 'rope_stand.fbx').files.get('rope_stand.fbx') as Uint8Array,
    ...images,
  });
  await opened(page);
  const id = /assets\/([^/]+)/.exec(page.url())?.[1];
  const view = await (await request.get(`/api/assets/${id}`)).json();
  expect(view.images.map((image: { path: string }) => image.path).sort()).toEqual(Object.keys(images).sort());
  for (const image of view.images) {
    const answer = await request.get(`/api/pictures/${image.sha256}?size=96`);
    expect(answer.ok(), image.path).toBe(true);
    const pixels = await sharp(await answer.body())
      .removeAlpha()
      .raw()
      .toBuffer();
    for (let k = 0; k < 3; k += 1)
      expect(
        Math.abs(pixels[k] - data[k]),
        `${image.path} ${Array.from(pixels.subarray(0, 3))}`,
      ).toBeLessThan(8);
  }
});
