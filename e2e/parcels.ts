import { fendersOf, fenderWith } from '@kinkajou/demo/cargoFenders';
import { parcelZip } from '@kinkajou/demo/harrowQuay';
import { type APIRequestContext, expect, type Page } from '@playwright/test';

/** Sends files as one parcel and waits until it is read; returns the ids of its assets by name. */
export async function sendParcel(
  request: APIRequestContext,
  name: string,
  files: Record<string, Uint8Array>,
): Promise<Record<string, string>> {
  const { id } = await (await request.post('/api/parcels', { data: { name } })).json();
  for (const [path, bytes] of Object.entries(files)) {
    const sent = await request.put(`/api/parcels/${id}/files?path=${encodeURIComponent(path)}`, {
      data: Buffer.from(bytes),
    });
    if (!sent.ok()) throw new Error(await sent.text());
  }
  await request.post(`/api/parcels/${id}/close`);
  for (;;) {
    const parcel = await (await request.get(`/api/parcels/${id}`)).json();
    if (parcel.state === 'failed') throw new Error(JSON.stringify(parcel.faults));
    if (parcel.state === 'ready') break;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  const { assets } = await (await request.get('/api/shelf')).json();
  return Object.fromEntries(
    assets
      .filter((asset: { parcelId: string }) => asset.parcelId === id)
      .map((asset: { name: string; id: string }) => [asset.name, asset.id]),
  );
}

/**
 * One fender of the harbour per code, sent as one parcel; ids by code. Waits until the pixels were looked at.
 */
export async function sendFenders(
  request: APIRequestContext,
  codes: readonly string[],
): Promise<Record<string, string>> {
  const numbers = codes.map(fenderWith);
  const parcel = await fendersOf(numbers);
  const assets = await sendParcel(request, 'Fenders', { 'fenders.zip': await parcelZip(parcel) });
  const ids = Object.fromEntries(
    codes.map((code, i) => [code, assets[`berth_${String(numbers[i]).padStart(2, '0')}`]]),
  );
  for (const id of Object.values(ids)) await looked(request, id);
  return ids;
}

export async function looked(request: APIRequestContext, id: string): Promise<void> {
  for (;;) {
    const { looked } = await (await request.get(`/api/assets/${id}`)).json();
    if (looked.done >= looked.total) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

/**
 * Folds the view away, where a test is about something else: drawing in software is slow. What is chosen
 * later stays.
 */
export async function foldView(page: Page): Promise<void> {
  await page.addInitScript(() => {
    if (sessionStorage.getItem('folded')) return;
    sessionStorage.setItem('folded', 'yes');
    const kept = JSON.parse(localStorage.getItem('kinkajou-choices') ?? '{"state":{},"version":2}');
    kept.state.view = { ...kept.state.view, size: 'folded' };
    localStorage.setItem('kinkajou-choices', JSON.stringify(kept));
  });
}

/** Leaves a dialog by its key, and waits until it is gone: a key that is pressed sooner would be its own. */
export async function leaveDialog(page: Page): Promise<void> {
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
}
