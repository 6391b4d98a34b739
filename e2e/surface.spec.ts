import { readFile } from 'node:fs/promises';
import { encodeHdr } from '@kinkajou/core/images/hdr';
import { ropeNet } from '@kinkajou/demo/ropeNet';
import { expect, type Locator, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { smallParcel } from '../core/src/test/harbour.ts';
import { foldView, looked, sendFenders, sendParcel } from './parcels.ts';

// A small window: drawing in software is slow.
test.use({ viewport: { width: 1100, height: 600 } });

const CELLS = 8;
const CELL = 32;
const SIDE = CELLS * CELL;
const text = (value: string) => new TextEncoder().encode(value);

/** A colour of its own for each cell: all codes of 8 by 8, spread over the cube by primes. */
const codeOf = (cell: number, k: number) =>
  [(cell * 37) % 256, (cell * 91 + 40) % 256, (cell * 151 + 90) % 256][k];

async function cellsPng(components: 1 | 3, of: (cell: number, k: number) => number): Promise<Uint8Array> {
  const data = new Uint8Array(SIDE * SIDE * components);
  for (let i = 0; i < SIDE * SIDE; i += 1) {
    const cell = Math.floor((i % SIDE) / CELL) + CELLS * Math.floor(i / SIDE / CELL);
    for (let k = 0; k < components; k += 1) data[i * components + k] = of(cell, k);
  }
  return new Uint8Array(
    await sharp(data, { raw: { width: SIDE, height: SIDE, channels: components } })
      .toColourspace(components === 1 ? 'b-w' : 'srgb')
      .png()
      .toBuffer(),
  );
}

async function sendBoard(page: Page): Promise<string> {
  const { board } = await sendParcel(page.request, 'Test board', {
    'board.obj': text(
      'mtllib board.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl Board\nf 1/1 2/2 3/3 4/4\n',
    ),
    'board.mtl': text(
      'newmtl Board\nKd 1 1 1\nmap_Kd board_basecolor.png\nPr 1\nmap_Pr -imfchan g board_orm.png\nPm 1\nmap_Pm -imfchan b board_orm.png\n',
    ),
    'board_basecolor.png': await cellsPng(3, codeOf),
    'board_orm.png': await cellsPng(3, (cell, k) => codeOf(cell + 7 * k, 1)),
  });
  await looked(page.request, board);
  return board;
}

const view = (page: Page) => page.getByLabel('View', { exact: true });

/** Looks at the board from the front and returns the picture of the view with where the board lies in it. */
async function frontPicture(page: Page) {
  const canvas = view(page).locator('canvas');
  const { data, info } = await sharp(await canvas.screenshot({ animations: 'disabled' }))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height };
}

/** Columns and rows in which the middle line differs from the backdrop at the border. */
function boardIn({ data, width, height }: Awaited<ReturnType<typeof frontPicture>>) {
  const differs = (x: number, y: number) =>
    [0, 1, 2].some((k) => Math.abs(data[(y * width + x) * 3 + k] - data[(y * width + 2) * 3 + k]) > 6);
  const columns = Array.from({ length: width }, (_, x) => x).filter((x) =>
    differs(x, Math.floor(height / 2)),
  );
  const [left, right] = [columns[0], columns[columns.length - 1]];
  const rows = Array.from({ length: height }, (_, y) => y).filter((y) => differs(left + 4, y));
  return { left, right, top: rows[0], bottom: rows[rows.length - 1] };
}

async function expectCells(page: Page, of: (cell: number, k: number) => number): Promise<void> {
  await expect(async () => {
    const picture = await frontPicture(page);
    const { left, right, top, bottom } = boardIn(picture);
    expect(right - left).toBeGreaterThan(150);
    for (let cell = 0; cell < CELLS * CELLS; cell += 1) {
      const x = Math.round(left + ((right - left + 1) * ((cell % CELLS) + 0.5)) / CELLS);
      const y = Math.round(top + ((bottom - top + 1) * (Math.floor(cell / CELLS) + 0.5)) / CELLS);
      for (const k of [0, 1, 2])
        expect(
          Math.abs(picture.data[(y * picture.width + x) * 3 + k] - of(cell, k)),
          `cell ${cell} component ${k} at ${x}, ${y}`,
        ).toBeLessThanOrEqual(1);
    }
  }).toPass();
}

