import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { sendParcel } from './parcels.ts';

const MODEL =
  'mtllib crate.mtl\no Crate\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nusemtl Deal\nf 1/1/1 2/2/1 3/3/1 4/4/1\n';
/** Two by two pixels of brown, in a file whose name the model writes in capitals. */
const PICTURE = Buffer.from([
  0,
  0,
  2,
  0,
  0,
  0,
  0,
  0,
  0,
  0,
  0,
  0,
  2,
  0,
  2,
  0,
  24,
  0,
  ...Array.from({ length: 4 }, (_, i) => [40, 60, 90 + i]).flat(),
]);
const crate = (colour: string) => ({
  'deal.tga': PICTURE,
  'crate.obj': Buffer.from(MODEL),
  'crate.mtl': Buffer.from(
    `newmtl Deal\nKd ${colour}\nPr 0.6\nPm 0\nmap_Kd DEAL.tga\nnewmtl Spare\nKd 1 0 0\n`,
  ),
});

test('many assets are filtered, selected by keys, mended and handed over in runs that are undone as a whole', async ({
  page,
  request,
}) => {
  const quay = `Bulk${Date.now()}`;
  for (const [name, colour] of [
    ['one', '0.5 0.4 0.3'],
    ['two', '0.2 0.3 0.4'],
    ['three', '0.1 0.6 0.2'],
  ])
    await sendParcel(request, `${quay} ${name}`, crate(colour));
  await page.goto('/');
  await page.getByRole('textbox', { name: 'Search the shelf' }).fill(quay);
  await expect(page.getByText('3 assets', { exact: true })).toBeVisible();
  await page.getByLabel('Open', { exact: true }).selectOption('material.unused');
  await expect(page.getByText('3 assets', { exact: true })).toBeVisible();

  // One by a click with Ctrl, all by keys, none by Escape.
  await page
    .getByRole('link', { name: /crate/ })
    .first()
    .click({ modifiers: ['ControlOrMeta'] });
  await expect(page.getByText('1 selected')).toBeVisible();
  await page.getByRole('heading', { name: 'Shelf' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByText('1 selected')).toBeHidden();
  await page.keyboard.press('Control+a');
  await expect(page.getByText('3 selected')).toBeVisible();
  await page.getByRole('button', { name: 'keep ...' }).click();
  await page.getByLabel('Name of the selection').fill(quay);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Kept selections')).toContainText(`${quay} (3 assets)`);

  // Mended: the run tells how each fared, and takes it back.
  await page.getByRole('button', { name: 'Mend what is safe' }).click();
  const status = page.getByRole('region', { name: 'Mended what is safe in 3 assets' }).getByRole('status');
  await expect(status).toContainText('3 of 3 assets changed');
  await expect(page.getByRole('grid', { name: 'Assets of the run' }).getByRole('row')).toHaveCount(4);
  await page.getByRole('button', { name: 'Undo the run' }).click();
  await expect(status).toContainText('undone in 3');

  // Packages for all that are still selected; then off the shelf, and back.
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await page.getByLabel('Hand off').selectOption('web-gltf');
  await expect(page.getByRole('region', { name: /^3 assets for / }).getByRole('status')).toContainText(
    '3 of 3 assets changed',
  );
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await expect(page.getByText('3 assets', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Remove ...' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Removed 3 assets' }).getByRole('status')).toContainText(
    '3 of 3',
  );
  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await expect(page.getByText('Nothing on the shelf fits')).toBeVisible();
  await page.goBack();
  await page.getByRole('button', { name: 'Undo the run' }).click();
  await expect(page.getByText('Undone in 3 assets').last()).toBeVisible();
});

