import { bollardKit } from '@kinkajou/demo/bollardKit';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { pilotBoat } from '@kinkajou/demo/pilotBoat';
import { signalFlags } from '@kinkajou/demo/signalFlags';
import { stormLantern } from '@kinkajou/demo/stormLantern';
import { expect, type Page } from '@playwright/test';
import {
  assetOf,
  cellOf,
  channelOf,
  dropZip,
  findingOf,
  planFor,
  planned,
  tryFender,
  unfoldView,
  walkGuide,
} from './guide.ts';
import { leaveDialog } from './parcels.ts';

const surface = (page: Page, material: string) => page.locator(`[data-surface="${material}"]`);

walkGuide('01', { parcel: channelBuoy, asset: 'buoy_v007' }, [
  [
    'Drop the parcel; it opens in Links',
    async (walker) => {
      const { page } = walker;
      await dropZip(walker, channelBuoy);
      await expect(findingOf(page, 'link.missing')).toBeVisible();
      await page.keyboard.press('n');
      await page.keyboard.press('m');
      await expect(findingOf(page, 'link.missing')).toBeHidden();
      await page.getByRole('button', { name: /Link safe/ }).click();
      await expect(page.locator('[data-status="missing"]')).toHaveCount(0);
    },
  ],
  [
    'Slots (3): a packed image is split over three slots by Split in the docket',
    async ({ page }) => {
      await page.keyboard.press('3');
      await page.getByRole('button', { name: 'Split', exact: true }).click();
      const areSplit = async () => {
        for (const [channel, letter] of Object.entries({ occlusion: 'r', roughness: 'g', metalness: 'b' }))
          await expect(cellOf(page, 'Rail brass', channel)).toHaveAttribute(
            'aria-label',
            new RegExp(`buoy_rail_orm\\.png, component ${letter}`),
          );
      };
      await areSplit();
      await page.keyboard.press('Control+z');
      await expect(cellOf(page, 'Rail brass', 'metalness')).not.toHaveAttribute('aria-label', /orm/);
      await cellOf(page, 'Rail brass', 'specular').click();
      await page.keyboard.press('s');
      await areSplit();
    },
  ],
  [
    'Surface (5) says × map where pixels decide what is metal, and a number',
    async ({ page }) => {
      await page.keyboard.press('5');
      await expect(surface(page, 'Rail brass').getByRole('gridcell').nth(4)).toHaveText(/× map/);
      await expect(surface(page, 'Fender rubber').getByRole('gridcell').nth(4)).toHaveText(/^0/);
    },
  ],
  [
    'A metalness map that is all white or all black is offered as a value in the docket: drop fender berth_15',
    async (walker) => {
      await tryFender(walker, 'slot.constant', 'berth_15', 'slots');
      await expect(cellOf(walker.page, 'Rubber', 'metalness')).toHaveAttribute(
        'aria-label',
        /metalness\.png/,
      );
      await walker.page.keyboard.press('n');
      await walker.page.keyboard.press('m');
      await expect
        .poll(() => channelOf(walker, 'Rubber', 'metalness'))
        .toMatchObject({ value: 0, map: null });
    },
  ],
]);

walkGuide('03', { parcel: pilotBoat, asset: 'boat' }, [
  [
    'Colour (4) lists every image with its tag and what its numbers look like',
    async ({ page }) => {
      await page.keyboard.press('4');
      await expect(page.locator('[data-tag="Hull/baseColor"] select')).toHaveValue('srgb_rec709_scene');
      await page.locator('[data-tag="Hull/baseColor"]').click();
      await expect(page.getByText(/The numbers look linear/)).toBeVisible();
    },
  ],
  [
    'Where they disagree the docket offers the tag that fits; an exponent of your own',
    async (walker) => {
      const { page } = walker;
      await page.getByLabel('Exponent as a number').fill('2.2');
      expect((await channelOf(walker, 'Hull', 'baseColor')).map.exponent ?? 1).toBe(1);
      await page.keyboard.press('Enter');
      await expect.poll(async () => (await channelOf(walker, 'Hull', 'baseColor')).map.exponent).toBe(2.2);
      await page.keyboard.press('Control+z');
      await findingOf(page, 'colour.linearAsEncoded').locator('[data-mend]').click();
      await expect
        .poll(async () => (await channelOf(walker, 'Hull', 'baseColor')).map.space)
        .toBe('lin_rec709_scene');
    },
  ],
  [
    'Float stays float',
    async ({ page }) => {
      await page.keyboard.press('1');
      await expect(page.getByRole('row').filter({ hasText: /hull_basecolor\.1001\.exr/ })).toContainText(
        /16 bit float|32 bit float/,
      );
    },
  ],
]);

