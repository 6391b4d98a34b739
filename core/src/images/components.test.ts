import { describe, expect, it } from 'vitest';
import { adjustPlane, extractPlane, packPlanes, resizePlane } from './components.ts';
import { decodeImage } from './decode.ts';
import { encodePng } from './encode.ts';
import { probeImage } from './probe.ts';

describe('components', () => {
  const rgb = { width: 2, height: 1, components: 3, data: Uint8Array.of(10, 20, 30, 200, 100, 50) };

  it('picks, inverts and packs exactly', () => {
    const inverted = adjustPlane(extractPlane(rgb, 'g'), { invert: true, gain: 1, offset: 0 });
    const packed = packPlanes([extractPlane(rgb, 'r'), inverted, extractPlane(rgb, 'a')], 8);
    expect([...packed.data]).toEqual([10, 235, 255, 200, 155, 255]);
  });

  it('averages when it shrinks', () => {
    expect(
      resizePlane({ width: 2, height: 2, values: Float32Array.of(0, 1, 0, 1) }, 1, 1).values[0],
    ).toBeCloseTo(0.5, 6);
  });

  it.each([8, 16] as const)('PNG of %i bits comes back equal', async (bitDepth) => {
    const source = packPlanes(
      [extractPlane(rgb, 'r'), extractPlane(rgb, 'g'), extractPlane(rgb, 'b')],
      bitDepth,
    );
    const bytes = await encodePng(source);
    expect(await probeImage(bytes, 'a.png')).toMatchObject({
      format: 'png',
      width: 2,
      height: 1,
      bitDepth,
      components: 3,
    });
    expect([...(await decodeImage(bytes, 'a.png')).data]).toEqual([...source.data]);
  });

  it('names a false header', async () => {
    await expect(probeImage(new TextEncoder().encode('not an image'), 'x/a.png')).rejects.toMatchObject({
      code: 'image.falseHeader',
      place: { file: 'x/a.png' },
    });
  });

  it('names a type that is not read', async () => {
    await expect(probeImage(new TextEncoder().encode('....ftypheic'), 'x/a.heic')).rejects.toMatchObject({
      code: 'image.format',
      message: 'images of type .heic are not read',
    });
  });
});
