import type { AssetState } from '../../asset/asset.ts';
import { type ChannelName, type Material, scalarValue } from '../../scene/material.ts';

/**
 * The state without what nothing reads: the opacity of opaque materials, which formats without a word for the
 * mode would take for clear; glossiness beside a roughness, which says the same and goes first; how rough a coat
 * is that is not there.
 */
export function withoutIdleChannels(state: AssetState): AssetState {
  if (!state.materials.some((material) => idle(material).length > 0)) return state;
  return {
    ...state,
    materials: state.materials.map((material) => {
      const names = idle(material);
      if (names.length === 0) return material;
      const channels = { ...material.channels };
      for (const name of names) delete channels[name];
      return { ...material, channels };
    }),
  };
}

function idle({ alphaMode, channels }: Material): ChannelName[] {
  const { coat } = channels;
  const coated = coat !== undefined && (coat.map !== null || scalarValue(coat.value) !== 0);
  const names: ChannelName[] = [];
  if (alphaMode === 'opaque') names.push('opacity');
  if (channels.roughness) names.push('glossiness');
  if (!coated) names.push('coatRoughness');
  return names.filter((name) => channels[name] !== undefined);
}
