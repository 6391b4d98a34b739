import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { launchDrawing } from './lib/browser.mjs';
import { ROOT, say } from './lib/run.mjs';

/**
 * `npm run screenshots [ADDRESS [NAMES]]`: pictures of the main views, from a running demo; only those named,
 * separated by commas.
 */
const address = process.argv[2] ?? 'http://127.0.0.1:4700';
const folder = join(ROOT, 'docs', 'screenshots');
await mkdir(folder, { recursive: true });
const browser = await launchDrawing();
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (error) => say(`page error: ${error.message}`));
const { assets } = await (await fetch(`${address}/api/shelf`)).json();
const id = (name) => assets.find((asset) => asset.name === name)?.id;
const views = [
  ['shelf', '/', 1500, selectTwo],
  ['intake', '/intake', 1000],
  ['bench-links', `/assets/${id('berth_02')}/links`, 7000],
  // Its colour is a large EXR, which is dark until it comes.
  ['bench-colour', `/assets/${id('berth_22')}/colour`, 20000],
  ['questions', `/assets/${id('berth_39')}/slots`, 6000, ask],
  ['bench-surface', `/assets/${id('net')}/surface`, 9000, probe],
  ['bench-parts', `/assets/${id('yard')}/parts`, 8000, chooseParts],
  ['surface-make', `/assets/${id('coat')}/surface`, 7000, lookFirst],
  ['stills', `/assets/${id('flags')}/surface`, 9000, pictures],
  ['rulebooks', '/rulebooks', 2000, tryRules],
  ['run', '/', 2500, mendMany],
  ['settings', '/settings', 1500],
  ['bench-intake', `/assets/${id('buoy_v007')}/intake`, 9000],
  ['bench-slots', `/assets/${id('buoy_v007')}/slots`, 9000, showImages],
  ['destinations', '/destinations?show=engine-packed', 2500, changeDestination],
  ['handoff', `/assets/${id('lantern')}/handoff`, 7000, plan],
  ['receipt', `/assets/${id('lantern')}/handoff`, 4000, handOff],
  ['compare', `/assets/${id('lantern')}/compare`, 4000, compared],
  ['compare-channel', `/assets/${id('lantern')}/compare`, 6000, careless],
];

/** Shows the values under the pointer, over the net. */
async function probe() {
  await page.keyboard.press('x');
  for (const x of [1096, 1098, 1100]) {
    await page.mouse.move(x, 360);
    await page.waitForTimeout(1500);
  }
}

/** The tour refused, and two assets selected. */
async function selectTwo() {
  const refuse = page.getByRole('button', { name: 'Not now' });
  if (await refuse.isVisible()) await refuse.click();
  for (const at of [0, 1]) await page.getByRole('checkbox').nth(at).check();
  await page.waitForTimeout(500);
}

/** Every channel compared to its end. */
async function compared() {
  await page.getByText(/^comparing material/).waitFor({ state: 'hidden', timeout: 120_000 });
  await page.waitForTimeout(2000);
}

/** Some parts chosen, about to be renamed by pattern. */
async function chooseParts() {
  await page.getByText('Crate: it closes, and its faces look inwards').click();
  await page.getByText('Wedge', { exact: true }).click();
  await page.getByText('Stone', { exact: true }).click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'Rename ...' }).click();
  await page.getByLabel('New name').fill('yard_$1');
  await page.waitForTimeout(1500);
}

/** All fenders of a parcel mended where that is safe. */
async function mendMany() {
  await page.keyboard.press('Control+a');
  await page.waitForTimeout(1000);
  await page.getByRole('button', { name: 'Mend what is safe' }).click();
  await page.getByText('done', { exact: true }).waitFor({ timeout: 60_000 });
  await page.waitForTimeout(1500);
}

