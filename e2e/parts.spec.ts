import { PARCELS } from '@kinkajou/demo/harrowQuay';
import { type APIRequestContext, expect, type Page, test } from '@playwright/test';
import { leaveDialog, sendParcel } from './parcels.ts';

// A small window: drawing in software is slow.
test.use({ viewport: { width: 1100, height: 700 } });

const row = (page: Page, name: string) =>
  page.getByRole('row').filter({ has: page.getByText(name, { exact: true }) });

/** The yard with its timber alone, as a parcel of this name. */
async function sendYard(request: APIRequestContext, name: string): Promise<string> {
  const { files } = await PARCELS['mooring-stair']();
  const only = Object.fromEntries(Object.entries(files).filter(([path]) => /yard\.usda|timber/.test(path)));
  return (await sendParcel(request, name, only)).yard;
}

test('parts are placed by handles and by numbers, seen before they are kept, and undone', async ({
  page,
  request,
}) => {
  const id = await sendYard(request, 'Yard to place');
  await page.goto(`/assets/${id}/parts`);
  const tick = page.getByLabel('Move along X, m');
  await row(page, 'Bar').click();
  await page.keyboard.press('b');
  await expect(tick).toBeFocused();
  await expect(page.getByRole('button', { name: 'Place', exact: true })).toBeDisabled();
  await page.keyboard.press('Escape');
  await expect(tick).toBeHidden();

  // All at once, about their middle, which is the middle of the view: its handle moves them.
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Place ...' }).click();
  const box = await page.locator('canvas').boundingBox();
  const [x, y] = [(box?.x ?? 0) + (box?.width ?? 0) / 2, (box?.y ?? 0) + (box?.height ?? 0) / 2];
  const moved = async () => {
    const values = await Promise.all(
      ['X', 'Y', 'Z'].map((axis) => page.getByLabel(`Move along ${axis}, m`).inputValue()),
    );
    return values.some((value) => Math.abs(Number(value)) > 0.05);
  };
  await expect
    .poll(async () => {
      // Until the view has drawn the handles there is nothing to take hold of.
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.move(x + 30, y - 15);
      await page.mouse.move(x + 60, y - 30);
      await page.mouse.up();
      return moved();
    })
    .toBe(true);
  await page.getByRole('button', { name: 'Leave' }).click();

  // By numbers; the size of the row tells what came of it.
  await row(page, 'Bell').click();
  await page.keyboard.press('b');
  await page.getByLabel('Move along Y, m').fill('1.5');
  await page.getByLabel('Times its size').fill('2');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Bell: moved by 0, 1.5, 0 m, 2 times its size')).toBeVisible();
  const kept = async () => {
    const { state } = await (await request.get(`/api/assets/${id}`)).json();
    return state.parts ?? [];
  };
  await expect.poll(kept).toMatchObject([{ do: 'place', parts: ['Bell'], move: [0, 1.5, 0], scale: 2 }]);
  await page.keyboard.press('Control+z');
  await expect.poll(kept).toEqual([]);
});

test('parts are found, selected, dropped, renamed, grouped, mended and undone by keys, and go out so', async ({
  page,
  request,
}) => {
  const id = await sendYard(request, 'Yard');
  await page.goto(`/assets/${id}/parts`);
  await expect(page.getByText('12 parts')).toBeVisible();
  await expect(page.getByText('Crate: it closes, and its faces look inwards')).toBeVisible();

  // The faces that a finding is about are tinted; a person stands beside the asset.
  await page.getByText('Crate: it closes, and its faces look inwards').click();
  await expect(page.getByText('12 triangles tinted: Inside out')).toBeVisible();
  await page.getByRole('button', { name: 'A person of 1.75 m beside the asset' }).click();

  // Found by pattern, all of them selected, dropped and brought back, without the mouse.
  await page.keyboard.press('/');
  await page.keyboard.type('/^[PW]/');
  await expect(page.getByText('2 of 12 parts')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByText('2 of 12 parts, 2 selected')).toBeVisible();
  await page.keyboard.press('Delete');
  await expect(row(page, 'Wedge').getByText('Wedge', { exact: true })).toHaveClass(/line-through/);
  await expect(page.getByText('Faces without area')).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('Faces without area')).toBeVisible();
  await page.keyboard.press('Control+y');
  await page.getByLabel('Parts whose names fit').fill('');

  // Arrows and Shift select; names by pattern; a group.
  await row(page, 'Ring').click();
  await page.keyboard.press('Shift+ArrowDown');
  await page.getByRole('button', { name: 'Rename ...' }).click();
  await page.getByLabel('New name').fill('iron_$1');
  await page.getByRole('button', { name: 'Rename 2' }).click();
  await expect(row(page, 'iron_Ring')).toBeVisible();
  await page.getByRole('button', { name: 'Group ...' }).click();
  await page.getByLabel('Name of the group').fill('Irons');
  await page.getByRole('button', { name: 'Do it' }).click();
  await expect(row(page, 'Irons')).toBeVisible();
  await page.getByRole('button', { name: 'Fold Irons' }).click();
  await expect(row(page, 'iron_Ring')).toBeHidden();

  // A finding's mend, a collision shape, a pivot and another material.
  await page.getByRole('button', { name: 'Turn its faces' }).click();
  await expect(page.getByText('Crate: it closes')).toBeHidden();
  await row(page, 'Bell').click();
  await page.getByRole('button', { name: 'Collision ...' }).click();
  await page.getByLabel('Shape for collision').selectOption('hull');
  await page.getByRole('button', { name: 'Give it' }).click();
  await expect(row(page, 'Bell').getByText('+hull')).toBeVisible();
  await page.getByLabel('Pivot to the').selectOption('bottom');
  await expect(page.getByText('Pivot far off')).toBeHidden();
  await page.getByLabel('Material', { exact: true }).selectOption('Pitch');
  await expect(row(page, 'Bell').getByText('Pitch')).toBeVisible();
  await page.getByRole('button', { name: 'Hide Bell' }).click();
  await expect(page.getByRole('button', { name: 'show 1 hidden' })).toBeVisible();

  const { parts } = (await (await request.get(`/api/assets/${id}`)).json()).state;
  expect(parts.map((change: { do: string }) => change.do)).toEqual([
    'drop',
    'rename',
    'group',
    'turnFaces',
    'collision',
    'pivot',
  ]);
});

