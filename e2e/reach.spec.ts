import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { foldView, sendFenders } from './parcels.ts';

test.beforeEach(({ page }) => foldView(page));

/** What keeps people who see little, or use the keys or a reader of screens, from what is shown. */
async function barriers(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa']).analyze();
  const { pathname } = new URL(page.url());
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(
      ({ target, failureSummary }) => `${pathname.replace(/[0-9a-f-]{36}/, 'ID')} ${id}: ${target.join(' ')} ${failureSummary?.split('\n').at(-1)?.trim()}`,
    ),
  );
}

test('every view and step can be read and reached, by day and by night', async ({ page, request }) => {
  // Some fifty views are looked at.
  test.setTimeout(420_000);
  const { 'link.missing': fender } = await sendFenders(request, ['link.missing']);
  const found: string[] = [];
  for (const theme of ['day', 'night']) {
    for (const path of [
      '/',
      '/intake',
      '/destinations',
      '/questions',
      '/rulebooks',
      '/runs',
      '/handoffs',
      '/insights',
      '/settings',
      '/help',
      '/help/findings',
      '/api',
    ]) {
      await page.goto(path);
      await page.evaluate((name) => (document.documentElement.dataset.theme = name), theme);
      await expect(page.getByRole('heading').first()).toBeVisible();
      found.push(...(await barriers(page)));
    }
    await page.goto(`/assets/${fender}/intake`);
    await page.evaluate((name) => (document.documentElement.dataset.theme = name), theme);
    await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible({ timeout: 30_000 });
    for (let step = 1; step <= 8; step += 1) {
      await page.keyboard.press(String(step));
      await expect(page.locator('nav[aria-label=Steps] a').nth(step - 1)).toHaveAttribute('aria-current', 'step');
      await page.waitForLoadState('networkidle');
      found.push(...(await barriers(page)));
    }
    await page.keyboard.press('Control+k');
    await expect(page.getByRole('dialog', { name: 'Commands' })).toBeVisible();
    found.push(...(await barriers(page)));
  }
  expect([...new Set(found)]).toEqual([]);
});
