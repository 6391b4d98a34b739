import { execFile } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { fendersOf } from '@kinkajou/demo/cargoFenders';
import { expect, type Locator, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { foldView, looked, sendParcel } from './parcels.ts';

const PROGRAM = fileURLToPath(new URL('../bin/kinkajou', import.meta.url));
const CLEAN = 40;

function kinkajou(...args: string[]): Promise<number> {
  return new Promise((resolve) =>
    execFile(PROGRAM, args, (error) => resolve(error ? Number(error.code) : 0)),
  );
}

/** A clean fender, sent and looked at. */
async function sendFender(page: Page): Promise<string> {
  const { files } = await fendersOf([CLEAN]);
  const assets = await sendParcel(page.request, 'Fender', files);
  const id = assets[`berth_${CLEAN}`];
  await looked(page.request, id);
  return id;
}

async function download(page: Page, link: Locator): Promise<Uint8Array> {
  const wait = page.waitForEvent('download');
  await link.click();
  return new Uint8Array(await readFile(await (await wait).path()));
}

test('one asset goes to three destinations in one go, is compared, and the command line verifies the packages', async ({
  page,
}) => {
  await foldView(page);
  const id = await sendFender(page);
  await page.goto(`/assets/${id}/handoff`);
  await page.getByLabel('Destination', { exact: true }).selectOption('engine-packed');
  const files = page.getByRole('table', { name: 'Files' });
  await expect(files).toContainText('maps/T_Rubber_ORM.png');
  await expect(files).toContainText('roughness from');
  await page.getByText('In the same go').click();
  await page.getByLabel('Renderer, spec/gloss').check();
  await page.getByLabel('Compositor, USD').check();
  await page.getByRole('button', { name: 'Make 3 packages' }).click();
  const list = page.getByRole('list', { name: 'Handoffs' });
  for (const [destination, model] of [
    ['engine-packed', `berth_${CLEAN}.fbx`],
    ['render-specgloss', `berth_${CLEAN}.fbx`],
    ['compositor-usd', `berth_${CLEAN}.usdz`],
  ]) {
    const row = list.getByRole('listitem').filter({ hasText: destination });
    const zip = await download(page, row.getByRole('link', { name: 'Download' }));
    const inside = unzipSync(zip);
    expect(Object.keys(inside)).toEqual(
      expect.arrayContaining([model, 'README.html', 'handoff.json', 'receipt.json']),
    );
    const receipt = JSON.parse(new TextDecoder().decode(inside['receipt.json']));
    expect(receipt.verdict, destination).toBe('clean');
    expect(receipt.readBack.channels.length, destination).toBeGreaterThan(1);
    const path = join(await mkdtemp(join(tmpdir(), 'kinkajou-package-')), 'package.zip');
    await writeFile(path, zip);
    expect(await kinkajou('verify', path)).toBe(0);
  }
  await list.getByRole('button', { name: `berth_${CLEAN}_engine-packed.zip` }).click();
  await expect(page.getByLabel('Receipt', { exact: true })).toContainText('second reader (three)');
  await list
    .getByRole('listitem')
    .filter({ hasText: 'engine-packed' })
    .getByRole('link', { name: 'Compare' })
    .click();
  await expect(
    page.getByRole('status').filter({ hasText: 'Unlit base colour: equal within rounding' }),
  ).toBeVisible();
  const table = page.getByRole('table', { name: 'Differences', exact: true });
  await expect(table.getByRole('row').filter({ hasText: 'Roughness' })).toContainText('0 %');
  // Whoever reads data as colour sees another roughness; the picture shows where.
  await page.getByLabel('Side B').selectOption('careless');
  await expect(table.getByRole('row').filter({ hasText: 'Roughness' })).toContainText('100.0 %');
  await table.getByRole('row').filter({ hasText: 'Roughness' }).press('Enter');
  const picture = page.getByRole('img', { name: 'Roughness of Rubber, difference × 8' });
  await expect(picture).toBeVisible();
  expect(
    await picture.evaluate((image: HTMLImageElement) => image.decode().then(() => image.naturalWidth)),
  ).toBe(256);
  await expect(page.getByRole('status').filter({ hasText: 'equal within rounding' })).toBeVisible();
});

test('a destination is copied, changed, tried, exported, imported and removed', async ({ page }) => {
  const id = await sendFender(page);
  for (const left of ['quay-engine', 'quay-engine-2', 'engine-packed-own'])
    await page.request.delete(`/api/destinations/${left}`);
  await page.goto('/destinations?show=engine-packed');
  await page.getByRole('button', { name: 'Copy and change' }).click();
  await page.getByLabel('Title').fill('Quay engine');
  await page.getByLabel('Id', { exact: true }).fill('quay-engine');
  const names = await page.getByLabel('Asset to try it on').locator('option').allTextContents();
  await page
    .getByLabel('Asset to try it on')
    .selectOption({ label: names.find((name) => name.startsWith(`berth_${CLEAN}`)) });
  const base = page.getByRole('group', { name: 'Map baseColor' });
  await base.getByLabel('Suffix').fill('Colour');
  const tried = page.getByLabel('Tried on an asset');
  await expect(tried).toContainText('maps/T_Rubber_Colour.png');
  // What cannot be is told with the field that is wrong.
  await page.getByRole('textbox', { name: /^Maps/ }).fill('{material}');
  await expect(tried).toContainText('names.map must hold {suffix}');
  await page.getByRole('textbox', { name: /^Maps/ }).fill('Q_{material}_{suffix}');
  await expect(tried).toContainText('maps/Q_Rubber_Colour.png');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Quay engine is saved')).toBeVisible();
  const exported = await download(page, page.getByRole('link', { name: 'Export JSON' }));
  expect(JSON.parse(new TextDecoder().decode(exported))).toMatchObject({
    profile: 2,
    id: 'quay-engine',
    names: { map: 'Q_{material}_{suffix}' },
  });
  await page
    .getByLabel('Profile to import')
    .setInputFiles({ name: 'quay.json', mimeType: 'application/json', buffer: Buffer.from(exported) });
  const own = page.getByRole('navigation', { name: 'Destinations' });
  await expect(own.getByRole('button', { name: /Quay engine/ })).toHaveCount(2);
  await page.getByLabel('Profile to import').setInputFiles({
    name: 'bad.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"profile": 2, "id": "x"}'),
  });
  await expect(page.getByText(/the profile is not valid/)).toBeVisible();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(own.getByRole('button', { name: /Quay engine/ })).toHaveCount(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(own.getByRole('button', { name: /Quay engine/ })).toHaveCount(2);
  const made = await page.request.post(`/api/assets/${id}/handoffs`, {
    data: { requests: [{ destination: 'quay-engine' }] },
  });
  expect(made.ok(), await made.text()).toBe(true);
  await expect
    .poll(async () =>
      (await (await page.request.get(`/api/assets/${id}/handoffs`)).json()).handoffs[0].receipt?.outputs.map(
        (file: { path: string }) => file.path,
      ),
    )
    .toContain('maps/Q_Rubber_Colour.png');
});

test('two sides are drawn in one view: wiped, beside each other, and as their difference', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1000, height: 560 });
  const id = await sendFender(page);
  await page.addInitScript(
    (choices) => localStorage.setItem('kinkajou-choices', choices),
    JSON.stringify({
      state: {
        view: { mode: 'roughness', environmentOn: false },
        compare: { b: 'careless', way: 'difference' },
      },
      version: 2,
    }),
  );
  await page.goto(`/assets/${id}/compare`);
  const view = page.locator('canvas').first();
  /**
   * Share of the view's pixels that are as bright as the ramp's end: there the two differ by an eighth and
   * more.
   */
  const bright = async () => {
    const { data, info } = await sharp(await view.screenshot())
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    let count = 0;
    for (let i = 0; i < data.length; i += info.channels) if (Math.min(data[i], data[i + 1]) > 240) count += 1;
    return count / (info.width * info.height);
  };
  await expect.poll(bright).toBeGreaterThan(0.03);
  await page.getByLabel('Side B').selectOption('edited');
  await page.getByLabel('Side A').selectOption('delivered');
  // A clean asset is the same before and after no edits.
  await expect.poll(bright).toBeLessThan(0.001);
  await page.keyboard.press('Escape');
  await page.locator('body').click({ position: { x: 5, y: 300 } });
  await page.keyboard.press('k');
  const wipe = page.getByRole('slider', { name: 'Wipe between A and B' });
  await expect(wipe).toHaveAttribute('aria-valuenow', '50');
  await page.keyboard.press('.');
  await expect(wipe).toHaveAttribute('aria-valuenow', '55');
  await wipe.press('ArrowLeft');
  await expect(wipe).toHaveAttribute('aria-valuenow', '50');
  await page.keyboard.press('k');
  await expect(page.getByRole('button', { name: 'Side by side' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('k');
  await expect(page.getByRole('button', { name: 'Blink' })).toHaveAttribute('aria-pressed', 'true');
});

test('what came back from another application is laid beside the asset, and told part by part', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1280, height: 800 });
  const id = await sendFender(page);
  const { files } = await fendersOf([CLEAN]);
  const [path] = Object.keys(files).filter((name) => name.endsWith('.usda'));
  const text = new TextDecoder().decode(files[path]);
  // Another application forgot the unit, gave a part another name, which is no difference, and made rubber a
  // metal.
  const changed = text
    .replace('metersPerUnit = 1', 'metersPerUnit = 0.01')
    .replace('def Mesh "Body"', 'def Mesh "Corpus"')
    .replace('inputs:metallic = 0', 'inputs:metallic = 1');
  expect(changed).toMatch(/0\.01[\s\S]*Corpus[\s\S]*metallic = 1/);
  await page.goto(`/assets/${id}/compare`);
  await page.getByLabel('What came back from another application').setInputFiles(
    Object.entries({ ...files, [path]: new TextEncoder().encode(changed) }).map(([name, bytes]) => ({
      name: name.slice(name.lastIndexOf('/') + 1),
      mimeType: 'application/octet-stream',
      buffer: Buffer.from(bytes),
    })),
  );
  const whole = page.getByRole('region', { name: 'The whole' });
  await expect(whole).toContainText('Different in 2 places');
  await expect(whole).toContainText('the whole is 0.01 times as large');
  await expect(whole).toContainText('metalness');
  // The asset itself is as it was, until something is taken over, which is an edit like any other.
  await page
    .getByRole('table', { name: 'Differences', exact: true })
    .getByRole('row')
    .filter({ hasText: 'Metalness' })
    .click();
  await page.getByRole('button', { name: 'Take over 1' }).click();
  await expect(whole).toContainText('Different in one place');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(whole).toContainText('Different in 2 places');
  await page.getByLabel('Side B').selectOption('delivered');
  await expect(whole).toContainText('The same as a whole');
});