walkGuide('08', { parcel: bollardKit, asset: 'kit' }, [
  [
    'Slots (3), Images of the parcel: select images, Form materials',
    async (walker) => {
      const { page } = walker;
      await page.keyboard.press('3');
      await page.getByRole('button', { name: 'Images of the parcel' }).click();
      await page.getByLabel('Find an image').fill('oak');
      await page.locator('[data-tray*="oak_basecolor"]').click();
      await page.locator('[data-tray*="oak_normal"]').click({ modifiers: ['Control'] });
      await page.getByRole('button', { name: 'Form materials' }).click();
      await expect(page.getByRole('dialog').getByText('Base colour, Normal')).toBeVisible();
      await page.getByRole('button', { name: 'Form 1 material' }).click();
      await expect(page.getByRole('dialog')).toBeHidden();
      await expect.poll(async () => (await assetOf(walker)).log.length).toBeGreaterThan(0);
    },
  ],
  [
    'Drag one onto a part in the view or in Parts (6), a slot or a row of the board',
    async ({ page }) => {
      await cellOf(page, 'Pine', 'baseColor').scrollIntoViewIfNeeded();
      await page
        .locator('[data-tray*="oak_basecolor"]')
        .dragTo(cellOf(page, 'Pine', 'baseColor'), { steps: 8 });
      await expect(cellOf(page, 'Pine', 'baseColor')).toHaveAttribute('aria-label', /oak_basecolor/);
    },
  ],
]);

walkGuide('11', { parcel: pilotBoat, asset: 'boat' }, [
  [
    'Slots (3), Slot templates: save the wiring of a material under a name; apply it to others',
    async ({ page }) => {
      await page.keyboard.press('3');
      await cellOf(page, 'Deck', 'roughness').click();
      await page.getByRole('button', { name: 'Slot templates' }).click();
      const name = `Deck ${Date.now()}`;
      await page.getByLabel('Name of the template').fill(name);
      await page.getByRole('button', { name: 'Save', exact: true }).click();
      await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
      await page.getByLabel('Name pattern').fill('Rope');
      await page
        .getByRole('dialog')
        .getByRole('button', { name: /^Apply/ })
        .click();
      await expect(cellOf(page, 'Rope', 'baseColor')).toHaveAttribute('aria-label', /boat_rope_basecolor/);
      await page.getByRole('button', { name: 'Slot templates' }).click();
      await page.getByRole('button', { name: `Remove ${name}` }).click();
      await leaveDialog(page);
    },
  ],
  [
    'Columns show only channels that are used; Columns adds others',
    async ({ page }) => {
      await expect(cellOf(page, 'Hull', 'coat')).toHaveCount(0);
      await page.getByRole('button', { name: 'Columns', exact: true }).click();
      await page.getByLabel('Coat', { exact: true }).check();
      await expect(cellOf(page, 'Hull', 'coat')).toHaveCount(1);
      await page.getByLabel('Coat', { exact: true }).uncheck();
      await leaveDialog(page);
    },
  ],
  [
    'UDIM tiles count as one map; a gap among them is a finding',
    async ({ page }) => {
      await expect(cellOf(page, 'Hull', 'normal')).toHaveAttribute(
        'aria-label',
        /normal\.1001\.png, component rgb, data, broken/,
      );
      await expect(page.locator('[data-slot^="Hull/normal"]')).toHaveCount(1);
      await expect(findingOf(page, 'tiles.gap')).toContainText('boat_hull_normal.<UDIM>.png');
    },
  ],
]);

