import { PARCELS } from '@kinkajou/demo/harrowQuay';
import { expect, type Page, test } from '@playwright/test';
import { sendParcel } from './parcels.ts';

test.use({ viewport: { width: 1024, height: 700 } });

const STEPS = ['intake', 'links', 'slots', 'colour', 'surface', 'parts', 'compare', 'handoff'];
const PAGES = [
  '/',
  '/intake',
  '/rulebooks',
  '/destinations',
  '/settings',
  '/questions',
  '/runs',
  '/insights',
];

/** Controls that something cuts off which does not scroll, with what is seen of them. */
function cutControls(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const scrolls = (element: Element) => {
      const { overflowX, overflowY } = getComputedStyle(element);
      const goes = (overflow: string) => overflow === 'auto' || overflow === 'scroll';
      return (
        (goes(overflowX) && element.scrollWidth > element.clientWidth + 1) ||
        (goes(overflowY) && element.scrollHeight > element.clientHeight + 1)
      );
    };
    const cut: string[] = [];
    for (const control of document.querySelectorAll('button, input, select, textarea, a[href]')) {
      const { left, top, right, bottom, width, height } = control.getBoundingClientRect();
      if (width < 2 || height < 2 || getComputedStyle(control).visibility === 'hidden') continue;
      const above: Element[] = [];
      for (let element = control.parentElement; element; element = element.parentElement) above.push(element);
      // What can be scrolled to is not lost.
      if (above.some((element) => scrolls(element) || getComputedStyle(element).visibility === 'hidden'))
        continue;
      const seen = { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
      for (const element of above) {
        const { overflowX, overflowY } = getComputedStyle(element);
        const box = element.getBoundingClientRect();
        if (overflowX !== 'visible')
          Object.assign(seen, {
            left: Math.max(seen.left, box.left),
            right: Math.min(seen.right, box.right),
          });
        if (overflowY !== 'visible')
          Object.assign(seen, {
            top: Math.max(seen.top, box.top),
            bottom: Math.min(seen.bottom, box.bottom),
          });
      }
      const [across, down] = [
        Math.min(right, seen.right) - Math.max(left, seen.left),
        Math.min(bottom, seen.bottom) - Math.max(top, seen.top),
      ];
      if (across < width - 2 || down < height - 2)
        cut.push(
          `${control.getAttribute('aria-label') ?? control.textContent} ${Math.round(across)} of ${width}`,
        );
    }
    return cut;
  });
}

test('no control is cut in a small window', async ({ page, request }) => {
  const { files } = await PARCELS['mooring-stair']();
  const { yard: id } = await sendParcel(request, 'Yard in a small window', files);
  for (const path of [...PAGES, ...STEPS.map((step) => `/assets/${id}/${step}`)]) {
    await page.goto(path);
    await expect(page.getByRole('heading', { level: 1 }), path).toBeAttached({ timeout: 8000 });
    await expect.poll(async () => [path, ...(await cutControls(page))]).toEqual([path]);
  }
  // Names of parts stay where the room is short; sizes give way.
  await page.goto(`/assets/${id}/parts`);
  await expect(page.getByText('Crate', { exact: true })).toBeVisible();
  await expect(page.getByRole('columnheader', { name: 'Size in m' })).toBeHidden();
});
