import { expect, test } from '@playwright/test';
import { sendFenders } from './parcels.ts';

// A key press while a stop moves to the next one is lost.
test.use({ contextOptions: { reducedMotion: 'reduce' } });

test('a newcomer is shown five stops of the bench by keys, once', async ({ page, request }) => {
  await sendFenders(request, ['link.missing']);
  await page.goto('/');
  await page.getByRole('button', { name: 'Take the tour' }).click();
  const stop = page.getByRole('dialog').filter({ hasText: 'of 5' });
  const titles = [
    'What is wrong, worst first',
    'Every map in its slot',
    'What it looks like',
    'Eight steps, none of them in your way',
    'Hand it over, with proof',
  ];
  for (const [i, title] of titles.entries()) {
    await expect(stop).toContainText(title);
    await expect(stop).toContainText(`Stop ${i + 1} of 5`);
    // Keys of the bench wait until the tour is over: N would go to the next finding, 8 to the handoff.
    await page.keyboard.press('8');
    if (i < titles.length - 1) await page.keyboard.press('ArrowRight');
  }
  await expect(page).toHaveURL(/\/slots$/);
  await page.keyboard.press('Escape');
  await expect(stop).toBeHidden();

  // What was taken is not offered again, but it can be had.
  await page.goto('/');
  await expect(
    page
      .getByRole('button', { name: /^Open|Hand off/ })
      .or(page.getByRole('heading', { name: 'Shelf' }))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'Take the tour' })).toBeHidden();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('tour of');
  await page.keyboard.press('Enter');
  await expect(stop).toContainText('Stop 1 of 5');
  await page.keyboard.press('Escape');
  await expect(stop).toBeHidden();
});
