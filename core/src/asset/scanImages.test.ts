import { expect, it } from 'vitest';
import { KinkajouError } from '../errors.ts';
import { encodePng } from '../images/encode.ts';
import { type FileSource, memorySource } from '../parcel/fileSource.ts';
import { scanImages } from './scanImages.ts';

it('images are scanned in order, and one that cannot be read is named while the others go on', async () => {
  const png = await encodePng({ width: 4, height: 2, components: 3, data: new Uint8Array(24) });
  const source = memorySource('quay', {
    'a.png': png,
    'huge.png': png,
    'away.png': png,
    'notes.txt': png,
    'z.png': png.subarray(0, 20),
  });
  const odd: FileSource = {
    ...source,
    read: (path) => {
      if (path === 'huge.png')
        return Promise.reject(Object.assign(new Error('too large'), { code: 'ERR_FS_FILE_TOO_LARGE' }));
      if (path === 'away.png')
        return Promise.reject(
          new KinkajouError('zip.entry', 'this entry cannot be unpacked', { file: path }),
        );
      return source.read(path);
    },
  };
  const done: number[] = [];
  const images = await scanImages(odd, undefined, (count, total) => void done.push(count, total));
  expect(images.map(({ path, info, fault }) => [path, info?.width ?? null, fault?.code ?? null])).toEqual([
    ['a.png', 4, null],
    ['huge.png', null, 'disk.tooLarge'],
    ['away.png', null, 'zip.entry'],
    ['z.png', null, 'image.cut'],
  ]);
  expect(new Set(images.map(({ sha256 }) => sha256)).size).toBe(4);
  expect(done).toEqual([1, 4, 2, 4, 3, 4, 4, 4]);
});
