import { bollardKit } from '@kinkajou/demo/bollardKit';
import { fendersOf } from '@kinkajou/demo/cargoFenders';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { mooringStair } from '@kinkajou/demo/mooringStair';
import { oilskinCoat } from '@kinkajou/demo/oilskinCoat';
import { ropeNet } from '@kinkajou/demo/ropeNet';
import { expect, type Page } from '@playwright/test';
import {
  assetOf,
  channelOf,
  findingOf,
  lastPartChange,
  planFor,
  rowOf,
  tryFender,
  unfoldView,
  walkGuide,
} from './guide.ts';
import { leaveDialog } from './parcels.ts';

async function findRopes(page: Page): Promise<void> {
  await page.getByLabel('Parts whose names fit').fill('*_rope_*');
  await page.keyboard.press('Enter');
}

walkGuide('04', { parcel: oilskinCoat, asset: 'coat' }, [
  [
    'Intake (1): scale, axis and size, with the person of 1.75 m beside it',
    async ({ page }) => {
      await expect(page.getByLabel('Up axis')).toBeVisible();
      await unfoldView(page);
      await page.getByRole('button', { name: 'A person of 1.75 m beside the asset' }).click();
      await expect(page.getByRole('button', { name: 'A person of 1.75 m beside the asset' })).toHaveAttribute(
        'aria-pressed',
        'true',
      );
      // At the side, full, folded.
      for (let i = 0; i < 2; i += 1) await page.keyboard.press('v');
      await expect(page.getByRole('button', { name: 'Unfold the view' })).toBeVisible();
    },
  ],
  [
    "The docket's Map is tinted is mended by Neutralise, once for all alike (Shift+M)",
    async (walker) => {
      const { page } = walker;
      await findingOf(page, 'surface.tint').getByRole('button').first().click();
      await page.keyboard.press('Shift+M');
      await expect(findingOf(page, 'surface.tint')).toBeHidden();
      for (const material of ['Oilskin', 'Lining'])
        await expect
          .poll(async () => (await channelOf(walker, material, 'baseColor')).value)
          .toEqual([1, 1, 1]);
    },
  ],
  [
    'Links (2): an image that was found once serves every material',
    async ({ page }) => {
      await page.keyboard.press('2');
      await expect(page.locator('[data-status="found"]')).not.toHaveCount(0);
      await expect(page.locator('[data-status="missing"]')).toHaveCount(0);
    },
  ],
  [
    'A garment or a lamp that belongs with it: Parts (6), join ... (J)',
    async ({ page }) => {
      await page.keyboard.press('6');
      await expect(page.getByText(/^\d+ parts$/)).toBeVisible();
      await page.keyboard.press('j');
      await expect(page.getByRole('dialog', { name: 'Join another asset' })).toBeVisible();
      await leaveDialog(page);
    },
  ],
  [
    'Handoff (8), destination Garment figure; its unit is yours to choose',
    async ({ page }) => {
      await page.keyboard.press('8');
      const plan = await planFor(page, 'Garment figure');
      const planned = page.waitForRequest((request) => request.url().endsWith('/plan'));
      await page.getByLabel('Unit').selectOption({ label: 'millimetres' });
      expect((await planned).postDataJSON().choices.metresPerUnit).toBe(0.001);
      await expect(plan).toBeVisible();
    },
  ],
]);

walkGuide('05', { parcel: ropeNet, asset: 'net' }, [
  [
    'Surface (5): the docket names values that no such material has, such as the index of berth_28',
    async (walker) => {
      const net = walker.id;
      await tryFender(walker, 'surface.indexImplausible', 'berth_28', 'surface');
      await walker.page.keyboard.press('n');
      await walker.page.keyboard.press('m');
      await expect.poll(async () => (await channelOf(walker, 'Rubber', 'ior')).value).toBe(1.5);
      walker.id = net;
    },
  ],
  [
    "Height is tuned in fractions of the object's size (berth_38 is told to be too strong)",
    async (walker) => {
      const { page } = walker;
      const net = walker.id;
      await tryFender(walker, 'surface.heightTooStrong', 'berth_38', 'surface');
      walker.id = net;
      await page.goto(`/assets/${net}/surface`);
      await page.locator('[data-surface="Spar"]').click();
      await page.getByLabel('Height as a number').fill('0.002');
      await page.keyboard.press('Enter');
      await expect.poll(async () => (await channelOf(walker, 'Spar', 'height')).value).toBeCloseTo(0.002, 6);
      const displace = page.getByRole('button', { name: 'displace in view' });
      const before = await displace.getAttribute('aria-pressed');
      await displace.click();
      await expect(displace).toHaveAttribute('aria-pressed', before === 'true' ? 'false' : 'true');
    },
  ],
  [
    'Colour (4): a normal or roughness tagged as colour is data (berth_20); Shift+M mends all alike',
    async (walker) => {
      await tryFender(walker, 'colour.dataAsColour', 'berth_20', 'colour');
      await walker.page.keyboard.press('n');
      await walker.page.keyboard.press('Shift+M');
      await expect.poll(async () => (await channelOf(walker, 'Rubber', 'roughness')).map.space).toBe('data');
    },
  ],
]);

