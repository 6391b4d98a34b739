import { readFile } from 'node:fs/promises';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { expect, type Page, test } from '@playwright/test';
import sharp from 'sharp';
import { looked, sendParcel } from './parcels.ts';

const SIZE = { width: 96, height: 64 };

/** A still of the view in 8 bits, with alpha. */
async function still(page: Page, light: string): Promise<Buffer> {
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Light').selectOption(light);
  const waiting = page.waitForEvent('download', { timeout: 900_000 });
  await dialog.getByRole('button', { name: 'Take a still' }).click();
  return sharp(await readFile(await (await waiting).path()))
    .raw()
    .toBuffer();
}

/** Mean colour where the buoy covers all of a pixel, by how the view draws it. */
function bodyOf(pixels: Buffer, drawn: Buffer): number[] {
  const sums = [0, 0, 0];
  let count = 0;
  for (let i = 0; i < SIZE.width * 44 * 4; i += 4) {
    if (drawn[i + 3] < 255) continue;
    count += 1;
    for (let k = 0; k < 3; k += 1) sums[k] += pixels[i + k];
  }
  expect(count).toBeGreaterThan(200);
  return sums.map((sum) => sum / count);
}

// Where no graphics card draws, the program of the rays takes minutes to build.
test.skip(!process.env.KINKAJOU_TRACE, 'set KINKAJOU_TRACE=1 to follow light');

test('path-traced, an asset looks as in the view, and its ground is dark where it stands', async ({
  page,
  request,
}) => {
  test.setTimeout(1_800_000);
  const { files } = await channelBuoy();
  const [id] = Object.values(await sendParcel(request, 'Buoy', Object.fromEntries(Object.entries(files))));
  await looked(request, id);
  await page.goto(`/assets/${id}/surface`);
  await expect(page.locator('canvas').first()).toBeVisible();
  await page.getByRole('button', { name: 'ground', exact: true }).click();
  await expect(page.getByText('to come')).toBeHidden();
  await page.keyboard.press('t');
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Width').fill(String(SIZE.width));
  await dialog.getByLabel('Height').fill(String(SIZE.height));
  await dialog.getByRole('button', { name: 'transparent' }).click();
  const [drawn, traced] = [await still(page, '0'), await still(page, '32')];
  // Another way of drawing agrees.
  const [expected, found] = [bodyOf(drawn, drawn), bodyOf(traced, drawn)];
  for (const k of [0, 1, 2]) expect(Math.abs(found[k] - expected[k]), `of ${expected}`).toBeLessThan(20);
  // Shadow lies around the foot, black, and nothing lies above the head.
  const last = (SIZE.height - 6) * SIZE.width;
  const foot = [...traced.subarray(last * 4, (last + SIZE.width) * 4)];
  expect(Math.max(...foot.filter((_, i) => i % 4 === 3))).toBeGreaterThan(20);
  expect(Math.max(...traced.subarray(0, SIZE.width * 4).filter((_, i) => i % 4 === 3))).toBe(0);
});
