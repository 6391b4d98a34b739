import { readdir, readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { parcelZip } from '@kinkajou/demo/harrowQuay';
import type { DemoParcel } from '@kinkajou/demo/scene';
import { expect, type Locator, type Page, test } from '@playwright/test';
import { smallParcel } from '../core/src/test/harbour.ts';
import { foldView, looked, sendFenders, sendParcel } from './parcels.ts';

const GUIDE = fileURLToPath(new URL('../docs/guide/', import.meta.url));
/** Texels along the images of the parcels. */
const SIDE = 128;

/** What a step of the guide asks for, done; how the step begins. */
export type Step = readonly [begins: string, act: (walker: Walker) => Promise<void>];

/** Who follows a page of the guide: the page of the browser, and the asset in hand. */
export interface Walker {
  page: Page;
  /** Id of the asset in hand. */
  id: string;
}

/** A page of the guide as a test: its parcel is sent, and each of its steps is done in its order. */
export function walkGuide(
  number: string,
  { parcel, asset }: { parcel: () => Promise<DemoParcel>; asset: string },
  steps: readonly Step[],
): void {
  test(`the guide, page ${number}`, async ({ page, request }) => {
    expect(beginnings(await stepsOf(number), steps)).toEqual(steps.map(([begins]) => begins));
    await foldView(page);
    const { files } = await smallParcel(parcel, SIDE);
    const id = (await sendParcel(request, `Guide ${number}`, files))[asset];
    await looked(request, id);
    await page.goto(`/assets/${id}/intake`);
    await expect(page.getByRole('heading', { name: 'Docket' })).toBeVisible();
    for (const [begins, act] of steps) await test.step(begins, () => act({ page, id }));
  });
}

/** The beginnings of the page's own steps, as long as those that the test has for them. */
function beginnings(told: readonly string[], steps: readonly Step[]): string[] {
  return told.map((text, i) => text.slice(0, steps[i]?.[0].length));
}

/** What a page of the guide has to be done in the page, step by step, without its markup. */
async function stepsOf(number: string): Promise<string[]> {
  const name = (await readdir(GUIDE)).find((file) => file.startsWith(`${number}-`));
  const text = await readFile(`${GUIDE}${name}`, 'utf8');
  const [, steps = ''] = /## In the page\n([\s\S]*?)\n## /.exec(text) ?? [];
  // Stars between backticks are patterns.
  return [...steps.matchAll(/^\d+\. (.*)$/gm)].map(([, step]) =>
    step.replaceAll(/`([^`]*)`|\*+/g, (_, code: string | undefined) => code ?? ''),
  );
}

/** The asset as the server has it. */
export async function assetOf({ page, id }: Walker) {
  return (await page.request.get(`/api/assets/${id}`)).json();
}

/** The value of a channel of a material, or its map. */
export async function channelOf(walker: Walker, material: string, channel: string) {
  const { state } = await assetOf(walker);
  return state.materials.find((one: { key: string }) => one.key === material)?.channels[channel];
}

/** A slot on the board. */
export function cellOf(page: Page, material: string, channel: string): Locator {
  return page.locator(`[data-slot="${material}/${channel}"]`);
}

/** A kind of finding in the docket. */
export function findingOf(page: Page, code: string): Locator {
  return page.locator(`[data-finding="${code}"]`);
}

/** Takes the fender of a fault in hand, which the page of the guide calls by its name, and goes to a step. */
export async function tryFender(walker: Walker, code: string, name: string, step: string): Promise<void> {
  walker.id = (await sendFenders(walker.page.request, [code]))[code];
  expect((await assetOf(walker)).name).toBe(name);
  await walker.page.goto(`/assets/${walker.id}/${step}`);
  await expect(walker.page.getByRole('heading', { name: 'Docket' })).toBeVisible();
  await expect(findingOf(walker.page, code)).toBeVisible();
}

/** The latest of the changes of parts. */
export async function lastPartChange(walker: Walker) {
  return (await assetOf(walker)).state.parts?.at(-1);
}

/** The row of a part by its name. */
export function rowOf(page: Page, name: string): Locator {
  return page.getByRole('row').filter({ has: page.getByText(name, { exact: true }) });
}

/** Unfolds the view, which is folded where a step is about something else: drawing in software is slow. */
export async function unfoldView(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Unfold the view' }).click();
  await expect(page.getByRole('complementary', { name: 'View' })).toBeVisible();
}

/** Drops a parcel as a zip; the asset that opens is in hand. */
export async function dropZip(walker: Walker, parcel: () => Promise<DemoParcel>): Promise<void> {
  const { page } = walker;
  const buffer = Buffer.from(await parcelZip(await smallParcel(parcel, SIDE)));
  await page.goto('/intake');
  await page
    .getByTestId('pick-files')
    .setInputFiles({ name: 'dropped.zip', mimeType: 'application/zip', buffer });
  await page.waitForURL(/\/assets\/[^/]+\/links/);
  walker.id = page.url().split('/').at(-2) ?? '';
}

/** The plan, once it is for the destination that was chosen. */
export async function planFor(page: Page, title: string): Promise<Locator> {
  await page.getByLabel('Destination', { exact: true }).selectOption({ label: title });
  await expect(page.getByText(`for ${title},`)).toBeVisible();
  return page.getByRole('region', { name: 'Plan' });
}

/** A file of the plan by its name. */
export function planned(plan: Locator, file: string): Locator {
  return plan.getByRole('row').filter({ has: plan.page().getByText(file, { exact: true }) });
}
