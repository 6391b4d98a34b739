import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { describe, expect, it } from 'vitest';
import { handedOff, type Parcel } from './failures.ts';
import { strangeFbx } from './strangeFbx.ts';
import { strangeModel } from './strangeModel.ts';

const parcelOf = async (seed: number): Promise<Parcel> => ({
  files: { 'strange.glb': await strangeModel(seed) },
  model: 'strange.glb',
});

describe('odd models go out as they are, and their receipts hold', () => {
  it.each(DESTINATIONS.map(({ id }, i) => [id, i] as const))('to %s', async (_, i) => {
    for (const seed of [100 + i, 200 + i])
      expect({ seed, ...(await handedOff(await parcelOf(seed), DESTINATIONS[i])) }).toMatchObject({
        seed,
        failures: [],
      });
  });

  it.each(DESTINATIONS.map(({ id }, i) => [id, i] as const))('from the package of %s', async (_, i) => {
    const { parcel } = await handedOff(await parcelOf(300 + i), DESTINATIONS[i]);
    for (const step of [1, 4]) {
      const next = DESTINATIONS[(i + step) % DESTINATIONS.length];
      expect({ to: next.id, ...(await handedOff(parcel, next)) }).toMatchObject({
        to: next.id,
        failures: [],
      });
    }
  });

  it.each(DESTINATIONS.map(({ id }, i) => [id, i] as const))('of FBX to %s', async (_, i) => {
    const parcel: Parcel = { files: { 'strange.fbx': strangeFbx(100 + i) }, model: 'strange.fbx' };
    expect(await handedOff(parcel, DESTINATIONS[i])).toMatchObject({ failures: [] });
  });

  it('of FBX where a part does not take over that what it hangs on is mirrored', async () => {
    const parcel: Parcel = { files: { 'strange.fbx': strangeFbx(708) }, model: 'strange.fbx' };
    const classic = DESTINATIONS.find(({ id }) => id === 'compositor-classic') as Destination;
    expect(await handedOff(parcel, classic, 708)).toMatchObject({ failures: [] });
  });
});