async function pickOption(page: Page, name: string, value: string): Promise<void> {
  await page.getByLabel(name, { exact: true }).selectOption(value);
}

test('channels are shown exactly, and the probe tells the pixel behind each number', async ({ page }) => {
  const board = await sendBoard(page);
  await page.goto(`/assets/${board}/surface`);
  await page.getByRole('button', { name: 'More about the light' }).click();
  await pickOption(page, 'Camera', 'front');
  await view(page).getByRole('button', { name: 'Base colour' }).click();
  await expectCells(page, codeOf);
  await pickOption(page, 'Other channels', 'roughness');
  await expectCells(page, (cell) => codeOf(cell + 7, 1));
  await pickOption(page, 'Other channels', 'metalness');
  await expectCells(page, (cell) => codeOf(cell + 14, 1));

  const picture = await frontPicture(page);
  const { left, right, top, bottom } = boardIn(picture);
  const box = (await view(page).locator('canvas').boundingBox()) as { x: number; y: number };
  await page.keyboard.press('x');
  // The middle of the cell in the third column and second row.
  const at = {
    x: box.x + left + ((right - left + 1) * 2.5) / CELLS,
    y: box.y + top + ((bottom - top + 1) * 1.5) / CELLS,
  };
  await page.mouse.move(at.x - 3, at.y);
  await page.mouse.move(at.x, at.y, { steps: 3 });
  const probe = page.getByRole('status', { name: 'Probe' });
  const cell = 2 + CELLS;
  await expect(probe).toContainText('Board');
  await expect(probe).toContainText(
    new RegExp(
      `${[0, 1, 2].map((k) => codeOf(cell, k)).join(' ')} at (79|80|81), (47|48|49) of board_basecolor\\.png`,
    ),
  );
  await expect(probe).toContainText((codeOf(cell + 7, 1) / 255).toFixed(3));

  await pickOption(page, 'Other channels', 'materials');
  await expect(view(page).getByRole('note')).toContainText('1 Board');
  await pickOption(page, 'Other channels', 'density');
  // One image of 256 by 256 texels over one square metre.
  await expect(view(page).getByRole('note')).toContainText('256 texels/m, all over');
});

async function downloaded(page: Page, button: Locator): Promise<{ name: string; bytes: Uint8Array }> {
  const wait = page.waitForEvent('download', { timeout: 120_000 });
  await button.click();
  const download = await wait;
  return { name: download.suggestedFilename(), bytes: new Uint8Array(await readFile(await download.path())) };
}