walkGuide('06', { parcel: bollardKit, asset: 'kit' }, [
  [
    'Surface (5), Start from ...: choose a metal for the selected materials',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('5');
      await page.locator('[data-surface="Brass"]').click();
      await page.getByLabel('Start from').selectOption('gold');
      await expect.poll(async () => (await channelOf(walker, 'Brass', 'metalness'))?.value).toBe(1);
      // It has an image.
      expect((await channelOf(walker, 'Brass', 'baseColor')).value).toEqual([1, 1, 1]);
      await page.getByLabel('Start from').selectOption({ label: 'By n and k of your own ...' });
      await page.getByLabel('n in red').fill('2');
      await page.getByRole('button', { name: /^Make Brass this metal/ }).click();
      await expect(page.getByRole('dialog')).toBeHidden();
    },
  ],
  [
    'Slots (3): a glossiness map is read inverted (I) where roughness is wanted',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('3');
      await page.getByRole('button', { name: 'Assign', exact: true }).first().click();
      await expect.poll(async () => (await channelOf(walker, 'Brass', 'roughness'))?.map?.invert).toBe(false);
      await page.locator('[data-slot="Brass/roughness"]').click();
      await page.keyboard.press('i');
      await expect.poll(async () => (await channelOf(walker, 'Brass', 'roughness')).map.invert).toBe(true);
    },
  ],
]);

walkGuide('12', { parcel: bollardKit, asset: 'kit' }, [
  [
    'Parts (6): type *_rope_* into the search, select all, Delete drops them',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('6');
      await findRopes(page);
      await expect(page.getByText(/(\d+) of \d+ parts, \1 selected/)).toBeVisible();
      await page.keyboard.press('Delete');
      await expect.poll(() => lastPartChange(walker)).toMatchObject({ do: 'drop' });
      await expect(page.locator('.line-through').first()).toContainText('_rope_');
    },
  ],
  [
    'Numbers of materials are set beside their names in Surface (5); parts take a material by Material in Parts',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('5');
      await page.locator('[data-surface="Oak"]').click();
      await page.getByLabel('Number of the material').fill('7');
      await page.keyboard.press('Enter');
      await expect.poll(async () => (await assetOf(walker)).state.numbers).toEqual({ Oak: 7 });
      await page.keyboard.press('6');
      await findRopes(page);
      await page.getByLabel('Material', { exact: true }).selectOption('Zinc');
      await expect(page.locator('[role=row]').filter({ hasText: '_rope_' }).first()).toContainText('Zinc');
    },
  ],
  [
    'Collision ... gives shapes to parts, drawn over them',
    async ({ page }) => {
      await page.getByLabel('Parts whose names fit').fill('');
      await page.locator('[data-part]').nth(1).click();
      await page.getByRole('button', { name: 'Collision ...' }).click();
      await page.getByLabel('Shape for collision').selectOption('hull');
      await page.getByRole('button', { name: 'Give it' }).click();
      await expect(page.getByText('+hull').first()).toBeVisible();
    },
  ],
  [
    'A destination of your own can split into one file per group: Destinations, Model files',
    async ({ page }) => {
      await page.goto('/destinations');
      await page.getByRole('button', { name: /^Copy/ }).click();
      const own = page.getByRole('button', { name: /^Web glTF, own/ });
      await expect(own.last()).toBeVisible();
      const count = await own.count();
      await page.getByLabel('Model files', { exact: true }).first().selectOption({ label: 'one per group' });
      await page
        .getByRole('button', { name: /^Remove/ })
        .first()
        .click();
      await expect(own).toHaveCount(count - 1);
    },
  ],
]);

walkGuide('15', { parcel: channelBuoy, asset: 'buoy_v007' }, [
  [
    'Drop the newer files onto the open asset: a conflict is asked about once',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('2');
      await page.getByRole('button', { name: /Link safe/ }).click();
      const [image] = (await assetOf(walker)).images;
      const bytes = await (await page.request.get(`/api/blobs/${image.sha256}`)).body();
      const file = { name: image.path.split('/').at(-1), mimeType: 'image/png', buffer: bytes };
      await page.getByTestId('add-images').setInputFiles(file);
      const dialog = page.getByRole('dialog');
      for (const answer of ['Reuse', 'Replace', 'Keep both'])
        await expect(dialog.getByRole('button', { name: new RegExp(`^${answer}`) })).toBeVisible();
      await dialog.getByRole('button', { name: /^Reuse/ }).click();
      await expect(dialog).toBeHidden();
    },
  ],
  [
    'The list of commands (Ctrl+K), Newer files of this asset, has a folder watched for them',
    async ({ page }) => {
      await page.keyboard.press('Control+k');
      await page.keyboard.type('Newer files of this asset');
      await page.keyboard.press('Enter');
      await expect(page.getByRole('dialog', { name: /Deliveries|Newer/ })).toContainText(/watch/i);
      await leaveDialog(page);
    },
  ],
  [
    'Parts (6), Pivot to the ..., balance point; the environment turns',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('6');
      await page.locator('[data-part]').first().click();
      await page.getByLabel('Pivot to the').selectOption({ label: 'balance point' });
      await expect.poll(() => lastPartChange(walker)).toMatchObject({ do: 'pivot', at: 'balance' });
      await unfoldView(page);
      await page.getByLabel('Turn of the light in degrees').fill('90');
      await expect(page.getByText('90°')).toBeVisible();
    },
  ],
]);

