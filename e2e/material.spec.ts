import { expect, type Page, test } from '@playwright/test';
import sharp from 'sharp';
import { sendParcel } from './parcels.ts';

// A small window: drawing in software is slow.
test.use({ viewport: { width: 1100, height: 600 } });

const text = (value: string) => new TextEncoder().encode(value);
/** A small black square above a wide black board. */
const SIGN =
  'mtllib sign.mtl\nv -0.1 1.1 0\nv 0.1 1.1 0\nv 0.1 1.3 0\nv -0.1 1.3 0\nv -1 -1 0\nv 1 -1 0\nv 1 1 0\nv -1 1 0\nvn 0 0 1\n' +
  'usemtl Bolt\nf 1//1 2//1 3//1 4//1\nusemtl Board\nf 5//1 6//1 7//1 8//1\n';

const chosen = (page: Page) => page.locator('[role=gridcell][aria-selected=true]');

/** Share of the view's pixels that are far more red than blue: the model is black, the paper nearly grey. */
async function tinted(page: Page): Promise<number> {
  const { data, info } = await sharp(await page.locator('canvas').first().screenshot())
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  let count = 0;
  for (let i = 0; i < data.length; i += 3) if (data[i] - data[i + 2] > 60) count += 1;
  return count / (info.width * info.height);
}

test('a click in the view finds the row of the material under it, and a row shows its faces for a moment', async ({
  page,
  request,
}) => {
  const { sign: id } = await sendParcel(request, 'Sign', {
    'sign.obj': text(SIGN),
    'sign.mtl': text('newmtl Bolt\nKd 0 0 0\nnewmtl Board\nKd 0 0 0\n'),
  });
  await page.goto(`/assets/${id}/slots`);
  await expect(chosen(page)).toHaveAttribute('data-slot', 'Bolt/baseColor');
  const canvas = page.locator('canvas').first();
  const box = await canvas.boundingBox();
  // The board is the middle of the view, and Bolt the row that the page starts with. A filter that hides the
  // row gives way.
  await page.getByLabel('Find a material').fill('bolt');
  await expect(page.locator('[data-material=Board]')).toBeHidden();
  await expect(async () => {
    await canvas.click({ position: { x: (box?.width ?? 0) / 2, y: (box?.height ?? 0) * 0.55 } });
    await expect(chosen(page)).toHaveAttribute('data-slot', 'Board/baseColor', { timeout: 4000 });
  }).toPass();
  await expect(page.locator('[data-material=Board]')).toBeVisible();

  await expect.poll(() => tinted(page)).toBeLessThan(0.01);
  await expect(async () => {
    await page.locator('[data-material=Bolt]').click();
    await page.locator('[data-material=Board]').click();
    expect(await tinted(page)).toBeGreaterThan(0.1);
  }).toPass();
  // It is no look that stays.
  await expect.poll(() => tinted(page)).toBeLessThan(0.01);

  // The same in Surface, whose rows are materials, too.
  await page.keyboard.press('5');
  await expect(page.locator('[data-surface=Board]')).toHaveAttribute('aria-selected', 'true');
  await page.locator('[data-surface=Bolt]').click();
  await expect(async () => {
    await canvas.click({ position: { x: (box?.width ?? 0) / 2, y: (box?.height ?? 0) * 0.55 } });
    await expect(page.locator('[data-surface=Board]')).toHaveAttribute('aria-selected', 'true', {
      timeout: 4000,
    });
  }).toPass();
});

test('the view has a window of its own that follows the bench, and what is picked there is found on the bench', async ({
  page,
  request,
}) => {
  const { sign: id } = await sendParcel(request, 'Sign', {
    'sign.obj': text(SIGN),
    'sign.mtl': text('newmtl Bolt\nKd 0 0 0\nnewmtl Board\nKd 0 0 0\n'),
  });
  await page.goto(`/assets/${id}/slots`);
  await expect(chosen(page)).toHaveAttribute('data-slot', 'Bolt/baseColor');
  const opening = page.waitForEvent('popup');
  await page.getByRole('button', { name: 'View in a window of its own' }).click();
  const view = await opening;
  const canvas = view.locator('canvas').first();
  await expect(canvas).toBeVisible();
  // There is one view, and it is there.
  await expect(page.locator('canvas')).toBeHidden();
  await expect(async () => {
    const box = await canvas.boundingBox();
    await canvas.click({ position: { x: (box?.width ?? 0) / 2, y: (box?.height ?? 0) * 0.55 } });
    await expect(chosen(page)).toHaveAttribute('data-slot', 'Board/baseColor', { timeout: 4000 });
  }).toPass();

  // Edits and choices of the one are seen in the other: white where it was black.
  await expect.poll(() => tinted(view)).toBeLessThan(0.01);
  await expect(view.getByRole('button', { name: 'Base colour', exact: true })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  await view.getByRole('button', { name: 'Base colour', exact: true }).click();
  const edit = {
    kind: 'setValues',
    slots: [{ material: 'Board', channel: 'baseColor' }],
    value: [0.8, 0.2, 0],
    origin: { from: 'hand', detail: '' },
  };
  expect((await request.post(`/api/assets/${id}/edits`, { data: { edits: [edit] } })).ok()).toBe(true);
  await expect.poll(() => tinted(view)).toBeGreaterThan(0.1);
  await view.close();
  await page.getByRole('button', { name: 'Unfold the view' }).click();
  await expect(page.getByRole('button', { name: 'Base colour', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
});

test('what stands on the ground darkens it, without any lamp', async ({ page, request }) => {
  const errors: string[] = [];
  page.on('pageerror', ({ message }) => errors.push(message));
  page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
  const corners = [0, 1].flatMap((y) => [0, 1].flatMap((z) => [0, 1].map((x) => `v ${x} ${y} ${z}`)));
  const cube = `${corners.join('\n')}\nf 1 3 4 2\nf 5 6 8 7\nf 1 2 6 5\nf 3 7 8 4\nf 1 5 7 3\nf 2 4 8 6\n`;
  const { block: id } = await sendParcel(request, 'Block', { 'block.obj': text(cube) });
  await page.goto(`/assets/${id}/surface`);
  const canvas = page.locator('canvas').first();
  await expect(canvas).toBeVisible();
  const picture = async () => {
    const { data } = await sharp(await canvas.screenshot())
      .greyscale()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return data;
  };
  const still = async () => {
    let last = await picture();
    await expect(async () => {
      const next = await picture();
      const same = next.equals(last);
      last = next;
      expect(same).toBe(true);
    }).toPass();
    return last;
  };
  const bare = await still();
  await page.getByRole('button', { name: 'ground', exact: true }).click();
  /** Share of the picture that the ground made clearly darker. */
  await expect
    .poll(
      async () =>
        (await picture()).reduce((count, value, i) => count + (bare[i] - value > 20 ? 1 : 0), 0) /
        bare.length,
    )
    .toBeGreaterThan(0.01);
  expect(errors).toEqual([]);
});