test('stills and turntables of the view, and the shelf takes one', async ({ page }) => {
  const board = await sendBoard(page);
  await page.goto(`/assets/${board}/surface`);
  await page.getByRole('button', { name: 'More about the light' }).click();
  await pickOption(page, 'Camera', 'front');
  await view(page).getByRole('button', { name: 'Base colour' }).click();
  await expectCells(page, codeOf);
  await page.keyboard.press('t');
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Width').fill('1300');
  await dialog.getByLabel('Height').fill('1100');
  await dialog.getByRole('button', { name: 'transparent' }).click();
  const still = await downloaded(page, dialog.getByRole('button', { name: 'Take a still' }));
  const { data, info } = await sharp(still.bytes).raw().toBuffer({ resolveWithObject: true });
  expect([info.width, info.height, info.channels]).toEqual([1300, 1100, 4]);
  expect(data[3]).toBe(0);
  // The middle lies between the four middle cells, in the second row and column of pieces: just inside each
  // of them the cell's own colour stands.
  for (const [dx, dy, cell] of [
    [-12, -12, 27],
    [12, -12, 28],
    [-12, 12, 35],
    [12, 12, 36],
  ]) {
    const at = ((550 + dy) * 1300 + 650 + dx) * 4;
    for (const k of [0, 1, 2])
      expect(Math.abs(data[at + k] - codeOf(cell, k)), `cell ${cell}`).toBeLessThanOrEqual(1);
    expect(data[at + 3]).toBe(255);
  }

  await dialog.getByLabel('Width').fill('96');
  await dialog.getByLabel('Height').fill('64');
  await dialog.getByLabel('Frames').fill('3');
  const turn = await downloaded(page, dialog.getByRole('button', { name: 'Turntable of' }));
  const frames = unzipSync(turn.bytes);
  expect(Object.keys(frames)).toEqual(['frame_0001.png', 'frame_0002.png', 'frame_0003.png']);
  expect((await sharp(frames['frame_0003.png']).metadata()).width).toBe(96);

  await dialog.getByRole('button', { name: 'EXR, light' }).click();
  const exr = await downloaded(page, dialog.getByRole('button', { name: 'Take a still' }));
  expect([...exr.bytes.slice(0, 4)]).toEqual([0x76, 0x2f, 0x31, 0x01]);

  const thumbnail = async () =>
    (await (await page.request.get('/api/shelf')).json()).assets.find(
      (asset: { id: string }) => asset.id === board,
    ).thumbnail;
  const before = await thumbnail();
  await dialog.getByRole('button', { name: "Use as the shelf's picture" }).click();
  await expect.poll(thumbnail).not.toBe(before);

  // One channel alone has no light; where the graphics card cannot follow it, the picture is as the view is.
  const light = dialog.getByLabel('Light');
  await expect(light).toBeDisabled();
  await expect(dialog).toContainText('One channel alone has no light.');
  await dialog.getByRole('button', { name: 'Close', exact: true }).click();
  await view(page).getByRole('button', { name: 'Lit' }).click();
  await page.evaluate(() => {
    const { prototype } = WebGL2RenderingContext;
    const whole = prototype.getExtension as (name: string) => unknown;
    prototype.getExtension = function (this: WebGL2RenderingContext, name: string) {
      return name === 'EXT_color_buffer_float' ? null : whole.call(this, name);
    } as typeof prototype.getExtension;
  });
  await page.keyboard.press('t');
  await light.selectOption('path-traced, 32 samples a pixel');
  await expect(dialog).toContainText('no graphics card draws here: this takes minutes');
  await dialog.getByLabel('Width').fill('96');
  await dialog.getByLabel('Height').fill('64');
  const drawn = await downloaded(page, dialog.getByRole('button', { name: 'Take a still' }));
  expect((await sharp(drawn.bytes).metadata()).width).toBe(96);
  await expect(page.getByText('cannot be path-traced here: it does not draw into floats')).toBeVisible();
});

