import { fendersOf } from '@kinkajou/demo/cargoFenders';
import { expect, type Page, test } from '@playwright/test';
import { foldView, looked, sendFenders, sendParcel } from './parcels.ts';

const cell = (page: Page, material: string, channel: string) =>
  page.locator(`[data-slot="${material}/${channel}"]`);
const text = (value: string) => new TextEncoder().encode(value);

/** Drags with the mouse in steps, as a hand does. */
async function drag(page: Page, from: string, to: string): Promise<void> {
  await expect(page.locator(from)).toBeVisible();
  // What arrives late (details, pictures) may still move the board.
  await page.waitForTimeout(500);
  const [a, b] = [await page.locator(from).boundingBox(), await page.locator(to).boundingBox()];
  if (!a || !b) throw new Error(`${a ? to : from} is not on the page`);
  await page.mouse.move(a.x + a.width / 2, a.y + a.height / 2);
  await page.mouse.down();
  for (let i = 1; i <= 8; i += 1)
    await page.mouse.move(
      a.x + ((b.x + b.width / 2 - a.x) * i) / 8,
      a.y + ((b.y + b.height / 2 - a.y) * i) / 8,
    );
  await page.waitForTimeout(200);
  await page.mouse.up();
}

async function boardParcel(): Promise<Record<string, Uint8Array>> {
  const { files } = await fendersOf([40]);
  const image = (name: string) => files[`cargo-fenders/berth_40/berth_40_${name}.png`];
  const quad = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';
  const names = ['crate', 'plank', 'lid'];
  return {
    'box.obj': text(
      `mtllib box.mtl\n${quad}${names.map((name) => `o ${name}\nusemtl ${name}\nf 1/1 2/2 3/3 4/4`).join('\n')}\n`,
    ),
    'box.mtl': text(
      'newmtl crate\nmap_Kd crate_basecolor.png\nnewmtl plank\nKd 1 1 1\nnewmtl lid\nKd 1 1 1\n',
    ),
    'crate_basecolor.png': image('basecolor'),
    'tarp_basecolor.png': image('basecolor'),
    'tarp_roughness.png': image('roughness'),
    'tarp_normal.png': image('normal'),
  };
}

test.beforeEach(({ page }) => foldView(page));

test('images are dragged onto slots, materials and parts; sets form materials', async ({ page, request }) => {
  const { box } = await sendParcel(request, 'Box', await boardParcel());
  await looked(request, box);
  await page.goto(`/assets/${box}/slots`);
  await expect(cell(page, 'crate', 'baseColor')).toBeVisible();
  await page.getByRole('button', { name: 'Images of the parcel' }).click();
  await drag(page, '[data-tray="tarp_roughness.png"]', '[data-slot="plank/roughness"]');
  await expect(cell(page, 'plank', 'roughness')).toHaveAttribute(
    'aria-label',
    /tarp_roughness\.png, component r, data/,
  );

  await page.locator('[data-tray="tarp_basecolor.png"]').click();
  await page.locator('[data-tray="tarp_normal.png"]').click({ modifiers: ['Control'] });
  await drag(page, '[data-tray="tarp_basecolor.png"]', '[data-material="lid"]');
  await expect(cell(page, 'lid', 'baseColor')).toHaveAttribute('aria-label', /tarp_basecolor\.png/);
  await expect(cell(page, 'lid', 'normal')).toHaveAttribute('aria-label', /tarp_normal\.png/);

  await page.getByRole('button', { name: 'Form materials' }).click();
  await expect(page.getByText('Base colour, Normal')).toBeVisible();
  await page.getByRole('button', { name: 'Form 1 material' }).click();
  await expect(cell(page, 'Tarp', 'baseColor')).toHaveAttribute('aria-label', /tarp_basecolor\.png/);

  await page.keyboard.press('6');
  await drag(page, '[data-tray="crate_basecolor.png"]', '[data-part="lid"]');
  await expect(page.getByRole('row').filter({ has: page.locator('[data-part="lid"]') })).toContainText(
    'crate',
  );
});

test('slots are copied, pasted, filled down and split; a template wires other materials', async ({
  page,
  request,
}) => {
  const { box } = await sendParcel(request, 'Box', await boardParcel());
  await looked(request, box);
  await page.goto(`/assets/${box}/slots`);
  await expect(cell(page, 'crate', 'baseColor')).toBeVisible();
  await cell(page, 'crate', 'baseColor').click();
  await page.keyboard.press('Control+c');
  await cell(page, 'plank', 'baseColor').click();
  await page.keyboard.press('Control+v');
  await expect(cell(page, 'plank', 'baseColor')).toHaveAttribute('aria-label', /crate_basecolor\.png/);
  await page.keyboard.press('Control+z');
  await expect(cell(page, 'plank', 'baseColor')).toHaveAttribute('aria-label', /value/);

  await cell(page, 'crate', 'baseColor').click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Control+d');
  for (const material of ['plank', 'lid'])
    await expect(cell(page, material, 'baseColor')).toHaveAttribute('aria-label', /crate_basecolor\.png/);

  await cell(page, 'crate', 'baseColor').click();
  await page.keyboard.press('s');
  await expect(cell(page, 'crate', 'metalness')).toHaveAttribute(
    'aria-label',
    /crate_basecolor\.png, component b, data/,
  );
  await page.keyboard.press('Control+z');
  await expect(cell(page, 'crate', 'metalness')).toHaveAttribute('aria-label', /empty/);

  await page.getByRole('button', { name: 'Slot templates' }).click();
  await page.getByLabel('Name of the template').fill('Plain crate');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByRole('button', { name: /^Plain crate/ }).click();
  await page.getByLabel('Name pattern').fill('l*');
  await expect(page.getByText(/^1 material, /)).toBeVisible();
  await page.getByRole('button', { name: 'Remove Plain crate' }).click();
  await expect(page.getByText('No template yet.')).toBeVisible();
});

