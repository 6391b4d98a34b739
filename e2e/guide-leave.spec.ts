import { fendersOf } from '@kinkajou/demo/cargoFenders';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { pilotBoat } from '@kinkajou/demo/pilotBoat';
import { ropeNet } from '@kinkajou/demo/ropeNet';
import { stormLantern } from '@kinkajou/demo/stormLantern';
import { expect, type Page } from '@playwright/test';
import {
  assetOf,
  cellOf,
  channelOf,
  dropZip,
  findingOf,
  lastPartChange,
  planFor,
  planned,
  tryFender,
  unfoldView,
  walkGuide,
} from './guide.ts';

async function makePackage(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Make the package' }).click();
  await expect(page.getByRole('link', { name: 'Download' }).first()).toBeVisible();
}

walkGuide('02', { parcel: stormLantern, asset: 'lantern' }, [
  [
    'Drop the zip. Mend all that is safe in the docket does everything that has one outcome',
    async (walker) => {
      const { page } = walker;
      await dropZip(walker, stormLantern);
      const open = async () => (await assetOf(walker)).findings.length;
      await page.getByRole('button', { name: /^Mend all that is safe/ }).click();
      await expect(page.locator('[data-status="missing"]')).toHaveCount(0);
      await expect.poll(open).toBeLessThan(5);
      await page.keyboard.press('Control+z');
      await expect.poll(open).toBeGreaterThan(5);
      await page.keyboard.press('Control+Shift+z');
      await expect.poll(open).toBeLessThan(5);
    },
  ],
  [
    'Answer (Q), with the number of questions, shows what is left, one after the other, on the model; a number key',
    async (walker) => {
      const { page } = walker;
      await expect(page.getByRole('button', { name: 'Answer 1 question' })).toBeVisible();
      await page.keyboard.press('q');
      await expect(page.getByTestId('question')).toContainText('Opacity 0.22');
      await page.keyboard.press('2');
      await expect(page.getByTestId('question')).toBeHidden();
      await expect.poll(async () => (await channelOf(walker, 'Glass', 'opacity')).value).toBe(0.22);
    },
  ],
  [
    "If bumps look inverted, Y on the normal's slot turns its direction",
    async ({ page }) => {
      await page.keyboard.press('3');
      await cellOf(page, 'Brass', 'normal').click();
      await expect(cellOf(page, 'Brass', 'normal')).toHaveText(/Y\+/);
      await page.keyboard.press('y');
      await expect(cellOf(page, 'Brass', 'normal')).toHaveText(/Y-/);
    },
  ],
  [
    'Hand off (8), choose a destination, Make the package',
    async ({ page }) => {
      await page.keyboard.press('8');
      await planFor(page, 'Web glTF');
      await makePackage(page);
    },
  ],
]);

walkGuide('07', { parcel: channelBuoy, asset: 'buoy_v007' }, [
  [
    'Handoff (8): choose Compositor, classic for one material per part, roughness inverted',
    async ({ page }) => {
      await page.keyboard.press('8');
      await planFor(page, 'Compositor, USD');
      await planFor(page, 'Compositor, classic');
    },
  ],
  [
    'Longest side scales the whole; Parts (6) puts the pivot to the middle of the bottom',
    async (walker) => {
      const { page } = walker;
      await page.getByLabel('Longest side in metres').fill('2');
      await expect(page.getByText('scaled to fit')).toBeVisible();
      await page.keyboard.press('Tab');
      await page.getByRole('heading', { name: 'Handoff', exact: true }).click();
      await page.keyboard.press('6');
      await page.locator('[data-part]').first().click();
      await page.getByLabel('Pivot to the').selectOption({ label: 'middle of the bottom' });
      await expect.poll(() => lastPartChange(walker)).toMatchObject({ do: 'pivot', at: 'bottom' });
    },
  ],
  [
    'Turn: once in 8 s goes along as a clip; play it in the view shows it first (O)',
    async ({ page }) => {
      await page.keyboard.press('8');
      await page
        .getByTitle(/^The whole turns/)
        .locator('select')
        .selectOption({ label: 'once in 8 s' });
      await unfoldView(page);
      const play = page.getByRole('button', { name: 'play it in the view' });
      await play.click();
      await expect(play).toHaveAttribute('aria-pressed', 'true');
      await page.keyboard.press('o');
      await expect(play).toHaveAttribute('aria-pressed', 'false');
    },
  ],
]);

walkGuide('09', { parcel: ropeNet, asset: 'net' }, [
  [
    'Handoff (8), Renderer, spec/gloss: the plan lists what is converted and what that costs',
    async ({ page }) => {
      await page.keyboard.press('8');
      const plan = await planFor(page, 'Renderer, spec/gloss');
      await expect(plan).toContainText(/glossiness/i);
    },
  ],
  [
    'Sidecar copies beside the originals are known as such, neither taken for maps nor deleted',
    async (walker) => {
      const net = walker.id;
      await tryFender(walker, 'link.sidecar', 'berth_06', 'links');
      await walker.page.getByRole('button', { name: /^unused/ }).click();
      await expect(walker.page.getByText(/copy of .*basecolor\.png, left out/)).toBeVisible();
      walker.id = net;
    },
  ],
  [
    'Materials are renamed in Surface (5), or by a rule',
    async (walker) => {
      const { page } = walker;
      await page.goto(`/assets/${walker.id}/surface`);
      await page.locator('[data-surface="Cork"]').click();
      await page.getByLabel('Name of the material').fill('Float cork');
      await page.keyboard.press('Enter');
      await expect
        .poll(async () => (await assetOf(walker)).state.materials.map(({ name }: { name: string }) => name))
        .toContain('Float cork');
    },
  ],
]);