/** A built-in rulebook, one rule open, tried on the shelf. */
async function tryRules() {
  await page.getByRole('button', { name: /^Colour as each channel needs/ }).click();
  await page.getByRole('button', { name: 'Try', exact: true }).click();
  await page.getByText(/^Would change/).waitFor({ timeout: 90_000 });
  await page.getByAltText('as it is').first().waitFor({ timeout: 90_000 });
  await page.getByRole('heading', { name: 'Colour is no data' }).click();
  await page.waitForTimeout(800);
}

/** Opens what is asked, and looks at the second candidate. */
async function ask() {
  await page.keyboard.press('q');
  await page.waitForTimeout(2000);
  await page.keyboard.press('ArrowDown');
  await page.waitForTimeout(3000);
}

/** Shows before and after of the occlusion in the coat's colour. */
async function lookFirst() {
  await page
    .locator('[data-finding="surface.occlusionBaked"]')
    .getByRole('button', { name: 'Look first' })
    .click();
  await page.getByAltText('Base colour after').waitFor({ timeout: 30_000 });
  await page.waitForTimeout(1000);
}

/** Opens the dialog for stills, once one was taken. */
async function pictures() {
  await page.keyboard.press('t');
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Width').fill('1280');
  await dialog.getByLabel('Height').fill('800');
  const wait = page.waitForEvent('download', { timeout: 120_000 });
  await dialog.getByRole('button', { name: 'Take a still' }).click();
  await wait;
  await page.waitForTimeout(2000);
}

/** Opens the strip of the parcel's images under the board. */
async function showImages() {
  await page.getByRole('button', { name: 'Images of the parcel' }).click();
  await page.waitForTimeout(2000);
}

/** Copies a destination, one file per group, and tries it on the kit. */
async function changeDestination() {
  await page.getByRole('button', { name: 'Copy and change' }).click();
  await page.getByLabel('Model files', { exact: true }).selectOption('groups');
  const trial = page.getByLabel('Asset to try it on');
  await trial.selectOption({
    label: (await trial.locator('option').allTextContents()).find((text) => text.startsWith('kit')),
  });
  await page.waitForTimeout(2500);
}

/** Mends the lantern as a person would, and looks at the plan for an engine. */
async function plan() {
  for (const name of ['Use inverted', /Mend all that is safe/]) {
    const button = page.getByRole('button', { name });
    if (await button.isVisible()) await button.click();
    await page.waitForTimeout(3000);
  }
  await page.getByLabel('Destination', { exact: true }).selectOption('engine-packed');
  await page.waitForTimeout(3000);
}

/** Makes two packages of the lantern in one go, and shows the first one's receipt. */
async function handOff() {
  await page.getByText('In the same go').click();
  await page.getByLabel('Film renderer').check();
  await page.getByText('In the same go').click();
  await page.getByRole('button', { name: 'Make 2 packages' }).click();
  for (const [at, wait] of [
    [0, 90_000],
    [1, 90_000],
  ])
    await page
      .getByRole('list', { name: 'Handoffs' })
      .getByRole('listitem')
      .nth(at)
      .getByRole('link', { name: 'Download' })
      .waitFor({ timeout: wait });
  await page
    .getByRole('list', { name: 'Handoffs' })
    .getByRole('button', { name: /engine-packed/ })
    .first()
    .click();
  await page.waitForTimeout(4000);
}

/** The lantern against a careless reader: the normal the wrong way, and where. */
async function careless() {
  await page.getByLabel('Side B').selectOption('careless');
  await page.waitForTimeout(6000);
  await page
    .getByRole('table', { name: 'Differences', exact: true })
    .getByRole('row')
    .filter({ hasText: 'Normal' })
    .first()
    .click();
  await page.getByRole('button', { name: 'Difference', exact: true }).click();
  await page.waitForTimeout(6000);
}

const only = process.argv[3]?.split(',');
for (const [name, path, wait, act] of views) {
  if (only && !only.includes(name)) continue;
  await page.goto(address + path);
  await page.waitForTimeout(wait);
  await act?.();
  await page.screenshot({ path: join(folder, `${name}.png`) });
  say(name);
}
await browser.close();
