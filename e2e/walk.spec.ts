import { readFile } from 'node:fs/promises';
import { NodeIO } from '@gltf-transform/core';
import { parcelZip } from '@kinkajou/demo/harrowQuay';
import { stormLantern } from '@kinkajou/demo/stormLantern';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { smallParcel } from '../core/src/test/harbour.ts';
import { foldView } from './parcels.ts';

/** Texels along the lantern's images. */
const SIDE = 256;

test.beforeEach(({ page }) => foldView(page));

test('from a dropped zip to a handed-over asset', async ({ page }) => {
  const parcel = await smallParcel(stormLantern, SIDE);
  const zip = Buffer.from(await parcelZip(parcel));
  await page.goto('/intake');
  await page
    .getByTestId('pick-files')
    .setInputFiles({ name: 'storm-lantern.zip', mimeType: 'application/zip', buffer: zip });
  // One asset opens by itself, where its first doubt is.
  await page.waitForURL(/\/assets\/[^/]+\/links/);
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();

  await page.keyboard.press('2');
  await expect(page.locator('[data-link="lantern_brass_normal.png"]')).toHaveAttribute(
    'data-status',
    'missing',
  );
  await page.getByRole('button', { name: /Link safe/ }).click();
  await expect(page.locator('[data-link="lantern_brass_normal.png"]')).toHaveAttribute(
    'data-status',
    'found',
  );
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-link="lantern_brass_normal.png"]')).toHaveAttribute(
    'data-status',
    'missing',
  );
  await page.keyboard.press('Control+Shift+z');
  await expect(page.locator('[data-link="lantern_brass_normal.png"]')).toHaveAttribute(
    'data-status',
    'found',
  );

  await page.keyboard.press('3');
  await page.getByRole('button', { name: 'Use inverted' }).click();
  await expect(page.locator('[data-slot="Brass/roughness"]')).toHaveAttribute(
    'aria-label',
    /glossiness.*inverted/,
  );
  await page.getByRole('button', { name: /Mend all that is safe/ }).click();
  await expect(page.locator('[data-slot="Brass/occlusion"]')).toHaveAttribute(
    'aria-label',
    /lantern_brass_ao/,
  );

  await page.keyboard.press('8');
  await page.getByRole('button', { name: 'Make the package' }).click();
  const link = page.getByRole('link', { name: 'Download' });
  await expect(link).toBeVisible();
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()]);
  const { unzipSync } = await import('fflate');
  const files = unzipSync(await readFile(await download.path()));
  const receipt = JSON.parse(new TextDecoder().decode(files['receipt.json']));
  expect(receipt.readBack.validator.errors).toBe(0);
  const gltf = await new NodeIO().readBinary(new Uint8Array(files['lantern.glb']));
  const brass = gltf
    .getRoot()
    .listMaterials()
    .find((material) => material.getName() === 'Brass');
  const pixels = async (bytes: Uint8Array | null | undefined) => {
    const { data, info } = await sharp(bytes as Uint8Array)
      .raw()
      .toBuffer({ resolveWithObject: true });
    return {
      size: [info.width, info.height],
      at: (i: number, component: number) => data[i * info.channels + Math.min(component, info.channels - 1)],
    };
  };
  const given = (name: string) => pixels(parcel.files[`storm-lantern/textures/${name}`]);
  const [base, packed, normal] = [
    await pixels(brass?.getBaseColorTexture()?.getImage()),
    await pixels(brass?.getMetallicRoughnessTexture()?.getImage()),
    await pixels(brass?.getNormalTexture()?.getImage()),
  ];
  expect(brass?.getOcclusionTexture()).toBe(brass?.getMetallicRoughnessTexture());
  const [colour, ao, gloss, metal, bumps] = [
    await given('lantern_brass_basecolor.png'),
    await given('lantern_brass_ao.png'),
    await given('lantern_brass_glossiness.png'),
    await given('lantern_brass_metalness.png'),
    await given(
      Object.keys(parcel.files)
        .find((path) => /brass_normal/.test(path))
        ?.replace('storm-lantern/textures/', '') ?? '',
    ),
  ];
  for (const image of [base, packed, normal]) expect(image.size).toEqual([SIDE, SIDE]);
  for (let i = 0; i < SIDE * SIDE; i += 499) {
    expect([0, 1, 2].map((k) => packed.at(i, k))).toEqual([
      ao.at(i, 0),
      255 - gloss.at(i, 0),
      metal.at(i, 0),
    ]);
    expect([0, 1, 2].map((k) => base.at(i, k))).toEqual([0, 1, 2].map((k) => colour.at(i, k)));
    expect([0, 1, 2].map((k) => normal.at(i, k))).toEqual([0, 1, 2].map((k) => bumps.at(i, k)));
  }
});

test('a parcel without a model says so, and the server stays up', async ({ page, request }) => {
  await page.goto('/intake');
  await page
    .getByTestId('pick-files')
    .setInputFiles({ name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('nothing here') });
  await expect(page.getByText('there is no model in it')).toBeVisible();
  expect((await request.get('/api/health')).ok()).toBe(true);
});
