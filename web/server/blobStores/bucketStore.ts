import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import {
  DeleteObjectCommand,
  GetObjectCommand,
  HeadObjectCommand,
  ListObjectsV2Command,
  PutObjectCommand,
  S3Client,
  S3ServiceException,
} from '@aws-sdk/client-s3';
import { KinkajouError } from '@kinkajou/core/errors';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { BlobCache } from './blobCache.ts';
import { type BlobStore, changedBlob, isHash, missingBlob, type StoredBlob } from './blobStore.ts';
import { type Arrived, Incoming } from './incoming.ts';

/** Where contents lie on an S3 server. */
export interface BucketPlace {
  bucket: string;
  /** What the names of all contents begin with; empty, or with a slash at its end. */
  prefix: string;
  /** A server of one's own; the environment's usual one where it is undefined. */
  endpoint?: string;
}

interface BucketOptions {
  /** A folder on this machine for what was brought here. */
  folder: string;
  /** How much of it is kept. */
  maxBytes: number;
}

/** A store that could be written is not asked again for so long. */
const CHECK_MS = 30_000;

/** The place that `s3://bucket/prefix` names. Throws `blobs.address` for what is none. */
export function bucketPlace(address: string, endpoint?: string): BucketPlace {
  const [, bucket, path = ''] = /^s3:\/\/([a-z0-9][a-z0-9.-]{1,61}[a-z0-9])(?:\/(.*))?$/.exec(address) ?? [];
  if (!bucket)
    throw new KinkajouError(
      'blobs.address',
      `KINKAJOU_BLOBS names no bucket: "${address}"`,
      {},
      'Write it as s3://bucket/prefix, or leave it out for a folder.',
    );
  const prefix = path.replace(/\/+$/, '');
  return { bucket, prefix: prefix ? `${prefix}/` : '', endpoint };
}

/**
 * A bucket of an S3 server as blob store. What is read is brought to a folder here first and checked against
 * its name; what arrives is whole here before it is sent.
 */
export function bucketStore(
  { bucket, prefix, endpoint }: BucketPlace,
  { folder, maxBytes }: BucketOptions,
): BlobStore {
  const client = new S3Client({
    endpoint,
    // Servers of one's own seldom have a host name for each bucket, and not all know the newer checksums.
    forcePathStyle: endpoint !== undefined,
    region: process.env.AWS_REGION ?? 'us-east-1',
    requestChecksumCalculation: 'WHEN_REQUIRED',
    responseChecksumValidation: 'WHEN_REQUIRED',
  });
  const incoming = new Incoming(join(folder, 'incoming'));
  const cache = new BlobCache(join(folder, 'kept'), maxBytes);
  const onTheirWay = new Map<string, Promise<string>>();
  let answered = 0;
  const object = (name: string) => ({ Bucket: bucket, Key: prefix + name });

  const head = (hash: string) => orNull(client.send(new HeadObjectCommand(object(hash))));
  const body = async (hash: string) =>
    (await orNull(client.send(new GetObjectCommand(object(hash)))))?.Body as Readable | undefined;

  /** Sends what the bucket has not, or has otherwise: its tag is the MD5 of what was sent in one piece. */
  const send = async (arrived: Arrived) => {
    const md5 = createHash('md5');
    await pipeline(createReadStream(arrived.path), md5);
    const there = await head(arrived.sha256);
    if (there?.ETag !== `"${md5.digest('hex')}"` || there.ContentLength !== arrived.size)
      await client
        .send(
          new PutObjectCommand({
            ...object(arrived.sha256),
            Body: createReadStream(arrived.path),
            ContentLength: arrived.size,
          }),
        )
        .catch(unreachable);
    await cache.keep(arrived);
    return { sha256: arrived.sha256, size: arrived.size };
  };

  const bring = async (hash: string) => {
    const stream = await body(hash);
    if (!stream) throw missingBlob(hash);
    const arrived = await incoming.ofStream(stream, hash, Number.POSITIVE_INFINITY);
    if (arrived.sha256 === hash) return cache.keep(arrived);
    await rm(arrived.path, { force: true });
    throw changedBlob(hash);
  };

  const fileOf = async (hash: string) => {
    const kept = await cache.find(hash);
    if (kept) return kept;
    const way = onTheirWay.get(hash) ?? bring(hash).finally(() => onTheirWay.delete(hash));
    onTheirWay.set(hash, way);
    return way;
  };

  return {
    fileOf,
    async get(hash) {
      const bytes = await readFile(await fileOf(hash));
      if (sha256(bytes) === hash) return bytes;
      // The copy here was changed; what lies in the bucket counts.
      await cache.drop(hash);
      return readFile(await fileOf(hash));
    },
    has: async (hash) => (await head(hash)) !== null,
    async isWhole(hash) {
      const stream = await body(hash);
      if (!stream) return false;
      const sum = createHash('sha256');
      await pipeline(stream, sum);
      return sum.digest('hex') === hash;
    },
    async put(bytes) {
      const { sha256: hash } = await send(await incoming.ofBytes(bytes));
      return hash;
    },
    putStream: async (stream, name, maxBytes_) => send(await incoming.ofStream(stream, name, maxBytes_)),
    async *list(): AsyncGenerator<StoredBlob> {
      let ContinuationToken: string | undefined;
      do {
        const page = await client
          .send(new ListObjectsV2Command({ Bucket: bucket, Prefix: prefix, ContinuationToken }))
          .catch(unreachable);
        for (const { Key = '', Size = 0, LastModified } of page.Contents ?? []) {
          const name = Key.slice(prefix.length);
          const remove = async () => {
            await client.send(new DeleteObjectCommand(object(name))).catch(unreachable);
            await cache.drop(name);
          };
          // What else lies in the bucket is not ours.
          if (isHash(name))
            yield { hash: name, size: Size, modified: LastModified?.getTime() ?? Date.now(), remove };
        }
        ContinuationToken = page.IsTruncated ? page.NextContinuationToken : undefined;
      } while (ContinuationToken);
    },
    async check() {
      await incoming.check();
      // Pages ask every few seconds, and each writing costs.
      if (Date.now() - answered < CHECK_MS) return;
      await client.send(new PutObjectCommand({ ...object('probe'), Body: 'probe' })).catch(unreachable);
      await client.send(new DeleteObjectCommand(object('probe'))).catch(unreachable);
      answered = Date.now();
    },
  };
}

function orNull<T>(answer: Promise<T>): Promise<T | null> {
  return answer.catch((error: unknown) => {
    if (
      error instanceof S3ServiceException &&
      error.$metadata.httpStatusCode === 404 &&
      error.name !== 'NoSuchBucket'
    )
      return null;
    return unreachable(error);
  });
}

function unreachable(error: unknown): never {
  const reason = error instanceof Error ? `${error.name}: ${error.message}` : String(error);
  throw new KinkajouError(
    'blobs.unreachable',
    `the store of contents does not answer (${reason})`,
    {},
    'See that KINKAJOU_BLOBS, its endpoint and the keys are right, and the server runs.',
  );
}
