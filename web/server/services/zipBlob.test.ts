import { buffer } from 'node:stream/consumers';
import { strFromU8, unzipSync } from 'fflate';
import { expect, it } from 'vitest';
import { blobs } from '../blobs.ts';
import { addBlob, createZip } from './zipBlob.ts';

it('contents are put into a zip when their turn comes; one that is gone by then ends the stream, and makes no zip without it', async () => {
  const hash = await blobs.put(new TextEncoder().encode('mooring'));
  const { zip, stream } = createZip();
  addBlob(zip, hash, 'a/rope.txt');
  zip.end();
  const files = unzipSync(new Uint8Array(await buffer(stream)));
  expect(Object.entries(files).map(([path, bytes]) => [path, strFromU8(bytes)])).toEqual([
    ['a/rope.txt', 'mooring'],
  ]);

  const broken = createZip();
  addBlob(broken.zip, hash, 'rope.txt');
  addBlob(broken.zip, 'f'.repeat(64), 'gone.txt');
  broken.zip.end();
  await expect(buffer(broken.stream)).rejects.toMatchObject({ code: 'blob.missing' });
});
