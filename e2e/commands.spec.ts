import { expect, test } from '@playwright/test';
import { foldView, sendFenders } from './parcels.ts';

test.beforeEach(({ page }) => foldView(page));

test('whatever can be done is found by its words, run by Enter, and listed with its key', async ({
  page,
  request,
}) => {
  const { 'colour.dataAsColour': fender } = await sendFenders(request, ['colour.dataAsColour']);
  await page.goto(`/assets/${fender}/slots`);
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
  const list = page.getByRole('dialog', { name: 'Commands' });
  const found = list.getByRole('option');

  await page.keyboard.press('Control+k');
  await page.keyboard.type('go to col');
  await expect(found.first()).toHaveText(/Go to Colour.*4/);
  await page.keyboard.press('Enter');
  await expect(list).toBeHidden();
  await expect(page).toHaveURL(/\/colour$/);

  // What is done from the list is undone like anything else.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('all that is safe');
  await page.keyboard.press('Enter');
  await expect(page.getByText('nothing is open', { exact: false })).toBeVisible();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('undo');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Mend all that is safe (1)' })).toBeVisible();

  // Keys are typed in the list, not obeyed; what holds on another step is not offered here.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('fill the selection');
  await expect(list.getByText('Nothing of that name can be done or found here.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(list).toBeHidden();
  await expect(page).toHaveURL(/\/colour$/);

  // Materials, images and assets are found by their names, wherever one is.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('rubber');
  await expect(found.filter({ hasText: /^Rubber/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/slots$/);
  await page.keyboard.press('Control+k');
  await page.keyboard.type('berth_');
  await expect(list.getByRole('group', { name: 'Assets' }).getByRole('option').first()).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(list).toBeHidden();
  await page.keyboard.press('4');
  await expect(page).toHaveURL(/\/colour$/);

  // So is what new images can be made, away from Surface too.
  await page.keyboard.press('Control+k');
  await page.keyboard.type('make glossiness');
  await expect(found.first()).toHaveText(/^To spec.gloss/);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: 'To spec/gloss' })).toBeVisible();
  await page.keyboard.press('Escape');

  await page.keyboard.press('?');
  const keys = page.getByRole('dialog', { name: 'Keys' });
  await expect(keys.getByText('Fill the selection down from its top')).toBeVisible();
  await page.keyboard.press('Escape');

  await page.keyboard.press('Control+k');
  await page.keyboard.type('go to the shelf');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Shelf' })).toBeVisible();
  await page.keyboard.press('/');
  await expect(page.getByLabel('Search the shelf')).toBeFocused();
  // What is typed into a field is no command.
  await page.keyboard.type('1?');
  await expect(page.getByLabel('Search the shelf')).toHaveValue('1?');
  await expect(page.getByRole('dialog')).toHaveCount(0);
});
