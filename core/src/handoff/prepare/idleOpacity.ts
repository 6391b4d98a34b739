import type { AssetState } from '../../asset/asset.ts';

/**
 * The state without the opacity of materials that are opaque, which nothing reads: formats that have no word for
 * the mode would take them for clear.
 */
export function withoutIdleOpacity(state: AssetState): AssetState {
  if (!state.materials.some(({ alphaMode, channels }) => alphaMode === 'opaque' && channels.opacity))
    return state;
  return {
    ...state,
    materials: state.materials.map((material) => {
      if (material.alphaMode !== 'opaque' || !material.channels.opacity) return material;
      const { opacity: _, ...channels } = material.channels;
      return { ...material, channels };
    }),
  };
}
