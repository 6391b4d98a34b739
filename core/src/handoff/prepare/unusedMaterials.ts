import type { AssetSource, AssetState } from '../../asset/asset.ts';
import type { Material } from '../../scene/material.ts';
import { identityWords, isDefaultName } from '../../sets/identity.ts';

/**
 * The state without materials that a program makes by itself and that no face uses: they say nothing and only
 * confuse.
 */
export function withoutUnusedDefaults(
  { facesPerMaterial }: Pick<AssetSource, 'facesPerMaterial'>,
  state: AssetState,
): AssetState {
  const bound = new Set([...Object.values(state.bindings ?? {}), ...Object.values(state.merged ?? {})]);
  const isUnused = ({ key }: Material) => (facesPerMaterial[key] ?? 0) === 0 && !bound.has(key);
  const isDefault = ({ name, channels }: Material) =>
    isDefaultName(identityWords(name)) && !Object.values(channels).some((channel) => channel?.map);
  const materials = state.materials.filter((material) => !(isUnused(material) && isDefault(material)));
  // An asset of nothing but such materials keeps them.
  return materials.length === 0 || materials.length === state.materials.length
    ? state
    : { ...state, materials };
}
