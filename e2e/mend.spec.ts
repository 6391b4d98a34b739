import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { expect, type Page, test } from '@playwright/test';
import { smallParcel } from '../core/src/test/harbour.ts';
import { foldView, looked, sendFenders, sendParcel } from './parcels.ts';

const status = (page: Page, name: string) => page.locator(`[data-link="${name}"]`);
const logLength = async (page: Page, id: string) => {
  const { log } = await (await page.request.get(`/api/assets/${id}`)).json();
  return log.filter((entry: { undone: boolean }) => !entry.undone).length;
};

test.beforeEach(({ page }) => foldView(page));

test('a broken asset is mended with the keyboard alone, and all of it undone', async ({ page, request }) => {
  const parcel = await smallParcel(channelBuoy, 256);
  const { buoy_v007: id } = await sendParcel(request, 'Buoy', parcel.files);
  await looked(request, id);
  await page.goto(`/assets/${id}/links`);
  await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();

  // The first missing path is focused; Enter links its chosen candidate.
  await expect(status(page, 'buoy_hull_basecolor.png')).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Enter');
  await expect(status(page, 'buoy_hull_basecolor.png')).toHaveAttribute('data-status', 'found');

  // Findings are walked with N and mended with M until none has a mend.
  for (let i = 0; i < 12; i += 1) {
    const view = await (await request.get(`/api/assets/${id}`)).json();
    const open = view.findings.filter((finding: { mend: unknown }) => finding.mend);
    if (open.length === 0) break;
    const before = await logLength(page, id);
    // A finding that only a person can settle is passed over, and so is one that went with the last mend.
    await expect(async () => {
      await page.keyboard.press('n');
      await expect(page.locator('[data-finding-focused] [data-mend]').first()).toBeVisible({ timeout: 1000 });
      await page.keyboard.press('m');
      await expect.poll(() => logLength(page, id), { timeout: 20_000 }).toBeGreaterThan(before);
    }).toPass();
  }
  await page.keyboard.press('3');
  await expect(page.locator('[data-slot="Hull paint/roughness"]')).toHaveAttribute(
    'aria-label',
    /buoy_hull_orm\.png, component g/,
  );
  await expect(page.locator('[data-slot="Rail brass/metalness"]')).toHaveAttribute(
    'aria-label',
    /buoy_rail_orm\.png, component b|value/,
  );
  const mended = await (await request.get(`/api/assets/${id}`)).json();
  expect(mended.findings.filter((finding: { severity: string }) => finding.severity !== 'note')).toEqual([]);

  const made = await logLength(page, id);
  for (let i = made; i > 0; i -= 1) {
    await page.keyboard.press('Control+z');
    await expect.poll(() => logLength(page, id)).toBe(i - 1);
  }
  const undone = await (await request.get(`/api/assets/${id}`)).json();
  expect(undone.findings.map((finding: { code: string }) => finding.code).sort()).toEqual(
    parcel.faults.map(({ code }) => code).sort(),
  );
  await expect(page.locator('[data-slot="Hull paint/baseColor"]')).toHaveAttribute('aria-label', /missing/);
});

test('doubtful links show their candidates side by side, and one confirmed path teaches the rest', async ({
  page,
  request,
}) => {
  const ids = await sendFenders(request, ['link.ambiguous', 'tiles.gap', 'link.sidecar']);
  await page.goto(`/assets/${ids['link.ambiguous']}/links`);
  await expect(page.locator('[data-candidate]')).toHaveCount(2);
  await expect(page.locator('[data-candidate]').first()).toContainText(/256 × 256, 8 bit/);
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await expect(status(page, 'berth_02_basecolor.png')).toHaveAttribute('data-status', 'found');
  await expect(status(page, 'berth_02_basecolor.png')).toContainText('wet');

  await page.goto(`/assets/${ids['tiles.gap']}/links`);
  await expect(page.getByRole('list', { name: 'Tiles' }).getByRole('listitem')).toHaveCount(3);
  await expect(page.getByTitle('tile 1002 is not there')).toBeVisible();

  await page.goto(`/assets/${ids['link.sidecar']}/links`);
  await page.getByRole('button', { name: /unused/ }).click();
  await expect(page.getByText(/copy of .*basecolor\.png, left out/)).toBeVisible();

  const lines = ['a', 'b', 'c'].map((name) => `newmtl ${name}\nmap_Kd D:\\harbour\\art\\${name}\\skin.png`);
  const quads = ['a', 'b', 'c'].map((name) => `usemtl ${name}\nf 1/1 2/2 3/3 4/4`);
  const text = (value: string) => new TextEncoder().encode(value);
  const { encodePng } = await import('@kinkajou/core/images/encode');
  const skin = (grey: number) =>
    encodePng({
      width: 16,
      height: 16,
      components: 3,
      data: new Uint8Array(768).map((_, i) => grey + (i % 31)),
    });
  const { crates } = await sendParcel(request, 'Crates', {
    'crates.obj': text(
      `mtllib crates.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n${quads.join('\n')}\n`,
    ),
    'crates.mtl': text(`${lines.join('\n')}\n`),
    // Two of each name, so that the paths alone leave a doubt.
    'maps/a/skin.png': await skin(40),
    'maps/b/skin.png': await skin(90),
    'maps/c/skin.png': await skin(140),
  });
  await page.goto(`/assets/${crates}/links`);
  await expect(page.locator('[data-status="missing"]')).toHaveCount(3);
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('rule-bar')).toContainText('settles 2 more paths');
  await page.keyboard.press('r');
  await expect(page.locator('[data-status="found"]')).toHaveCount(3);
});
