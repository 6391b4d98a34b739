import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Page, test } from '@playwright/test';
import { foldView, sendFenders } from './parcels.ts';

test.beforeEach(({ page }) => foldView(page));

const WCAG = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'];

/**
 * What keeps people who see little, or use the keys or a reader of screens, from what is shown. By night
 * nothing but colours is another.
 */
async function barriers(page: Page): Promise<string[]> {
  await wear(page, 'day');
  const { violations } = await new AxeBuilder({ page }).setLegacyMode().withTags(WCAG).analyze();
  await wear(page, 'night');
  const night = await new AxeBuilder({ page }).setLegacyMode().withRules('color-contrast').analyze();
  const { pathname } = new URL(page.url());
  return [...violations, ...night.violations].flatMap(({ id, nodes }) =>
    nodes.map(
      ({ target, failureSummary }) =>
        `${pathname.replace(/[0-9a-f-]{36}/, 'ID')} ${id}: ${target.join(' ')} ${failureSummary?.split('\n').at(-1)?.trim()}`,
    ),
  );
}

/** Puts a theme on; colours that pass into others have come to rest then. */
async function wear(page: Page, theme: string): Promise<void> {
  await page.evaluate(async (name) => {
    document.documentElement.dataset.theme = name;
    const passing = document.getAnimations().filter((one) => one instanceof CSSTransition);
    await Promise.allSettled(passing.map(({ finished }) => finished));
  }, theme);
}

const PLACES = [
  'intake',
  'destinations',
  'questions',
  'rulebooks',
  'runs',
  'handoffs',
  'insights',
  'workers',
  'settings',
  'help',
  'help/findings',
  'api',
];

for (const path of ['', ...PLACES])
  test(`/${path} can be read and reached, by day and by night`, async ({ page }) => {
    await page.goto(`/${path}`);
    await expect(page.getByRole('heading').first()).toBeVisible();
    expect(await barriers(page)).toEqual([]);
  });

test('every step of the bench can be read and reached, by day and by night', async ({ page, request }) => {
  const { 'link.missing': fender } = await sendFenders(request, ['link.missing']);
  const found: string[] = [];
  await page.goto(`/assets/${fender}/intake`);
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
  for (let step = 1; step <= 8; step += 1) {
    await page.keyboard.press(String(step));
    await expect(page.locator('nav[aria-label=Steps] a').nth(step - 1)).toHaveAttribute(
      'aria-current',
      'step',
    );
    await page.waitForLoadState('networkidle');
    found.push(...(await barriers(page)));
  }
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('dialog', { name: 'Commands' })).toBeVisible();
  found.push(...(await barriers(page)));
  expect([...new Set(found)]).toEqual([]);
});

test('at twice the size, as in a window half as wide, everything is still there', async ({
  page,
  request,
}) => {
  await page.setViewportSize({ width: 640, height: 400 });
  const { 'link.missing': fender } = await sendFenders(request, ['link.missing']);
  const fits = () => page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  for (const path of ['', 'rulebooks', 'settings', 'help']) {
    await page.goto(`/${path}`);
    await expect(page.getByRole('heading').first()).toBeVisible();
    expect([path, await fits()]).toEqual([path, 0]);
  }
  await page.evaluate(() => {
    const kept = JSON.parse(localStorage.getItem('kinkajou-choices') ?? '{}');
    localStorage.setItem(
      'kinkajou-choices',
      JSON.stringify({ ...kept, state: { ...kept.state, view: { ...kept.state.view, size: 'side' } } }),
    );
  });
  await page.goto(`/assets/${fender}/slots`);
  const board = page.getByRole('grid', { name: 'Slot board' });
  await expect(board).toBeVisible();
  expect(await fits()).toBe(0);
  expect((await board.boundingBox())?.height).toBeGreaterThan(90);
  await expect(page.getByRole('link', { name: 'Hand off' })).toBeInViewport({ ratio: 1 });
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeInViewport({ ratio: 1 });
  // There is no room for the view beside the board: it is folded, and unfolds alone.
  await page.getByRole('button', { name: /^Unfold the view/ }).click();
  await expect(page.getByRole('complementary', { name: 'View' })).toBeVisible();
  await expect(board).toBeHidden();
  await page.keyboard.press('v');
  await expect(board).toBeVisible();
  await page.setViewportSize({ width: 1280, height: 800 });
});
