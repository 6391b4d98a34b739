import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { eq } from 'drizzle-orm';
import { unzipSync } from 'fflate';
import { afterAll, expect, it, vi } from 'vitest';
import { workerArguments } from '../../scripts/lib/serverBuild.mjs';
import { blobs } from '../server/blobs.ts';
import { db } from '../server/db/client.ts';
import { assets, handoffs } from '../server/db/schema.ts';
import { examine } from '../server/keep/doctor.ts';
import { requestHandoffs } from '../server/services/handoffs.ts';
import { findParcel } from '../server/services/parcelFiles.ts';
import { addParcelFile, closeParcel, createParcel } from '../server/services/parcels.ts';
import { closeAfterwards } from '../server/test/harness.ts';
import { quay } from '../server/test/quay.ts';

/** Two machines that share a database and a bucket: this process, and a worker with a folder of its own. */
const { folder, server } = await vi.hoisted(async () => {
  const [{ default: S3rver }, fs, os, path] = await Promise.all([
    import('s3rver'),
    import('node:fs/promises'),
    import('node:os'),
    import('node:path'),
  ]);
  const place = await fs.mkdtemp(path.join(os.tmpdir(), 'kinkajou-machines-'));
  const running = new S3rver({
    port: 0,
    address: '127.0.0.1',
    silent: true,
    directory: path.join(place, 'bucket'),
    configureBuckets: [{ name: 'harrow-quay', configs: [] }],
  });
  const { port } = await running.run();
  Object.assign(process.env, {
    KINKAJOU_BLOBS: 's3://harrow-quay/contents',
    KINKAJOU_S3_ENDPOINT: `http://127.0.0.1:${port}`,
    KINKAJOU_DATA: path.join(place, 'server'),
    AWS_ACCESS_KEY_ID: 'S3RVER',
    AWS_SECRET_ACCESS_KEY: 'S3RVER',
  });
  return { folder: place, server: running };
});

closeAfterwards();

let worker: ChildProcess | undefined;
afterAll(async () => {
  worker?.kill('SIGKILL');
  await server.close();
  await rm(folder, { recursive: true, force: true });
});

const PATIENT = { timeout: 100_000, interval: 50 };

it('a worker that shares nothing with the server but database and bucket reads what was dropped, and makes a package that the server hands out', async () => {
  const elsewhere = await mkdtemp(join(tmpdir(), 'kinkajou-elsewhere-'));
  const parcel = await createParcel('Quay');
  for (const [path, content] of Object.entries(await quay()))
    await addParcelFile(parcel, path, null, Readable.from([Buffer.from(content)]));
  await closeParcel(parcel);
  worker = spawn(process.execPath, await workerArguments(), {
    stdio: 'ignore',
    env: { ...process.env, KINKAJOU_DATA: elsewhere },
  });
  await expect.poll(async () => (await findParcel(parcel)).state, PATIENT).toBe('ready');
  const [asset] = await db().select().from(assets).where(eq(assets.parcelId, parcel));
  await requestHandoffs(asset.id, [{ destination: 'web-gltf', choices: {} }]);
  const zip = async () => (await db().select().from(handoffs).where(eq(handoffs.assetId, asset.id)))[0].zip;
  await expect.poll(zip, PATIENT).not.toBeNull();
  const inside = unzipSync(await blobs.get((await zip()) as string));
  expect(Object.keys(inside)).toEqual(expect.arrayContaining(['quay.glb', 'receipt.json']));
  // Both keep copies alone; what counts lies in the bucket, and is all there.
  expect([folder, elsewhere].map((place) => existsSync(join(place, 'blobs')))).toEqual([false, false]);
  expect((await examine()).filter(({ ok }) => !ok)).toEqual([]);
  await rm(elsewhere, { recursive: true, force: true });
});