walkGuide('10', { parcel: () => fendersOf([20, 26]), asset: 'berth_20' }, [
  [
    'On the Shelf, select what is meant (Ctrl+A takes all that the filters show)',
    async ({ page }) => {
      await page.goto('/');
      await page.getByRole('textbox', { name: 'Search the shelf' }).fill('Guide 10');
      await expect(page.getByText('2 assets', { exact: true })).toBeVisible();
      await page.getByRole('heading', { name: 'Shelf' }).click();
      await page.keyboard.press('Control+a');
      await expect(page.getByText('2 selected')).toBeVisible();
    },
  ],
  [
    'Tag images ... gives one tag to all images of a name pattern; Apply a rulebook, Colour as each channel needs',
    async (walker) => {
      const { page } = walker;
      await page.getByRole('button', { name: 'Tag images ...' }).click();
      await page.getByLabel('Images called').fill('*_roughness*');
      await page.getByLabel('are tagged').selectOption('data');
      await page.getByRole('button', { name: 'Tag them' }).click();
      await expect.poll(async () => (await channelOf(walker, 'Rubber', 'roughness')).map.space).toBe('data');
    },
  ],
  [
    'Each is a run that can be watched, stopped and undone as a whole',
    async (walker) => {
      const { page } = walker;
      await page.getByRole('button', { name: 'Undo the run' }).click();
      await expect(page.getByText(/^Undone in \d asset/).last()).toBeVisible();
      expect((await channelOf(walker, 'Rubber', 'roughness')).map.space).toBe('srgb_rec709_scene');
    },
  ],
]);

walkGuide('13', { parcel: pilotBoat, asset: 'boat' }, [
  [
    'Colour (4) shows each tag in the words of your configuration; Tag dialect chooses whose',
    async ({ page }) => {
      await page.keyboard.press('4');
      await page.getByLabel('Tag dialect').selectOption('acesCg');
      await expect(page.locator('[data-tag="Rope/baseColor"] select option:checked')).toHaveText(
        'sRGB - Texture',
      );
    },
  ],
  [
    'Handoff (8), Film renderer: colour as half-float EXR in ACEScg, data raw, tiles kept',
    async ({ page }) => {
      await page.keyboard.press('8');
      const plan = await planFor(page, 'Film renderer');
      for (const tile of [1001, 1002, 1003])
        await expect(planned(plan, `maps/Hull_basecolor.${tile}.exr`)).toContainText('half');
      await makePackage(page);
    },
  ],
  [
    'Compare (7) lays the package beside the asset; Base colour in the view shows both unlit',
    async ({ page }) => {
      await page.getByRole('link', { name: 'Compare' }).first().click();
      await expect(page.getByLabel('Side B').locator('option:checked')).toContainText('Film renderer');
      await unfoldView(page);
      await page.getByRole('button', { name: 'Base colour', exact: true }).click();
      await expect(page.getByRole('table', { name: 'Differences' })).toContainText('Base colour');
    },
  ],
]);

walkGuide('17', { parcel: stormLantern, asset: 'lantern' }, [
  [
    'Surface (5): glass that only blends is set to glass in the row Alpha, and transmits',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('5');
      await page.locator('[data-surface="Glass"]').click();
      await page.getByRole('button', { name: 'glass', exact: true }).click();
      await expect.poll(async () => (await channelOf(walker, 'Glass', 'transmission'))?.value).toBe(1);
      const lantern = walker.id;
      await tryFender(walker, 'glass.opaque', 'berth_36', 'surface');
      await findingOf(page, 'glass.opaque').getByRole('button', { name: 'Let light through' }).click();
      await expect(findingOf(page, 'glass.opaque')).toBeHidden();
      walker.id = lantern;
    },
  ],
  [
    'Slots (3): the letter in each cell says which component goes where, data that it is no colour',
    async (walker) => {
      const { page } = walker;
      await page.goto(`/assets/${walker.id}/slots`);
      await page.getByRole('button', { name: /^Mend all that is safe/ }).click();
      await expect(cellOf(page, 'Brass', 'roughness')).toHaveText(/1-r.*data/);
    },
  ],
  [
    'Handoff (8), Engine, packed maps: what is translucent is written so, and the sheet says how to light it',
    async ({ page }) => {
      await page.keyboard.press('8');
      const plan = await planFor(page, 'Engine, packed maps');
      await expect(plan).toContainText('for the receiver');
    },
  ],
]);
