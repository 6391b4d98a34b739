import { cp, mkdir, mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { encodePng } from '@kinkajou/core/images/encode';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { fendersOf } from '@kinkajou/demo/cargoFenders';
import { type APIRequestContext, expect, test } from '@playwright/test';
import { foldView, leaveDialog, looked, sendFenders, sendParcel } from './parcels.ts';

const CLEAN = 40;
const NAME = `berth_${CLEAN}`;

/** A plain image of one hue with some grain, told apart by its content. */
function picture(hue: number): Promise<Uint8Array> {
  return encodePng({
    width: 64,
    height: 64,
    components: 3,
    data: new Uint8Array(64 * 64 * 3).map((_, i) => (i % 3 === hue ? 190 : 60) + (i % 17)),
  });
}

async function contentOf(request: APIRequestContext, id: string, key: RegExp): Promise<string | undefined> {
  const view = await (await request.get(`/api/assets/${id}`)).json();
  const entry = view.state.images.find((image: { written: string }) => key.test(image.written));
  return view.images.find((image: { path: string }) => image.path === entry?.resolved)?.sha256;
}

test.beforeEach(({ page }) => foldView(page));

test('a newer delivery replaces by name, keeps the edits, says what changed and can be taken back', async ({
  page,
  request,
}) => {
  const { files } = await fendersOf([CLEAN]);
  const { [NAME]: id } = await sendParcel(request, 'Fender', files);
  await looked(request, id);
  const first = await contentOf(request, id, /basecolor/);
  await page.goto(`/assets/${id}/slots`);
  await page.locator('[data-slot="Rubber/roughness"]').click();
  await page.keyboard.press('i');
  await expect(page.locator('[data-slot="Rubber/roughness"]')).toHaveAttribute('aria-label', /inverted/);

  await page.keyboard.press('2');
  await page.getByRole('button', { name: 'Deliveries' }).click();
  const newer = await picture(1);
  await page.getByTestId('delivery-files').setInputFiles([
    { name: `${NAME}_basecolor.png`, mimeType: 'image/png', buffer: Buffer.from(newer) },
    { name: `${NAME}_ao.png`, mimeType: 'image/png', buffer: Buffer.from(await picture(2)) },
  ]);
  const summary = page.getByTestId('delivery');
  await expect(summary).toContainText('replaced (1)');
  await expect(summary).toContainText(`cargo-fenders/${NAME}/${NAME}_basecolor.png`);
  await expect(summary).toContainText('new (1)');
  expect(await contentOf(request, id, /basecolor/)).toBe(sha256(newer));
  await leaveDialog(page);
  await page.keyboard.press('3');
  await expect(page.locator('[data-slot="Rubber/roughness"]')).toHaveAttribute('aria-label', /inverted/);

  // A step that is only just there may not hear the keys yet.
  await expect(async () => {
    await page.keyboard.press('2');
    await page.getByRole('button', { name: 'Deliveries' }).click({ timeout: 10_000 });
  }).toPass();
  await page.getByRole('button', { name: 'Take back' }).click();
  await expect(page.getByText('The asset stands as it was first delivered.')).toBeVisible();
  expect(await contentOf(request, id, /basecolor/)).toBe(first);
});

test('a watched folder brings a re-export in by itself', async ({ page, request }) => {
  const { files } = await fendersOf([CLEAN + 1]);
  const name = `berth_${CLEAN + 1}`;
  const { [name]: id } = await sendParcel(request, 'Watched fender', files);
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-watch-'));
  await page.goto(`/assets/${id}/links`);
  await page.getByRole('button', { name: 'Deliveries' }).click();
  await page.getByLabel('Folder to watch').fill(folder);
  await page.getByRole('button', { name: 'Watch', exact: true }).click();
  await expect(page.getByText('watching: a re-export there')).toBeVisible();
  const again = await picture(0);
  await expect(async () => {
    // The watch begins with the worker's next look; a file that came before it is taken as well.
    await writeFile(join(folder, `${name}_basecolor.png`), again);
    expect(await contentOf(request, id, /basecolor/)).toBe(sha256(again));
  }).toPass({ intervals: [1000] });
  await expect(page.getByTestId('delivery')).toContainText('replaced (1)');
  await page.getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByRole('button', { name: 'Stop' })).toBeHidden();
});

test('a search folder holds what the parcel lacks; linked, it becomes part of the asset', async ({
  page,
  request,
}) => {
  const { 'link.missing': id } = await sendFenders(request, ['link.missing']);
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-library-'));
  await mkdir(join(folder, 'rubber'));
  const bytes = await picture(0);
  await writeFile(join(folder, 'rubber/berth_01_basecolor.png'), bytes);
  await cp(join(folder, 'rubber/berth_01_basecolor.png'), join(folder, 'other.png'));
  await page.goto('/settings');
  await page.getByLabel('Folder to search').fill('/proc');
  await page.getByRole('button', { name: 'Add folder' }).click();
  await expect(page.getByText(/this folder may not be read/)).toBeVisible();
  await page.getByLabel('Folder to search').fill(folder);
  await page.getByRole('button', { name: 'Add folder' }).click();
  await expect(page.getByText(/2 images, indexed/)).toBeVisible();

  await page.goto(`/assets/${id}/links`);
  const candidate = page.locator('[data-candidate^="search/"]');
  await expect(candidate).toContainText('same name');
  await candidate.click();
  await expect(page.locator('[data-link="berth_01_basecolor.png"]')).toHaveAttribute('data-status', 'found');
  await expect.poll(() => contentOf(request, id, /basecolor/)).toBe(sha256(bytes));

  await page.goto('/settings');
  const remove = page.getByRole('button', { name: `Remove ${folder}` });
  await remove.click();
  await expect(remove).toBeHidden();
  expect(await contentOf(request, id, /basecolor/)).toBe(sha256(bytes));
});

test('an uploaded image whose name is here already is asked about once: reuse, replace or keep both', async ({
  page,
  request,
}) => {
  const { files } = await fendersOf([CLEAN + 2]);
  const name = `berth_${CLEAN + 2}`;
  const { [name]: id } = await sendParcel(request, 'Fender again', files);
  const first = await contentOf(request, id, /basecolor/);
  const newer = await picture(2);
  const upload = async (answer: string) => {
    await page
      .getByTestId('add-images')
      .setInputFiles({ name: `${name}_basecolor.png`, mimeType: 'image/png', buffer: Buffer.from(newer) });
    await page.getByRole('button', { name: new RegExp(`^${answer}`) }).click();
  };
  await page.goto(`/assets/${id}/links`);
  await expect(page.locator(`[data-link="${name}_basecolor.png"]`)).toBeVisible();
  await upload('Reuse');
  await expect(page.getByText('The images that are here already are used.')).toBeVisible();
  await upload('Keep both');
  await expect
    .poll(async () => (await (await request.get(`/api/assets/${id}`)).json()).images.length)
    .toBe(4);
  expect(await contentOf(request, id, /basecolor/)).toBe(first);
  await upload('Replace');
  await expect.poll(() => contentOf(request, id, /basecolor/)).toBe(sha256(newer));
  await page.keyboard.press('Control+z');
  await expect.poll(() => contentOf(request, id, /basecolor/)).toBe(first);
});