test('colour tags are mended one by one and in bulk; an exponent is tried; an image is converted', async ({
  page,
  request,
}) => {
  const ids = await sendFenders(request, ['colour.encodedTwice', 'colour.dataAsColour']);
  const wrong = ids['colour.dataAsColour'];
  const second = (await sendFenders(request, ['colour.dataAsColour']))['colour.dataAsColour'];
  await page.goto(`/assets/${wrong}/colour`);
  const tag = (material: string, channel: string) =>
    page.locator(`[data-tag="${material}/${channel}"] select`);
  await expect(tag('Rubber', 'roughness')).toHaveValue('srgb_rec709_scene');
  await page.getByLabel('Which uses').selectOption('shelf');
  await page.getByLabel('Word in the name').fill('berth_20_roughness');
  await page.getByRole('button', { name: 'Tag 2 uses in 2 assets' }).click();
  await expect(tag('Rubber', 'roughness')).toHaveValue('data');
  const other = await (await request.get(`/api/assets/${second}`)).json();
  expect(other.state.materials[0].channels.roughness.map.space).toBe('data');
  await page.keyboard.press('Escape');
  await page.getByLabel('Tag dialect').selectOption('acesCg');
  await expect(tag('Rubber', 'roughness').locator('option:checked')).toHaveText('Raw');
  await expect(tag('Rubber', 'baseColor').locator('option:checked')).toHaveText('sRGB - Texture');
  await page.getByLabel('Tag dialect').selectOption('plain');

  await page.goto(`/assets/${ids['colour.encodedTwice']}/colour`);
  await expect(page.getByText(/still encoded/).first()).toBeVisible();
  await page.getByRole('button', { name: '2.2', exact: true }).click();
  await expect(page.getByText(/to exponent 2\.200/)).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-finding="colour.encodedTwice"]')).toBeVisible();
  await page.keyboard.press('n');
  await page.keyboard.press('m');
  await expect(tag('Rubber', 'baseColor')).toHaveValue('srgb_rec709_scene');

  await page.getByRole('button', { name: 'Convert the image ...' }).click();
  await page.getByLabel('Convert to').selectOption('lin_ap1_scene');
  await page.getByRole('button', { name: 'Convert', exact: true }).click();
  await expect(page.getByText(/out of gamut/)).toBeVisible();
  await page.getByRole('button', { name: 'Use it' }).click();
  await page.keyboard.press('Escape');
  await expect(tag('Rubber', 'baseColor')).toHaveValue('lin_ap1_scene');
});

test('surfaces of several materials are changed together, from a starting point too, and undone', async ({
  page,
  request,
}) => {
  const { box } = await sendParcel(request, 'Box', await boardParcel());
  await page.goto(`/assets/${box}/surface`);
  const readValue = async (material: string, channel: string) => {
    const { state } = await (await request.get(`/api/assets/${box}`)).json();
    return state.materials.find((one: { key: string }) => one.key === material).channels[channel]?.value;
  };
  await page.locator('[data-surface="plank"]').click();
  await page.locator('[data-surface="lid"]').click({ modifiers: ['Control'] });
  await expect(page.getByText('2 materials', { exact: true })).toBeVisible();
  await page.getByLabel('Roughness as a number').fill('0.35');
  await page.keyboard.press('Enter');
  for (const material of ['plank', 'lid'])
    await expect.poll(() => readValue(material, 'roughness')).toBe(0.35);
  await page.getByLabel('Start from').selectOption('copper');
  await expect.poll(() => readValue('lid', 'metalness')).toBe(1);
  // (n - 1)^2 + k^2 over (n + 1)^2 + k^2 of copper in red: n 0.22, k 3.747.
  expect((await readValue('plank', 'baseColor'))[0]).toBeCloseTo(
    (0.78 ** 2 + 3.747 ** 2) / (1.22 ** 2 + 3.747 ** 2),
    6,
  );
  await page.getByRole('button', { name: 'blend', exact: true }).click();
  await expect(page.locator('[data-surface="lid"]')).toContainText('blend');
  await page.locator('[data-surface="lid"]').click();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-surface="lid"]')).toContainText('opaque');
});
