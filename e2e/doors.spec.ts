import { createHash } from 'node:crypto';
import { expect, test } from '@playwright/test';
import { looked, sendParcel } from './parcels.ts';

/** A plain TGA of so many pixels a side: larger than what may be held on the way in. */
function raw(side: number): Uint8Array {
  const out = new Uint8Array(18 + side * side * 3).fill(90);
  out.set([0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, side & 255, side >> 8, side & 255, side >> 8, 24, 0x20]);
  return out;
}

const OBJ =
  'mtllib post.mtl\no Post\nusemtl Stone\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n';
const text = (content: string) => new TextEncoder().encode(content);

test('large files arrive whole, are drawn in threads that can be stopped, and damaged ones are told', async ({
  page,
  request,
}) => {
  const large = raw(2100);
  const refused: string[] = [];
  page.on('console', (message) => {
    if (/Content Security Policy|Refused to/.test(message.text())) refused.push(message.text());
  });
  const assets = await sendParcel(request, 'Posts', {
    'post.obj': text(OBJ),
    'post.mtl': text('newmtl Stone\nmap_Kd stone_color.tga\nmap_Pr stone_roughness.tga\n'),
    'stone_color.tga': large,
    'stone_roughness.tga': large.subarray(0, 5_000_000),
  });
  await looked(request, assets.post);
  const picture = await request.get(
    `/api/pictures/${createHash('sha256').update(large).digest('hex')}?size=192`,
  );
  expect([picture.status(), picture.headers()['content-type']]).toEqual([200, 'image/webp']);
  await page.goto(`/assets/${assets.post}`);
  await expect(
    page.getByText(/stone_roughness\.tga: it is cut off: 5,000,000 of 13,230,018 bytes are there/).first(),
  ).toBeVisible();
  await expect(page.locator('canvas').first()).toBeVisible();
  expect(refused).toEqual([]);
});

test('a request by another name gets nothing, and every answer says what may be loaded', async ({
  request,
}) => {
  const foreign = await request.get('/api/shelf', { headers: { host: 'harbour.example' } });
  expect([foreign.status(), (await foreign.json()).error.code]).toEqual([421, 'forbidden']);
  for (const path of ['/', '/api/shelf']) {
    const headers = (await request.get(path)).headers();
    expect(headers['content-security-policy']).toMatch(/script-src 'self' 'nonce-[^']+' 'strict-dynamic'/);
    expect([headers['x-content-type-options'], headers['x-frame-options']]).toEqual(['nosniff', 'DENY']);
    // Both ends are one machine, which would squeeze and stretch for nothing.
    expect(headers['content-encoding']).toBeUndefined();
  }
});
