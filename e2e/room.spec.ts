import { bollardKit } from '@kinkajou/demo/bollardKit';
import { expect, type Page, test } from '@playwright/test';
import { smallParcel } from '../core/src/test/harbour.ts';
import { sendParcel } from './parcels.ts';

const widthOf = async (page: Page, name: string) =>
  (await page.getByRole('complementary', { name }).boundingBox())?.width ?? 0;

test('panels are dragged by keys and remembered, rows are dense, and the docket keeps to a step', async ({
  page,
  request,
}) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  const { kit } = await sendParcel(request, 'Kit', (await smallParcel(bollardKit, 64)).files);
  await page.goto(`/assets/${kit}/slots`);
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
  expect(await widthOf(page, 'Docket')).toBeCloseTo(278, -1);

  const handle = page.getByRole('separator', { name: 'Width of the docket' });
  await handle.focus();
  for (let i = 0; i < 3; i += 1) await page.keyboard.press('ArrowRight');
  // Each press moves what lies between by a twentieth of the whole.
  const isWide = () =>
    expect
      .poll(async () => Math.abs((await widthOf(page, 'Docket')) - (278 + (3 * 1280) / 20)))
      .toBeLessThan(4);
  await isWide();
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
  await isWide();

  // Full, folded, and at the side again, where the widths are as they were left.
  const board = page.getByRole('grid', { name: 'Slot board' });
  await page.getByRole('heading', { name: 'Docket' }).click();
  await page.keyboard.press('v');
  await expect(board).toBeHidden();
  await page.keyboard.press('v');
  await expect(page.getByRole('button', { name: /Unfold the view/ })).toBeVisible();
  await expect(board).toBeVisible();
  await page.keyboard.press('v');
  await expect(page.getByRole('complementary', { name: 'View' })).toBeVisible();
  await isWide();

  // Twelve materials are seen at once in a small window.
  await page.getByRole('button', { name: /^Rows are roomy/ }).click();
  await page.getByRole('button', { name: /^Rows are middle/ }).click();
  const box = (await board.boundingBox()) as { y: number; height: number };
  const rows = await board
    .locator('[data-material]')
    .evaluateAll((all) => all.map((row) => row.getBoundingClientRect().bottom));
  expect(rows.filter((bottom) => bottom <= box.y + box.height).length).toBeGreaterThanOrEqual(12);

  // One card for all maps that are tinted; only what the step can settle.
  const docket = page.getByRole('complementary', { name: 'Docket' });
  const tinted = docket.locator('[data-finding="surface.tint"]');
  await expect(tinted).toHaveCount(1);
  await docket.getByRole('button', { name: /^this step/ }).click();
  await expect(tinted).toHaveCount(0);
  await page.keyboard.press('5');
  await expect(tinted).toHaveCount(1);
  await tinted.getByRole('list').getByRole('button').nth(1).click();
  await expect(tinted.locator('[data-finding-focused]')).toContainText('multiplies');
});