test('a part is picked in the view and found in the tree, and what it takes is told', async ({
  page,
  request,
}) => {
  const { files } = await PARCELS['mooring-stair']();
  const only = Object.fromEntries(Object.entries(files).filter(([path]) => /stair\.fbx|timber/.test(path)));
  const { stair: id } = await sendParcel(request, 'Stair', only);
  await page.goto(`/assets/${id}/parts`);
  const canvas = page.locator('canvas').first();
  await expect(canvas).toBeVisible();
  const clickMiddle = async () => {
    const box = await canvas.boundingBox();
    await page.mouse.click((box?.x ?? 0) + (box?.width ?? 0) / 2, (box?.y ?? 0) + (box?.height ?? 0) / 2);
  };
  const assetOf = async () => (await request.get(`/api/assets/${id}`)).json();
  const stateOf = async () => (await assetOf()).state;
  const { bounds } = (await assetOf()).source;
  await expect(async () => {
    await clickMiddle();
    await expect(page.getByText('1 part, 1 selected')).toBeVisible({ timeout: 4000 });
  }).toPass();

  // Six treads of 1.2 by 0.06 by 0.3 and two stringers of 0.08 by 1.6 by 0.12.
  await page.getByRole('button', { name: 'areas, volumes ...' }).click();
  const sums = page
    .getByRole('dialog', { name: 'Areas and volumes' })
    .getByRole('row')
    .filter({ hasText: 'Timber' });
  await expect(sums).toContainText('6.718');
  await expect(sums).toContainText('0.1603');
  await page.keyboard.press('Escape');
  // Hulls by default; then no more than two, each of which is at least a box of twelve triangles; then half
  // of its own triangles.
  await page.getByRole('button', { name: 'Collision ...' }).click();
  await page.getByRole('button', { name: 'Give it' }).click();
  const drawn = page.getByText(/collision: 1 part, \d+ triangles/);
  await expect(drawn).toBeVisible();
  const trianglesDrawn = async () => Number(/(\d+) triangles/.exec((await drawn.textContent()) ?? '')?.[1]);
  const many = await trianglesDrawn();
  await page.getByLabel('at most').fill('2');
  await page.keyboard.press('Enter');
  await expect.poll(trianglesDrawn).toBeLessThan(many);
  await page.getByLabel('Shape for collision').selectOption({ label: 'its own faces' });
  await page.getByLabel('of its triangles, %').fill('500');
  await page.keyboard.press('Enter');
  expect(
    await page
      .getByLabel('of its triangles, %')
      .evaluate((box: HTMLInputElement) => box.validity.rangeOverflow),
  ).toBe(true);
  await page.getByLabel('of its triangles, %').fill('50');
  await page.keyboard.press('Enter');
  await expect
    .poll(async () => (await stateOf()).parts.at(-1))
    .toMatchObject({ do: 'collision', shape: 'mesh', keep: 0.5 });

  await page.keyboard.press('Escape');
  await expect(page.getByLabel('Shape for collision')).toBeHidden();

  // The pivot where a click says, or nowhere else; the turn that can go along, in the view.
  await page.getByLabel('Pivot to the').selectOption({ label: 'place picked in the view ...' });
  await expect(page.getByText(/Click the place that the selected parts turn about/)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByText(/Click the place/)).toBeHidden();
  await page.getByLabel('Pivot to the').selectOption({ label: 'place picked in the view ...' });
  await clickMiddle();
  await expect.poll(async () => (await stateOf()).parts.at(-1).do).toBe('pivot');
  const { at } = (await stateOf()).parts.at(-1);
  // On the stair: within its bounds, on one of its faces.
  for (const [k, value] of at.entries()) {
    expect(value).toBeGreaterThanOrEqual(bounds.min[k] - 1e-3);
    expect(value).toBeLessThanOrEqual(bounds.max[k] + 1e-3);
  }
  await page.keyboard.press('o');
  await expect(page.getByRole('button', { name: /Stop the turn/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('o');
  await expect(page.getByRole('button', { name: /Turn about the middle/ })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
  const csv = await request.get(`/api/assets/${id}/takeoff?as=csv`);
  expect(await csv.text()).toContain('Stair,Timber,48,6.718400,0.160320000');

  // Cut into its solids, each is a part: found by form, and picked in the view, which shows them as they are
  // now.
  const shown = page.waitForResponse((response) => response.url().includes('/geometry?of=') && response.ok());
  await page.getByLabel('Cut', { exact: true }).selectOption({ label: 'into solids' });
  await expect(page.getByText('9 parts, 1 selected')).toBeVisible();
  await shown;
  await row(page, 'Stair_1').click();
  await page.getByLabel('Select alike').selectOption({ label: 'of the same form (6)' });
  await expect(page.getByText('9 parts, 6 selected')).toBeVisible();
  await page.keyboard.press('Delete');
  await expect(row(page, 'Stair_6').getByText('Stair_6', { exact: true })).toHaveClass(/line-through/);
  await expect(row(page, 'Stair_7').getByText('Stair_7', { exact: true })).not.toHaveClass(/line-through/);
  // The page is ahead of the server.
  const left = async () =>
    (await (await request.get(`/api/assets/${id}/takeoff?as=csv`)).text()).match(/^Stair_\d,.*$/gm);
  await expect
    .poll(left)
    .toEqual(['Stair_7,Timber,6,0.659200,0.015360000', 'Stair_8,Timber,6,0.659200,0.015360000']);
});

test('another asset is joined by keys, stands where it is put, and is taken back', async ({
  page,
  request,
}) => {
  const cube = (name: string) => ({
    [`${name}.obj`]: new TextEncoder().encode(
      `o ${name}_top\nv 0 0 0\nv 1 0 0\nv 1 0 1\nv 0 0 1\nf 1 4 3 2\n`,
    ),
  });
  const { jetty: id } = await sendParcel(request, 'Jetty', cube('jetty'));
  // Other tests keep assets of their own on the shelf, and so does a first try of this one.
  const lights = `Harbour lights ${test.info().retry + 1}`;
  await sendParcel(request, lights, cube('beacon'));
  await page.goto(`/assets/${id}/parts`);
  await expect(page.getByText('1 part', { exact: true })).toBeVisible();
  await page.locator('body').press('j');
  const dialog = page.getByRole('dialog', { name: 'Join another asset' });
  await expect(dialog.getByRole('button', { name: 'Join', exact: true })).toBeDisabled();
  await page.keyboard.type(lights.toLowerCase());
  const beacon = dialog.getByRole('radio', { name: 'beacon' });
  await expect(dialog.getByRole('radio')).toHaveCount(1);
  // Where somebody kept a selection, a choice among them comes first.
  await expect(async () => {
    await page.keyboard.press('Tab');
    await expect(beacon).toBeFocused({ timeout: 1000 });
  }).toPass();
  await page.keyboard.press('Space');
  await expect(dialog.getByLabel('Name of its group')).toHaveValue('beacon');
  await dialog.getByLabel('Y, m').fill('high');
  await expect(dialog.getByText('Places are numbers')).toBeVisible();
  await dialog.getByLabel('Y, m').fill('2.5');
  await dialog.getByLabel('Times its size').fill('3');
  await page.keyboard.press('Enter');
  await expect(dialog).toBeHidden();
  await expect(row(page, 'beacon')).toBeVisible();
  await expect(row(page, 'beacon_top')).toBeVisible();
  const { source } = await (await request.get(`/api/assets/${id}`)).json();
  expect(source.bounds).toEqual({ min: [0, 0, 0], max: [3, 2.5, 3] });

  await page.keyboard.press('2');
  await page.getByRole('button', { name: 'Deliveries' }).click();
  await expect(page.getByTestId('delivery')).toContainText('Joined beacon');
  await page.getByRole('button', { name: 'Take back' }).click();
  await expect(page.getByText('The asset stands as it was first delivered.')).toBeVisible();
  await leaveDialog(page);
  await page.keyboard.press('6');
  await expect(page.getByText('1 part', { exact: true })).toBeVisible();
});