walkGuide('14', { parcel: stormLantern, asset: 'lantern' }, [
  [
    'Links (2): every written path with what fits, best first; Enter links it',
    async ({ page }) => {
      await page.keyboard.press('2');
      await page.locator('[data-link="lantern_brass_basecolor.tif"]').click();
      await expect(page.locator('[data-candidate]').first()).toContainText('lantern_brass_basecolor.png');
      await page.keyboard.press('Enter');
      await expect(page.locator('[data-link="lantern_brass_basecolor.tif"]')).toHaveAttribute(
        'data-status',
        'found',
      );
    },
  ],
  [
    'One confirmed path teaches the rest: R applies the rule that it taught',
    async ({ page }) => {
      await expect(page.getByTestId('rule-bar')).toContainText(/settles \d more paths/);
      await page.keyboard.press('r');
      await expect(page.locator('[data-link="lantern_iron_basecolor.png"]')).toHaveAttribute(
        'data-status',
        'found',
      );
    },
  ],
  [
    'Folders of the server to look in are named in Settings',
    async ({ page }) => {
      await page.goto('/settings');
      await expect(page.getByRole('heading', { name: 'Search folders' })).toBeVisible();
      await expect(page.getByText(/Allowed: \//)).toBeVisible();
    },
  ],
]);

walkGuide('19', { parcel: signalFlags, asset: 'flags' }, [
  [
    'Surface (5), Material shelf ...: keep the good material under a name',
    async ({ page }) => {
      await page.keyboard.press('5');
      await surface(page, 'Palette').click();
      await page.getByRole('button', { name: 'Material shelf ...' }).click();
      await page.getByLabel('Name on the shelf').fill('Guide flags');
      await page.getByRole('button', { name: 'Keep', exact: true }).click();
      await expect(page.getByRole('list', { name: 'Kept materials' })).toContainText('Guide flags');
      await leaveDialog(page);
    },
  ],
  [
    'Rulebooks: replace the material with it where the material is called *_flags; on arrival',
    async ({ page }) => {
      await page.goto('/rulebooks');
      await page.getByRole('button', { name: 'New rulebook' }).click();
      await page.getByRole('button', { name: /^A new rule/ }).click();
      await page.getByRole('button', { name: /^Without: .*finding/ }).click();
      await page.getByLabel('Add a condition').selectOption({ label: 'the material is called' });
      await page.getByLabel('the material is called', { exact: true }).fill('*_flags');
      await page.getByLabel('Action', { exact: true }).selectOption({ label: 'replace the material with' });
      await page.getByLabel('replace the material with', { exact: true }).last().fill('Guide flags');
      await page.keyboard.press('Enter');
      await page.getByRole('button', { name: 'Save', exact: true }).click();
      await expect(page.getByRole('button', { name: 'Save', exact: true })).toBeHidden();
      await page.getByLabel('on arrival').click();
      await expect(page.getByLabel('on arrival')).toBeChecked();
      const { rulebooks } = await (await page.request.get('/api/rulebooks')).json();
      const [rule] = rulebooks.find((one: { onArrival: boolean }) => one.onArrival).book.rules;
      expect(rule.when).toMatchObject({ material: '*_flags' });
      expect(rule.then).toEqual([{ do: 'replaceMaterial', with: 'Guide flags' }]);
      // Other tests send parcels to the same shelf.
      await page.getByRole('button', { name: 'Remove', exact: true }).click();
    },
  ],
  [
    'Palettes keep their pixels in every package, and the sheet asks for no filtering',
    async (walker) => {
      const { page } = walker;
      await page.goto(`/assets/${walker.id}/handoff`);
      // As large as it came, and as it is.
      const palette = planned(await planFor(page, 'Web glTF'), 'maps/Palette_basecolor.png (inside)');
      await expect(palette).toContainText('64 × 8');
    },
  ],
]);

walkGuide('20', { parcel: channelBuoy, asset: 'buoy_v007' }, [
  [
    'Drop them onto the open asset, or Assign on the board',
    async ({ page }) => {
      await page.keyboard.press('2');
      await page.getByRole('button', { name: /Link safe/ }).click();
      await page.keyboard.press('3');
      await page.getByRole('button', { name: 'Assign', exact: true }).first().click();
      await expect(cellOf(page, 'Hull paint', 'roughness')).toHaveAttribute('aria-label', /buoy_hull_orm/);
    },
  ],
  [
    'Occlusion that comes apart joins the others',
    async ({ page }) => {
      await expect(cellOf(page, 'Hull paint', 'occlusion')).toHaveAttribute('aria-label', /component r/);
    },
  ],
  [
    'Lamps are switched one by one in the view',
    async ({ page }) => {
      await unfoldView(page);
      const light = page.getByRole('group', { name: 'Light' });
      const fill = light.getByRole('button', { name: 'fill', exact: true });
      const before = await fill.getAttribute('aria-pressed');
      await fill.click();
      await expect(fill).toHaveAttribute('aria-pressed', before === 'true' ? 'false' : 'true');
    },
  ],
]);
