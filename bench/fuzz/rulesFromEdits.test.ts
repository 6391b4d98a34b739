import { type AssetState, nodeKeys } from '@kinkajou/core/asset/asset';
import { partsOf } from '@kinkajou/core/asset/parts';
import { replay } from '@kinkajou/core/edits/log';
import { type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { applyRules } from '@kinkajou/core/rules/applyRules';
import { rulesFrom } from '@kinkajou/core/rules/fromEdits';
import { parseRulebook } from '@kinkajou/core/rules/parseRulebook';
import { channelBuoy } from '@kinkajou/demo/channelBuoy';
import { stormLantern } from '@kinkajou/demo/stormLantern';
import { describe, expect, it } from 'vitest';
import { smallParcel } from '../../core/src/test/harbour.ts';
import { strangeEdits } from './strangeEdits.ts';

const LOGS = 120;
/** What says where something came from, and what means nothing for the slot that holds it. */
const UNTOLD = ['source', 'origin', 'spaceFrom', 'reason', 'normalY'];

/** All that edits with rules change, in words that are equal where it means the same. */
function meaningOf({ source }: OpenAsset, state: AssetState): unknown {
  const materials = [...state.materials].sort((a, b) => (a.key < b.key ? -1 : 1));
  const normals = materials.map(({ channels }) => channels.normal?.map?.normalY);
  const parts = partsOf(source, state).map(({ key, name, dropped, slots, polygons, collision }) =>
    dropped ? `${key} dropped` : { name, slots, collision: polygons > 0 ? collision : null },
  );
  const { intake, numbers } = state;
  return JSON.parse(
    JSON.stringify({ materials, normals, intake, numbers, parts }, (name, value) =>
      UNTOLD.includes(name) ? undefined : value,
    ),
  );
}

describe('a rulebook that was made of a log by lot', () => {
  it.each([
    ['an OBJ lantern whose images are not found', stormLantern],
    ['an FBX buoy', channelBuoy],
  ])('does all of it again on the asset it came from, where nothing is said to lack: %s', async (_, make) => {
    const { files } = await smallParcel(make, 16);
    const model = Object.keys(files).find((path) => /\.(obj|fbx)$/.test(path)) ?? '';
    const asset = await openAsset(memorySource('quay', files), model);
    const surroundings = {
      writtenOf: (image: string) => asset.source.images.find(({ key }) => key === image)?.written ?? image,
      names: {
        materials: asset.source.materials.map(({ key }) => key),
        parts: nodeKeys(asset.source.nodes),
        images: asset.images.map(({ path }) => path),
      },
    };
    let whole = 0;
    for (let seed = 1; seed <= LOGS; seed += 1) {
      const log = strangeEdits(asset, seed, 3);
      const { rulebook, without } = rulesFrom(log, 'Again', surroundings);
      if (without.length > 0) continue;
      whole += 1;
      const books = [parseRulebook(JSON.parse(JSON.stringify(rulebook)))];
      const { state } = await applyRules(asset, books, { parcel: 'quay' });
      const { state: first } = replay(asset.source, log, asset.images);
      expect(meaningOf(asset, state), JSON.stringify(log)).toEqual(meaningOf(asset, first));
    }
    expect(whole).toBeGreaterThan(20);
  });
});
