import { findDestination } from '@kinkajou/core/destinations/destinations';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { expect, it } from 'vitest';
import { handedOff } from './failures.ts';
import { joinedParcel } from './joinedParcel.ts';
import { strangeModel } from './strangeModel.ts';

const text = (lines: string[]) => new TextEncoder().encode(`${lines.join('\n')}\n`);

it.each(['web-gltf', 'modelling', 'compositor-usd'])(
  'odd models go out joined, and so does one with points that no face has: %s',
  async (id) => {
    const odd = async (seed: number) => ({
      files: { 'odd.glb': await strangeModel(seed) },
      model: 'odd.glb',
    });
    const sparks = text([
      'o Sparks',
      ...['v 0 0 0', 'v 90 0 0', 'v 0 80 0'],
      'l 1 2 3',
      'o Pier',
      ...['v 0 0 1', 'v 1 0 1', 'v 0 1 1', 'v 700 700 700'],
      'f 4 5 6',
    ]);
    const pier = { files: { 'pier.obj': sparks }, model: 'pier.obj' };
    for (const [i, second] of [await odd(71), pier].entries()) {
      const { failures } = await handedOff(
        joinedParcel(await odd(70), second, i),
        findDestination(id) as Destination,
      );
      expect(failures).toEqual([]);
    }
  },
);