walkGuide('16', { parcel: mooringStair, asset: 'stair' }, [
  [
    'Parts (6): select the lump, Cut, into solids; each is a part at once',
    async ({ page }) => {
      await page.keyboard.press('6');
      await page.locator('[data-part]').first().click();
      await page.getByLabel('Cut', { exact: true }).selectOption({ label: 'into solids' });
      // Six treads and two stringers below the stair.
      await expect(page.getByText('9 parts, 1 selected')).toBeVisible();
    },
  ],
  [
    'Select alike takes all of the same form; Material gives one to all of them',
    async (walker) => {
      const { page } = walker;
      await rowOf(page, 'Stair_1').click();
      await page.getByLabel('Select alike').selectOption({ label: 'of the same form (6)' });
      await expect(page.getByText('9 parts, 6 selected')).toBeVisible();
      await page.getByLabel('Material', { exact: true }).selectOption('Timber');
      await expect.poll(async () => (await assetOf(walker)).log.at(-1)?.text ?? '').toMatch(/Timber/);
    },
  ],
  [
    'areas, volumes ... shows the sums and the CSV; what does not close is named',
    async ({ page }) => {
      await page.getByRole('button', { name: 'areas, volumes ...' }).click();
      const sums = page.getByRole('dialog', { name: 'Areas and volumes' });
      // Six treads of 1.2 by 0.06 by 0.3 and two stringers of 0.08 by 1.6 by 0.12.
      await expect(sums.getByRole('row').filter({ hasText: 'Timber' })).toContainText('0.1603');
      await expect(sums.getByRole('link', { name: 'CSV' })).toBeVisible();
    },
  ],
]);

walkGuide('18', { parcel: mooringStair, asset: 'yard' }, [
  [
    'Intake (1), What to take: parts, up axis, unit, turn and size',
    async (walker) => {
      const { page } = walker;
      const take = page.getByRole('form', { name: 'What to take' });
      await take.getByLabel(/^Cameras/).uncheck();
      await take.getByLabel('Up axis').selectOption('Z');
      await take.getByLabel('Unit').selectOption({ label: 'centimetres' });
      await take.getByRole('button', { name: 'Take it so' }).click();
      await expect
        .poll(async () => (await assetOf(walker)).state.intake)
        .toMatchObject({ up: 'Z', metresPerUnit: 0.01 });
    },
  ],
  [
    'What is chosen holds for later models of the same program; As stated takes it back',
    async (walker) => {
      await walker.page.getByRole('button', { name: 'As stated' }).click();
      await expect
        .poll(async () => (await assetOf(walker)).state.intake)
        .toMatchObject({ up: null, metresPerUnit: null });
    },
  ],
]);

walkGuide('21', { parcel: () => fendersOf([3]), asset: 'berth_03' }, [
  [
    'Surface (5), Make ..., the normal from grey levels: strength and blur',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('5');
      await page.locator('[data-surface="Rubber"]').click();
      await page.getByLabel('Make images').selectOption('normal');
      const dialog = page.getByRole('dialog');
      await dialog.getByRole('button', { name: 'Roughness', exact: true }).click();
      await expect(dialog.getByTestId('reads')).toContainText('berth_03_roughness.png');
      await dialog.getByRole('button', { name: /^Make at full size/ }).click();
      await page.keyboard.press('Escape');
      await expect
        .poll(async () => (await channelOf(walker, 'Rubber', 'normal')).map.image)
        .toMatch(/normal/);
    },
  ],
  [
    'Parts (6), Collision ...: box, hull, several hulls or its own faces',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('6');
      await page.locator('[data-part]').nth(1).click();
      await page.getByRole('button', { name: 'Collision ...' }).click();
      await page.getByLabel('Shape for collision').selectOption('box');
      await page.getByRole('button', { name: 'Give it' }).click();
      await expect.poll(() => lastPartChange(walker)).toMatchObject({ do: 'collision', shape: 'box' });
    },
  ],
  [
    'The package holds model, maps, collision and sheet as one',
    async ({ page }) => {
      await page.keyboard.press('8');
      const files = (await planFor(page, 'Engine, packed maps')).getByRole('table', { name: 'Files' });
      await expect(files).toContainText('the model');
      await expect(files).toContainText('for the receiver');
    },
  ],
]);
