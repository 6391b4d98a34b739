import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { DecodedImages } from './decodedImages.ts';

const png = (red: number, size = 2) =>
  sharp({ create: { width: size, height: size, channels: 3, background: { r: red, g: 0, b: 0 } } })
    .png()
    .toBuffer();

describe('images that were decoded', () => {
  it('are the same pixels for the same content, whoever asks under whichever name', async () => {
    const images = new DecodedImages();
    const bytes = await png(7);
    const [first, second] = await Promise.all([
      images.decode(bytes, 'quay.png'),
      images.decode(Uint8Array.from(bytes), 'copy of quay.png'),
    ]);
    expect(second).toBe(first);
    expect(await images.decode(bytes, 'quay.png')).toBe(first);
    expect([...first.data.subarray(0, 3)]).toEqual([7, 0, 0]);
    expect([...(await images.decode(await png(8), 'quay.png')).data.subarray(0, 3)]).toEqual([8, 0, 0]);
  });

  it('make room for others, and one that is larger than the room is decoded each time', async () => {
    // Twelve bytes of pixels each: there is room for two.
    const images = new DecodedImages(24);
    const [a, b, c] = await Promise.all([1, 2, 3].map((red) => png(red)));
    const [first, second] = [await images.decode(a, 'a.png'), await images.decode(b, 'b.png')];
    expect(await images.decode(a, 'a.png')).toBe(first);
    await images.decode(c, 'c.png');
    expect(await images.decode(a, 'a.png')).toBe(first);
    expect(await images.decode(b, 'b.png')).not.toBe(second);
    const large = await png(9, 3);
    expect(await images.decode(large, 'd.png')).not.toBe(await images.decode(large, 'd.png'));
  });

  it('that are broken say so under the name that was asked for, each time', async () => {
    const images = new DecodedImages();
    const broken = (await png(1)).subarray(0, 60);
    for (const path of ['rope.png', 'net.png'])
      await expect(images.decode(broken, path)).rejects.toMatchObject({
        code: 'image.cut',
        place: { file: path },
      });
  });
});
