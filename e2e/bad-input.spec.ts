import { expect, test } from '@playwright/test';
import { badParcels } from './badInput.ts';
import { foldView } from './parcels.ts';

test.beforeEach(({ page }) => foldView(page));

test('every kind of bad parcel is answered in words, and what could be read is kept', async ({
  page,
  request,
}) => {
  await page.goto('/intake');
  for (const { name, bytes, says, assets } of await badParcels()) {
    await test.step(name, async () => {
      const before = (await (await request.get('/api/shelf')).json()).assets.length;
      await page
        .getByTestId('pick-files')
        .setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(bytes) });
      if (name === 'false-image.zip') {
        // What could be read opens by itself.
        await page.waitForURL(/\/assets\//);
        await expect(page.getByText('Image cannot be read')).toBeVisible();
        await page.goto('/intake');
      } else {
        const row = page
          .getByRole('list', { name: 'Parcels' })
          .getByRole('listitem')
          .filter({ hasText: says });
        await expect(row.first()).toBeVisible();
      }
      const shelf = await (await request.get('/api/shelf')).json();
      expect(shelf.assets.length - before).toBe(assets);
      const health = await (await request.get('/api/health')).json();
      expect(health.ok).toBe(true);
    });
  }
  // However many could not be read, the shelf below them is there whole.
  await page.goto('/');
  await expect(page.locator('[data-asset]').first()).toBeInViewport();
  expect(await page.locator('main').evaluate((main) => main.scrollHeight - main.clientHeight)).toBe(0);
});
