import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { DeleteObjectCommand, GetObjectCommand, PutObjectCommand, S3Client } from '@aws-sdk/client-s3';
import S3rver from 's3rver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { BlobStore } from './blobStore.ts';
import { bucketPlace, bucketStore } from './bucketStore.ts';
import { folderStore } from './folderStore.ts';

/** SHA-256 of `mooring`, as sha256sum tells it. */
const MOORING = 'a0b1df6be0428cdea4c1837a74388374aca9bd16843e53ea4819ca178b25664f';
const ABSENT = 'a'.repeat(64);
const bytes = new TextEncoder().encode('mooring');

interface Kind {
  name: string;
  open(): BlobStore;
  /** Puts other bytes under a name, by other means. */
  spoil(hash: string, text: string): Promise<void>;
  lose(hash: string): Promise<void>;
  /** What lies there under that name, by other means. */
  raw(hash: string): Promise<string>;
}

let folder: string;
let server: S3rver;
let endpoint: string;
let client: S3Client;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-stores-'));
  server = new S3rver({
    port: 0,
    address: '127.0.0.1',
    silent: true,
    directory: join(folder, 'server'),
    configureBuckets: [{ name: 'harrow-quay', configs: [] }],
  });
  const { port } = (await server.run()) as AddressInfo;
  endpoint = `http://127.0.0.1:${port}`;
  // The keys that this server takes.
  process.env.AWS_ACCESS_KEY_ID = 'S3RVER';
  process.env.AWS_SECRET_ACCESS_KEY = 'S3RVER';
  client = new S3Client({ endpoint, forcePathStyle: true, region: 'us-east-1' });
});
afterAll(async () => {
  client.destroy();
  await server.close();
  await rm(folder, { recursive: true, force: true });
});

const object = (hash: string) => ({ Bucket: 'harrow-quay', Key: `kept/${hash}` });
const kinds: Kind[] = [
  {
    name: 'a folder',
    open: () => folderStore(join(folder, 'blobs')),
    spoil: (hash, text) => writeFile(join(folder, 'blobs', hash.slice(0, 2), hash.slice(2, 4), hash), text),
    lose: (hash) => rm(join(folder, 'blobs', hash.slice(0, 2), hash.slice(2, 4), hash)),
    raw: (hash) => readFile(join(folder, 'blobs', hash.slice(0, 2), hash.slice(2, 4), hash), 'utf8'),
  },
  {
    name: 'a bucket',
    open: () => openBucket('here'),
    spoil: async (hash, text) =>
      void (await client.send(new PutObjectCommand({ ...object(hash), Body: text }))),
    lose: async (hash) => void (await client.send(new DeleteObjectCommand(object(hash)))),
    raw: async (hash) =>
      (await client.send(new GetObjectCommand(object(hash)))).Body?.transformToString() ?? '',
  },
];

const openBucket = (machine: string, maxBytes = 1e6) =>
  bucketStore(bucketPlace('s3://harrow-quay/kept', endpoint), { folder: join(folder, machine), maxBytes });

/** As another machine sees it, that has nothing of it yet. */
const elsewhere = ({ name, open }: Kind) =>
  name === 'a bucket' ? openBucket(`elsewhere-${Math.random()}`) : open();

const listed = async (store: BlobStore) => {
  const out: string[] = [];
  for await (const { hash, size } of store.list()) out.push(`${hash?.slice(0, 6)} ${size}`);
  return out.sort();
};