test('newer files reach many assets at once, packages are compared with them, and written to a folder of the server', async ({
  page,
  request,
}) => {
  const quay = `Newer${Date.now()}`;
  const name = (n: number) => `${quay.toLowerCase()}_${n}`;
  const files = (n: number, width = 1) => ({
    'deal.tga': PICTURE,
    [`${name(n)}.obj`]: Buffer.from(
      MODEL.replace('crate.mtl', `${name(n)}.mtl`).replaceAll('v 1 ', `v ${width} `),
    ),
    [`${name(n)}.mtl`]: crate('0.5 0.4 0.3')['crate.mtl'],
  });
  for (const n of [1, 2]) await sendParcel(request, `${quay} ${n}`, files(n));
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-e2e-out-'));
  const shelf = async () => {
    await page.goto('/');
    await page.getByRole('textbox', { name: 'Search the shelf' }).fill(quay);
    await expect(page.getByText('2 assets', { exact: true })).toBeVisible();
    await page.getByRole('heading', { name: 'Shelf' }).click();
    await page.keyboard.press('Control+a');
    await expect(page.getByText('2 selected')).toBeVisible();
  };
  const rows = page.getByRole('grid', { name: 'Assets of the run' });
  await shelf();
  await page.getByLabel('Hand off').selectOption('web-gltf');
  const toFolder = page.getByRole('button', { name: 'To a folder ...' });
  await expect(toFolder).toBeVisible();
  await toFolder.click();
  await page.getByLabel('Folder on the server').fill(folder);
  await page.keyboard.press('Enter');
  await expect(page.getByText(`2 packages written to ${folder}`)).toBeVisible();
  expect((await readdir(folder)).sort()).toEqual([name(1), name(2)]);
  expect(await readdir(join(folder, name(1)))).toContain('receipt.json');

  await shelf();
  await page.getByRole('button', { name: 'Compare with packages' }).click();
  await expect(rows.getByText('web-gltf: as the asset is')).toHaveCount(2);

  // One of the two is new.
  await shelf();
  const newer = `${name(2)}.obj`;
  await page
    .getByTestId('deliver-to-selected')
    .setInputFiles({ name: newer, mimeType: 'text/plain', buffer: files(2, 3)[newer] });
  await expect(rows.getByText('newer files: 1 replaced, 0 added')).toHaveCount(1);
  await expect(rows).toContainText('nothing in the delivery is called as a file of this asset');
  await shelf();
  await page.getByRole('button', { name: 'Compare with packages' }).click();
  await expect(rows.getByText('web-gltf: the asset was changed since')).toHaveCount(1);
  await expect(rows.getByText('web-gltf: as the asset is')).toHaveCount(1);
  await rm(folder, { recursive: true });
});

test('alike doubts are one question over the shelf, answered by a key, put off, and taken back', async ({
  page,
  request,
}) => {
  const run = String(Date.now());
  const words = [...run].map((digit) => 'abcdefghij'[Number(digit)]).join('');
  const ids: string[] = [];
  for (const n of [1, 2]) {
    const name = `${words}_${n}.tga`;
    const files = {
      'pile.obj': Buffer.from(MODEL.replace('crate.mtl', 'pile.mtl')),
      'pile.mtl': Buffer.from(`newmtl Deal\nKd 1 1 1\nPr 0.5\nPm 0\nmap_Kd ${name}\n`),
    };
    const tinted = (blue: number) =>
      Buffer.from(PICTURE.map((byte, i) => (i > 17 && i % 3 === 0 ? blue : byte)));
    ids.push(
      (
        await sendParcel(request, `Pile ${words} ${n}`, {
          ...files,
          [`dry/${name}`]: tinted(10 * n),
          [`wet/${name}`]: tinted(200 + n),
        })
      ).pile,
    );
  }
  // Once the pixels were looked at, it is asked about whole sets.
  const settled = async () => {
    const { questions } = await (await request.get('/api/questions')).json();
    return questions.find(
      ({ code, message }: { code: string; message: string }) =>
        code === 'set.ambiguous' && message.includes(words),
    )?.members.length;
  };
  await expect.poll(settled).toBe(2);
  await page.goto('/questions');
  const asked = page.getByRole('navigation', { name: 'All that is asked' });
  await asked.getByRole('button', { name: new RegExp(words) }).click();
  const question = page.getByRole('region', { name: 'Which images belong here?' }).first();
  await expect(question.getByRole('list', { name: 'Answers' }).getByRole('listitem')).toHaveCount(2);
  await expect(question).toContainText('settles 2 assets');
  await page.keyboard.press('n');
  await expect(asked.getByRole('button', { name: new RegExp(words) })).toBeHidden();
  await page.getByRole('button', { name: /^show \d+ put off$/ }).click();
  await asked.getByRole('button', { name: new RegExp(words) }).click();
  await page.keyboard.press('2');
  await expect(page.getByText(/, in 2 assets$/)).toBeVisible();
  for (const id of ids) {
    const { state } = await (await request.get(`/api/assets/${id}`)).json();
    expect(state.images[0].resolved).toMatch(/^wet\//);
  }
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText('Undone in 2 assets')).toBeVisible();
  await expect(asked.getByRole('button', { name: new RegExp(words) })).toBeVisible();
});
