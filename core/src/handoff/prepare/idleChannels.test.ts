import { expect, it } from 'vitest';
import type { AssetState } from '../../asset/asset.ts';
import { TAKE_ALL } from '../../scene/intake.ts';
import { type ChannelName, createMapUse, createMaterial, type Material } from '../../scene/material.ts';
import { withoutIdleChannels } from './idleChannels.ts';

const source = { from: 'file', detail: '' } as const;

/** Names of the channels that stay of those with a value of 0.5, or a map. */
function left(
  values: ChannelName[],
  maps: ChannelName[] = [],
  alphaMode: 'opaque' | 'blend' = 'blend',
  more: Material['channels'] = {},
) {
  const material = createMaterial('Hull', 'metalRough');
  material.alphaMode = alphaMode;
  for (const name of values) material.channels[name] = { value: 0.5, map: null, source };
  for (const name of maps) material.channels[name] = { value: 0, map: createMapUse('a.png', name), source };
  Object.assign(material.channels, more);
  const state: AssetState = { materials: [material], images: [], intake: TAKE_ALL };
  return Object.keys(withoutIdleChannels(state).materials[0].channels);
}

it('leaves behind what nothing reads, and nothing else', () => {
  expect(left(['opacity'], [], 'opaque')).toEqual([]);
  expect(left(['opacity'])).toEqual(['opacity']);
  expect(left(['roughness', 'glossiness'])).toEqual(['roughness']);
  expect(left(['glossiness'])).toEqual(['glossiness']);
  expect(left(['coatRoughness'])).toEqual([]);
  expect(left(['coatRoughness', 'coat'])).toEqual(['coatRoughness', 'coat']);
  expect(left(['coatRoughness'], ['coat'])).toEqual(['coatRoughness', 'coat']);
  // A coat of nothing is none, unless an image says otherwise.
  const coat = { value: 0, map: null, source };
  expect(left(['coatRoughness'], [], 'blend', { coat })).toEqual(['coat']);
  const mapped = { ...coat, map: createMapUse('a.png', 'coat') };
  expect(left(['coatRoughness'], [], 'blend', { coat: mapped })).toEqual(['coatRoughness', 'coat']);
});
