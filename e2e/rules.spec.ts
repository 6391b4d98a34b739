import { PARCELS } from '@kinkajou/demo/harrowQuay';
import { expect, test } from '@playwright/test';
import { sendParcel } from './parcels.ts';

test('what was done to one asset becomes a rule, is changed, tried on others, applied and undone', async ({
  page,
  request,
}) => {
  const { files } = await PARCELS['mooring-stair']();
  const only = Object.fromEntries(Object.entries(files).filter(([path]) => /yard\.usda|timber/.test(path)));
  // Other tests and an earlier try of this one send yards to the same shelf.
  const quay = `Quay ${Date.now()}`;
  const { yard: first } = await sendParcel(request, `${quay} one`, only);
  await sendParcel(request, `${quay} two`, only);
  const edit = {
    kind: 'renameMaterials',
    names: [{ material: 'Pitch', name: 'House_pitch' }],
    origin: { from: 'hand', detail: 'as the yard calls it' },
  };
  expect((await request.post(`/api/assets/${first}/edits`, { data: { edits: [edit] } })).ok()).toBe(true);

  await page.goto(`/assets/${first}/parts`);
  await page
    .getByRole('button', { name: /^Renamed the material/ })
    .or(page.getByText('Renamed the material', { exact: false }))
    .first()
    .waitFor();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('edit log');
  await page.keyboard.press('Enter');
  await page.getByLabel(/^Choose Renamed the material Pitch/).check();
  await page.getByRole('button', { name: 'Make rules of 1 edit' }).click();

  // The rule as a sentence, then with fields; what is tried is what is seen.
  const card = page.getByRole('list', { name: 'Rules, in order' }).getByRole('listitem').first();
  await expect(card).toContainText('Where the material is called Pitch');
  await card.getByRole('button', { expanded: false }).click();
  await card.getByRole('textbox', { name: 'rename the material to' }).fill('Quay_pitch');
  await card.getByRole('textbox', { name: 'rename the material to' }).press('Enter');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(card).toContainText('rename the material to Quay_pitch');

  const panel = page.getByRole('complementary', { name: 'Try and apply' });
  await panel.getByPlaceholder('the whole shelf, or words of names').fill(quay);
  await panel.getByRole('button', { name: 'Try' }).click();
  // What a hand named is asked about; the other is renamed.
  await expect(panel.getByRole('status')).toHaveText('Would change 1 of 2 assets, asks in 1');
  await expect(panel.getByRole('img', { name: 'as it is' })).toBeVisible();
  await expect(panel.getByText('looks the same')).toBeVisible();
  await panel.getByRole('button', { name: 'Apply' }).click();
  await expect(panel.getByRole('status')).toHaveText('Changed 1 of 2 assets, asks in 1');
  // The last of all runs comes first.
  const last = panel.getByRole('region', { name: 'Runs' }).getByRole('listitem').first();
  await expect(last).toContainText('1 asset');
  await last.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Undone in 1 asset')).toBeVisible();
  await expect(last).toContainText('undone in 1');

  // What it said before is said again, and it tells where it was used.
  await page.getByRole('button', { name: 'History' }).click();
  const history = page.getByRole('dialog', { name: /^History of From yard/ });
  await expect(history.getByText('No asset bears an edit of it')).toBeVisible();
  await expect(history.getByText('then changed:')).toBeVisible();
  await history.getByRole('button', { name: 'Take this one' }).click();
  await expect(card).toContainText('rename the material to House_pitch');

  // A built-in one is copied before it is changed; wrong fields are told by rule.
  await page.getByRole('button', { name: 'Parts in order' }).click();
  await page.getByRole('button', { name: 'Copy and change' }).click();
  await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('Parts in order, own');
  await page.getByRole('button', { name: 'Earlier: Normals are there and sound' }).click();
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('list', { name: 'Rules, in order' }).getByRole('heading').first()).toHaveText(
    'Normals are there and sound',
  );
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByText('Parts in order, own was removed')).toBeVisible();
});
