import type { AssetState } from '@kinkajou/core/asset/asset';
import { type Part, partsOf } from '@kinkajou/core/asset/parts';

type PartsSource = Parameters<typeof partsOf>[0];

const known = new WeakMap<AssetState, { source: PartsSource; parts: readonly Part[] }>();

/**
 * The parts of an asset as its edits left them: tree, view and overlays ask for the same after each edit, and
 * states never change.
 */
export function viewParts({ source, state }: { source: PartsSource; state: AssetState }): readonly Part[] {
  const before = known.get(state);
  if (before?.source === source) return before.parts;
  const parts = partsOf(source, state);
  known.set(state, { source, parts });
  return parts;
}
