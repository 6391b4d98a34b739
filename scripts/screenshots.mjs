import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { chromiumPath } from './lib/packages.mjs';
import { ROOT, say } from './lib/run.mjs';

/** `npm run screenshots [ADDRESS]`: pictures of the main views, from a running demo. */
const address = process.argv[2] ?? 'http://127.0.0.1:4700';
const folder = join(ROOT, 'docs', 'screenshots');
await mkdir(folder, { recursive: true });
const browser = await chromium.launch({
  executablePath: chromiumPath(),
  args: ['--no-sandbox', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (error) => say(`page error: ${error.message}`));
const { assets } = await (await fetch(`${address}/api/shelf`)).json();
const id = (name) => assets.find((asset) => asset.name === name)?.id;
const views = [
  ['shelf', '/', 1500],
  ['intake', '/intake', 1000],
  ['bench-links', `/assets/${id('berth_02')}/links`, 7000],
  ['bench-colour', `/assets/${id('berth_22')}/colour`, 7000],
  ['bench-surface', `/assets/${id('berth_27')}/surface`, 7000],
  ['settings', '/settings', 1500],
  ['bench-intake', `/assets/${id('buoy_v007')}/intake`, 9000],
  ['bench-slots', `/assets/${id('buoy_v007')}/slots`, 9000, showImages],
  ['handoff', `/assets/${id('lantern')}/handoff`, 7000, handOff],
];

/** Opens the strip of the parcel's images under the board. */
async function showImages() {
  await page.getByRole('button', { name: 'Images of the parcel' }).click();
  await page.waitForTimeout(2000);
}

/** Mends the lantern as a person would, and makes its package. */
async function handOff() {
  for (const name of ['Use inverted', /Mend all that is safe/]) {
    const button = page.getByRole('button', { name });
    if (await button.isVisible()) await button.click();
    await page.waitForTimeout(3000);
  }
  await page.getByRole('button', { name: 'Make the package' }).click();
  await page.getByRole('link', { name: 'Download' }).first().waitFor({ timeout: 60_000 });
  await page.waitForTimeout(5000);
}

const only = process.argv[3];
for (const [name, path, wait, act] of views) {
  if (only && name !== only) continue;
  await page.goto(address + path);
  await page.waitForTimeout(wait);
  await act?.();
  await page.screenshot({ path: join(folder, `${name}.png`) });
  say(name);
}
await browser.close();
