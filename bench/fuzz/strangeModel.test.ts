import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { describe, expect, it } from 'vitest';
import { failuresOf } from './failures.ts';
import { strangeModel } from './strangeModel.ts';

describe('odd models go out as they are, and their receipts hold', () => {
  it.each(DESTINATIONS.map((destination, i) => [destination.id, i] as const))('%s', async (_, i) => {
    for (const seed of [100 + i, 200 + i])
      expect({ seed, failures: await failuresOf(await strangeModel(seed), DESTINATIONS[i]) }).toEqual({
        seed,
        failures: [],
      });
  });
});
