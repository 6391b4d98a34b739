import { execFile } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { fendersOf } from '@kinkajou/demo/cargoFenders';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import { foldView, looked, sendParcel } from './parcels.ts';

const PROGRAM = fileURLToPath(new URL('../bin/kinkajou', import.meta.url));
const CLEAN = 39;

function kinkajou(...args: string[]): Promise<number> {
  return new Promise((resolve) => execFile(PROGRAM, args, (error) => resolve(error ? Number(error.code) : 0)));
}

/** Makes the package for a destination and downloads it. */
async function handOff(page: Page, destination: string): Promise<Uint8Array> {
  await page.getByLabel('Destination', { exact: true }).selectOption(destination);
  await page.getByRole('button', { name: 'Make the package' }).click();
  const row = page.getByRole('list', { name: 'Handoffs' }).getByRole('listitem').filter({ hasText: destination });
  const wait = page.waitForEvent('download');
  await row.getByRole('link', { name: 'Download' }).click({ timeout: 60_000 });
  return new Uint8Array(await readFile(await (await wait).path()));
}

test('one asset goes to three destinations, each with a clean receipt that the command line verifies', async ({ page }) => {
  await foldView(page);
  const { files } = await fendersOf([CLEAN]);
  const assets = await sendParcel(page.request, 'Fender', files);
  const id = assets[`berth_${CLEAN}`];
  await looked(page.request, id);
  await page.goto(`/assets/${id}/handoff`);
  for (const [destination, model] of [
    ['engine-packed', `berth_${CLEAN}.fbx`],
    ['render-specgloss', `berth_${CLEAN}.fbx`],
    ['compositor-usd', `berth_${CLEAN}.usdz`],
  ]) {
    const zip = await handOff(page, destination);
    const inside = unzipSync(zip);
    expect(Object.keys(inside)).toEqual(expect.arrayContaining([model, 'README.html', 'handoff.json', 'receipt.json']));
    expect(JSON.parse(new TextDecoder().decode(inside['receipt.json'])).verdict, destination).toBe('clean');
    await expect(page.getByLabel('Receipt', { exact: true })).toContainText('second reader (three)');
    const path = join(await mkdtemp(join(tmpdir(), 'kinkajou-package-')), 'package.zip');
    await writeFile(path, zip);
    expect(await kinkajou('verify', path)).toBe(0);
  }
});
