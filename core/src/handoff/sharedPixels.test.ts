import { afterEach, describe, expect, it, vi } from 'vitest';
import { kitOf } from '../../../demo/src/bollardKit.ts';
import { pilotBoat } from '../../../demo/src/pilotBoat.ts';
import { DESTINATIONS } from '../destinations/destinations.ts';
import { decodeImage } from '../images/decode.ts';
import { DecodedImages } from '../images/decodedImages.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { listModels, mendAsset, openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { smallParcel } from '../test/harbour.ts';
import { handOff } from './handoff.ts';

afterEach(() => void vi.restoreAllMocks());

/** What every step of a handoff was given, with the bytes that it was decoded of. */
async function decodedIn(
  work: () => Promise<unknown>,
): Promise<[bytes: Uint8Array, path: string, PixelBuffer][]> {
  const given: [Uint8Array, string, PixelBuffer][] = [];
  const decode = DecodedImages.prototype.decode;
  vi.spyOn(DecodedImages.prototype, 'decode').mockImplementation(async function (
    this: DecodedImages,
    bytes,
    path,
  ) {
    const pixels = await decode.call(this, bytes, path);
    given.push([bytes, path, pixels]);
    return pixels;
  });
  await work();
  vi.restoreAllMocks();
  return given;
}

describe('pixels that the steps of a handoff share', () => {
  const lamps = () => kitOf(32, ['lamps']);
  const cases = [
    ...DESTINATIONS.map((destination) => ({ destination, make: lamps })),
    ...DESTINATIONS.filter(({ workflow }) => workflow === 'specGloss').map((destination) => ({
      destination,
      make: pilotBoat,
    })),
  ];

  it.each(cases)(
    'are as they were decoded when all is done: $destination.id',
    async ({ destination, make }) => {
      const source = memorySource('quay', (await smallParcel(make, 32)).files);
      const asset = await openAsset(source, listModels(source)[0]);
      const { state, edits, findings } = mendAsset(asset.source, asset.images, 'all');
      const given = await decodedIn(() => handOff({ ...asset, state, edits, findings, destination }));
      const distinct = new Map(given.map(([bytes, path, pixels]) => [pixels, { bytes, path }]));
      // What would be the use of it, were nothing shared?
      expect(distinct.size).toBeLessThan(given.length);
      for (const [pixels, { bytes, path }] of distinct)
        expect(pixels.data, path).toEqual((await decodeImage(bytes, path)).data);
    },
  );
});
