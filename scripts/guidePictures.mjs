import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { launchDrawing } from './lib/browser.mjs';
import { ROOT, say } from './lib/run.mjs';

/**
 * `npm run guide-pictures [ADDRESS [NUMBERS]]`: a picture for every page of the guide, from a running demo;
 * only those named, separated by commas.
 */
const address = process.argv[2] ?? 'http://127.0.0.1:4700';
const only = process.argv[3]?.split(',');
const folder = join(ROOT, 'docs', 'guide', 'pictures');
await mkdir(folder, { recursive: true });
const browser = await launchDrawing();
let page;
const { assets } = await (await fetch(`${address}/api/shelf`)).json();
const bench = (name, step) => `/assets/${assets.find((asset) => asset.name === name)?.id}/${step}`;
const click = (name) => () => page.getByRole('button', { name }).first().click();
const choose = (label, value) => () => page.getByLabel(label, { exact: true }).selectOption(value);

/** By the number of a page: where it is, and what is done before the picture is taken. */
const views = {
  '01': [bench('buoy_v007', 'slots'), click(/^Split/)],
  '02': [bench('lantern', 'slots'), click(/^Mend all that is safe/)],
  '03': [bench('boat', 'colour')],
  '04': [bench('coat', 'intake'), click('A person of 1.75 m beside the asset')],
  '05': [bench('net', 'surface')],
  '06': [bench('kit', 'surface'), () => page.getByText('Brass', { exact: true }).first().click()],
  '07': [bench('buoy_v007', 'handoff'), choose('Destination', 'compositor-classic')],
  '08': [bench('kit', 'slots'), click('Images of the parcel')],
  '09': [bench('net', 'handoff'), choose('Destination', 'render-specgloss')],
  10: ['/', selectFenders],
  11: [bench('boat', 'slots'), click('Slot templates')],
  12: [bench('kit', 'parts'), searchRopes],
  13: [bench('boat', 'handoff'), choose('Destination', 'render-film')],
  14: [bench('lantern', 'links')],
  15: [bench('buoy_v007', 'parts')],
  16: [bench('stair', 'parts'), () => page.locator('[data-part]').first().click()],
  17: [bench('lantern', 'surface'), () => page.getByText('Glass', { exact: true }).first().click()],
  18: [bench('yard', 'intake')],
  19: ['/rulebooks'],
  20: [bench('buoy_v007', 'slots'), click('Assign')],
  21: [bench('berth_01', 'parts'), () => page.locator('[data-part]').nth(1).click()],
};

async function selectFenders() {
  await page.getByPlaceholder(/Search name/).fill('berth');
  await page.waitForTimeout(2500);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+a');
}

async function searchRopes() {
  await page.getByPlaceholder(/bolt/).fill('*_rope_*');
  await page.waitForTimeout(500);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+a');
}

for (const [number, [path, act]] of Object.entries(views).sort()) {
  if (only && !only.includes(number)) continue;
  // What one picture has opened is not remembered by the next.
  page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(address + path);
  await page.waitForTimeout(path.startsWith('/assets') ? 6000 : 2500);
  const refuse = page.getByRole('button', { name: 'Not now' });
  if (await refuse.isVisible()) await refuse.click();
  await act?.().catch((error) => say(`${number}: ${error.message.split('\n')[0]}`));
  await page.mouse.move(640, 40);
  await page.waitForTimeout(2500);
  const picture = await sharp(await page.screenshot())
    .png({ palette: true, colours: 160, effort: 8 })
    .toBuffer();
  await writeFile(join(folder, `${number}.png`), picture);
  await page.close();
  say(`${number} (${Math.round(picture.length / 1024)} KB)`);
}
await browser.close();
