import type { PartChange } from '../scene/partChange.ts';
import type { AssetState } from './asset.ts';

/**
 * Changes that move or part faces, or shade them anew. All others can be shown on the geometry as it was
 * read.
 */
const RESHAPING: ReadonlySet<PartChange['do']> = new Set(['cut', 'agreeFaces', 'normals', 'reset', 'place']);
/** What never changes the geometry of what is left, and is shown by the view itself. */
const LIVE: ReadonlySet<PartChange['do']> = new Set(['drop', 'restore', 'collision']);

/**
 * The state whose geometry the view has to show, where edits changed it beyond what the view does itself;
 * else null. What is dropped is in it, so that it can be brought back without a new geometry.
 */
export function reshapedState(state: AssetState): AssetState | null {
  if (!state.parts?.some((change) => RESHAPING.has(change.do))) return null;
  return { ...state, parts: state.parts.filter((change) => !LIVE.has(change.do)) };
}

/**
 * A name for the geometry of a state, the same wherever it is worked out; null where it is the one that was
 * read.
 */
export function reshapedKey(state: AssetState, geometry: string): string | null {
  const reshaped = reshapedState(state);
  if (!reshaped) return null;
  const { parts, bindings = {}, merged = {}, materials } = reshaped;
  return textHash(
    JSON.stringify([geometry, parts, bindings, merged, materials.map(({ key }) => key)], inOrder),
  );
}

/** Properties by name, since a database gives them back in an order of its own. */
function inOrder(_: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
}

/**
 * Two hashes of 32 bits after FNV-1a, from two starts: enough to tell the states of one asset from each
 * other.
 */
function textHash(text: string): string {
  return [0x811c9dc5, 0x9747b28c]
    .map((start) => {
      let hash = start;
      for (let i = 0; i < text.length; i += 1) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
      return (hash >>> 0).toString(16).padStart(8, '0');
    })
    .join('');
}
