import { readFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import { sendFenders } from './parcels.ts';

test('an asset is removed after a look at what goes with it, brought back twice, exported and dropped again with its log', async ({
  page,
  request,
}) => {
  const id = (await sendFenders(request, ['colour.dataAsColour']))['colour.dataAsColour'];
  const edit = {
    kind: 'setAlpha',
    materials: ['Rubber'],
    change: { doubleSided: true },
    origin: { from: 'hand', detail: '' },
  };
  expect((await request.post(`/api/assets/${id}/edits`, { data: { edits: [edit] } })).ok()).toBe(true);
  const { name } = await (await request.get(`/api/assets/${id}`)).json();
  await page.goto('/');
  // Others of the same name may lie beside it.
  const card = page.locator('li[data-asset]').filter({ has: page.locator(`a[href*="${id}"]`) });
  await card.getByRole('button', { name: `Remove ${name}` }).focus();
  await page.keyboard.press('Enter');
  const dialog = page.getByRole('dialog', { name: `Remove ${name}?` });
  await expect(dialog.getByText('1 edit in its log, 0 handoffs, 0 newer deliveries')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
  await card.getByRole('button', { name: `Remove ${name}` }).click();
  await dialog.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(card).toBeHidden();
  expect((await request.get(`/api/assets/${id}`)).status()).toBe(404);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(card).toBeVisible();

  await card.getByRole('button', { name: `Remove ${name}` }).click();
  await dialog.getByRole('button', { name: 'Remove', exact: true }).click();
  await page.getByRole('button', { name: 'removed', exact: true }).click();
  await page.getByRole('button', { name: `Bring ${name} back` }).click();
  await expect(page.getByText('Nothing was removed.')).toBeVisible();
  await page.getByRole('button', { name: 'removed', exact: true }).click();

  const exported = page.waitForEvent('download');
  await card.hover();
  await card.getByRole('link', { name: `Export ${name}` }).click();
  const file = await exported;
  expect(file.suggestedFilename()).toBe(`${name}.asset.zip`);
  await page.goto('/intake');
  const before = (await (await request.get('/api/shelf')).json()).total;
  const dropped = {
    name: file.suggestedFilename(),
    mimeType: 'application/zip',
    buffer: await readFile(await file.path()),
  };
  await page.locator('input[type=file]:not([webkitdirectory])').first().setInputFiles(dropped);
  await expect.poll(async () => (await (await request.get('/api/shelf')).json()).total).toBe(before + 1);
  const [came] = (await (await request.get('/api/shelf?sort=changed&limit=1')).json()).assets;
  expect(came).toMatchObject({ name, lastEdit: expect.stringContaining('Rubber') });
});
