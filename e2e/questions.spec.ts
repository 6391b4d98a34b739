import { expect, type Page, test } from '@playwright/test';
import { foldView, sendFenders } from './parcels.ts';

interface View {
  findings: { code: string; severity: string }[];
  state: {
    materials: { key: string; channels: Record<string, { map: { image: string } | null }> }[];
    images: { key: string; resolved: string | null }[];
  };
}

const read = async (page: Page, id: string): Promise<View> =>
  (await page.request.get(`/api/assets/${id}`)).json();

/** The files that the slots of the one material read, by channel. */
async function filesOf(page: Page, id: string): Promise<Record<string, string>> {
  const { state } = await read(page, id);
  const paths = new Map(state.images.map(({ key, resolved }) => [key, resolved ?? '']));
  const [{ channels }] = state.materials;
  return Object.fromEntries(
    Object.entries(channels).flatMap(([name, { map }]) =>
      map ? [[name, (paths.get(map.image) ?? '').replace(/^.*\/(?=(wet|dry)\/)/, '')]] : [],
    ),
  );
}

test('a question is answered by looking: one answer settles every channel, is undone, remembered and forgotten', async ({
  page,
  request,
}) => {
  await foldView(page);
  const { 'set.ambiguous': id } = await sendFenders(request, ['set.ambiguous']);
  await page.goto(`/assets/${id}/slots`);
  await expect(page.locator('[data-finding="set.ambiguous"]')).toBeVisible();
  await page.keyboard.press('q');
  const candidates = page.getByRole('option');
  await expect(candidates).toHaveCount(2);
  await expect(candidates.first()).toContainText('dry');
  await expect(candidates.first().locator('figure')).toHaveCount(3);

  // Escape leaves it open and changes nothing.
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('question')).toHaveCount(0);
  expect(await filesOf(page, id)).toEqual({});

  await page
    .locator('[data-finding="set.ambiguous"]')
    .getByRole('button', { name: 'Choose', exact: true })
    .click();
  await page.keyboard.press('ArrowDown');
  await expect(candidates.nth(1)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('question')).toHaveCount(0);
  await expect
    .poll(() => filesOf(page, id))
    .toEqual(
      Object.fromEntries(
        [
          ['baseColor', 'basecolor'],
          ['normal', 'normal'],
          ['roughness', 'roughness'],
        ].map(([channel, word]) => [channel, expect.stringMatching(`^wet/berth_\\d+_${word}\\.png$`)]),
      ),
    );
  expect((await read(page, id)).findings.filter(({ severity }) => severity !== 'note')).toEqual([]);

  // Undone, the answer is evidence: what was asked is proposed now.
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-finding="slot.candidate"]')).toBeVisible();
  await page.goto('/settings');
  await expect(page.getByRole('list', { name: 'Remembered answers' })).toContainText('rubber');
  await page.getByRole('button', { name: 'Forget all' }).click();
  await expect(page.getByText('Nothing yet.')).toBeVisible();
  expect((await read(page, id)).findings.map(({ code }) => code)).toContain('set.ambiguous');
});

test('words of the house are added, used and removed', async ({ page, request }) => {
  await page.goto('/settings');
  await page.getByLabel('Word', { exact: true }).fill('Farbe');
  await page.getByLabel('Channel').selectOption('baseColor');
  await page.getByRole('button', { name: 'Add word' }).click();
  await expect(page.getByRole('list', { name: 'Words of the house' })).toContainText('farbe');
  const wrong = await request.post('/api/settings/words', { data: { word: '--', channel: 'baseColor' } });
  expect(wrong.ok()).toBe(false);
  await page.getByRole('button', { name: 'Remove farbe' }).click();
  await expect(page.getByText('No word yet.')).toBeVisible();
});