describe.each(kinds)('$name as a store', (kind) => {
  it('keeps bytes under their SHA-256, which another machine reads', async () => {
    const store = kind.open();
    await store.check();
    expect(await store.has(MOORING)).toBe(false);
    expect(await store.put(bytes)).toBe(MOORING);
    expect(await store.put(bytes)).toBe(MOORING);
    expect(await kind.raw(MOORING)).toBe('mooring');
    const other = elsewhere(kind);
    expect([await other.has(MOORING), await other.isWhole(MOORING)]).toEqual([true, true]);
    expect(new TextDecoder().decode(await other.get(MOORING))).toBe('mooring');
    expect(await readFile(await other.fileOf(MOORING), 'utf8')).toBe('mooring');
  });

  it('takes a stream in, and stops it past the limit with nothing left behind', async () => {
    const store = kind.open();
    const { sha256, size } = await store.putStream(
      Readable.from([bytes.subarray(0, 3), bytes.subarray(3)]),
      'a.bin',
      7,
    );
    expect([sha256, size]).toEqual([MOORING, 7]);
    const before = await listed(store);
    await expect(store.putStream(Readable.from([bytes]), 'a.bin', 6)).rejects.toMatchObject({
      code: 'limit.fileBytes',
      place: { file: 'a.bin' },
    });
    const broken = Readable.from(
      (async function* () {
        yield bytes;
        throw new Error('the line went dead');
      })(),
    );
    await expect(store.putStream(broken, 'a.bin', 100)).rejects.toThrow('the line went dead');
    expect(await listed(store)).toEqual(before);
    expect(await readdir(join(folder, kind.name === 'a bucket' ? 'here' : 'blobs', 'incoming'))).toEqual([]);
  });

  it('never gives out what was changed or lost, and is whole when the same arrives again', async () => {
    await kind.open().put(bytes);
    await kind.spoil(MOORING, 'another');
    const other = elsewhere(kind);
    await expect(other.get(MOORING)).rejects.toMatchObject({ code: 'blob.changed' });
    expect(await other.isWhole(MOORING)).toBe(false);
    await other.put(bytes);
    expect([await other.isWhole(MOORING), await kind.raw(MOORING)]).toEqual([true, 'mooring']);
    await kind.lose(MOORING);
    const third = elsewhere(kind);
    await expect(third.get(MOORING)).rejects.toMatchObject({ code: 'blob.missing' });
    await expect(third.fileOf(ABSENT)).rejects.toMatchObject({ code: 'blob.missing' });
    expect([await third.has(MOORING), await third.isWhole(MOORING)]).toEqual([false, false]);
    await third.put(bytes);
    expect(await kind.raw(MOORING)).toBe('mooring');
  });

  it('lists what it holds with size and time, and lets it be removed', async () => {
    const store = kind.open();
    await store.put(bytes);
    for (let i = 0; i < 30; i += 1) await store.put(new Uint8Array(i + 100).fill(i));
    const found = [];
    for await (const blob of store.list()) found.push(blob);
    expect(found).toHaveLength(31);
    const own = found.find(({ hash }) => hash === MOORING);
    expect(own?.size).toBe(7);
    expect(Math.abs((own?.modified ?? 0) - Date.now())).toBeLessThan(600_000);
    for (const blob of found) if (blob.hash !== MOORING) await blob.remove();
    expect(await listed(store)).toEqual([`${MOORING.slice(0, 6)} 7`]);
  });
});

describe('a bucket', () => {
  it('is brought here once, whoever asks, and again when the copy here was changed', async () => {
    await openBucket('first').put(bytes);
    const other = openBucket('second');
    const [a, b] = await Promise.all([other.fileOf(MOORING), other.fileOf(MOORING)]);
    expect(a).toBe(b);
    await writeFile(a, 'gnawed!');
    expect(new TextDecoder().decode(await other.get(MOORING))).toBe('mooring');
  });

  it('leaves alone what is not ours, and tells a server that does not answer', async () => {
    await client.send(new PutObjectCommand({ Bucket: 'harrow-quay', Key: 'kept/notes.txt', Body: 'theirs' }));
    expect((await listed(openBucket('third'))).some((line) => line.endsWith(' 6'))).toBe(false);
    const gone = bucketStore(bucketPlace('s3://no-such-bucket', endpoint), {
      folder: join(folder, 'gone'),
      maxBytes: 1,
    });
    await expect(gone.check()).rejects.toMatchObject({
      code: 'blobs.unreachable',
      message: expect.stringContaining('NoSuchBucket'),
    });
    await expect(gone.put(bytes)).rejects.toMatchObject({ code: 'blobs.unreachable' });
    expect(() => bucketPlace('harrow-quay/kept')).toThrow(/names no bucket/);
    expect(bucketPlace('s3://harrow-quay')).toMatchObject({ bucket: 'harrow-quay', prefix: '' });
    expect(bucketPlace('s3://harrow-quay/a/b/')).toMatchObject({ prefix: 'a/b/' });
  });
});