test('premultiplied colour is undone and the edges are padded, with before and after shown', async ({
  page,
}) => {
  await foldView(page);
  const { files } = await smallParcel(ropeNet, 256);
  const { net } = await sendParcel(page.request, 'Rope net', files);
  await looked(page.request, net);
  await page.goto(`/assets/${net}/surface`);
  const finding = (code: string) => page.locator(`[data-finding="${code}"]`);
  await finding('alpha.premultiplied').getByRole('button', { name: 'Look first' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByAltText('Base colour before')).toBeVisible();
  await expect(dialog.getByAltText('Base colour after')).toBeVisible();
  await dialog.getByRole('button', { name: 'Make at full size' }).click();
  await expect(finding('alpha.premultiplied')).toHaveCount(0);
  await expect(dialog.getByTitle(/made\/Netting_\w{6}\.baseColor\.png/)).toBeVisible();
  await page.keyboard.press('Escape');
  // The clear pixels are still black: that is the fringe's finding now, beside the pennant's.
  await expect(finding('alpha.fringe')).toHaveAttribute('data-places', '2');
  await finding('alpha.fringe')
    .getByRole('button', { name: /All alike/ })
    .click();
  await expect(finding('alpha.fringe')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(finding('alpha.fringe')).toHaveAttribute('data-places', '2');
});

test('surfaces are changed together; cut-offs, heights and kept materials take hold', async ({ page }) => {
  await foldView(page);
  const ids = await sendFenders(page.request, ['surface.heightTooStrong', 'alpha.oneSided']);
  const state = async (id: string) => (await (await page.request.get(`/api/assets/${id}`)).json()).state;
  await page.goto(`/assets/${ids['surface.heightTooStrong']}/surface`);
  const sheet = page.getByLabel('Surface details');
  await sheet.getByLabel('Height as a number').fill('0.01');
  await sheet.getByLabel('Height as a number').press('Enter');
  await expect(page.locator('[data-finding="surface.heightTooStrong"]')).toHaveCount(0);
  await sheet.getByRole('group', { name: 'Mid level' }).getByRole('button', { name: '0.5' }).click();
  await expect
    .poll(async () => (await state(ids['surface.heightTooStrong'])).materials[0].channels.height.map.offset)
    .toBe(-0.5);

  await page.goto(`/assets/${ids['alpha.oneSided']}/surface`);
  await expect(sheet.getByRole('img', { name: /clear.*whole/ })).toBeVisible();
  await sheet.getByLabel('Cut-off as a number').fill('0.9');
  await sheet.getByLabel('Cut-off as a number').press('Enter');
  await expect
    .poll(async () => (await state(ids['alpha.oneSided'])).materials[0].alphaCutoff)
    .toBeCloseTo(0.9, 3);
  await sheet.getByRole('button', { name: /^best/ }).click();
  await expect
    .poll(async () => (await state(ids['alpha.oneSided'])).materials[0].alphaCutoff)
    .toBeLessThan(0.8);
  await sheet.getByRole('group', { name: 'Alpha mode' }).getByRole('button', { name: 'glass' }).click();
  await sheet.getByRole('group', { name: 'Walls' }).getByRole('button', { name: 'solid' }).click();
  await expect
    .poll(async () => (await state(ids['alpha.oneSided'])).materials[0].thickness)
    .toBeGreaterThan(0);

  await sheet.getByRole('button', { name: 'Material shelf ...' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Name on the shelf').fill('Quay glass');
  await dialog.getByRole('button', { name: 'Keep' }).click();
  await dialog.getByLabel('Name pattern').fill('Rubb*');
  await dialog.getByLabel('in every asset').check();
  await expect(dialog.getByText(/berth_\d+, Rubber/)).toBeVisible();
  await dialog.getByLabel('in every asset').uncheck();
  await page.keyboard.press('Escape');
});

test('an uploaded environment lights the view and is remembered', async ({ page }) => {
  const board = await sendBoard(page);
  await page.goto(`/assets/${board}/surface`);
  const sky = encodeHdr({
    width: 64,
    height: 32,
    components: 3,
    data: new Float32Array(64 * 32 * 3).map((_, i) => (i % 3 === 2 ? 3 : 0.2)),
  });
  await page.getByTestId('environment-file').setInputFiles({
    name: 'blue harbour.hdr',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(await sky),
  });
  const select = page.getByLabel('Environment', { exact: true });
  await expect(select.locator('option:checked')).toHaveText('blue harbour.hdr');
  const blueness = async () => {
    const { data, width, height } = await frontPicture(page);
    // Over the middle of the picture, where the board is.
    let [sum, count] = [0, 0];
    for (let y = Math.floor(height * 0.4); y < height * 0.6; y += 1)
      for (let x = Math.floor(width * 0.35); x < width * 0.65; x += 1) {
        const at = (y * width + x) * 3;
        sum += data[at + 2] - data[at];
        count += 1;
      }
    return sum / count;
  };
  await expect.poll(blueness).toBeGreaterThan(20);
  await page.reload();
  await expect(select.locator('option:checked')).toHaveText('blue harbour.hdr');
  await page.getByTestId('environment-file').setInputFiles({
    name: 'note.hdr',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from('no light in here'),
  });
  await expect(page.getByText(/note\.hdr/)).toBeVisible();
  await page.getByRole('button', { name: 'Remove blue harbour.hdr' }).click();
  await expect(select.locator('option:checked')).toHaveText('Soft studio');
});
