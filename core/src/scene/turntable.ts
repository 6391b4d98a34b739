import { createNode, type SceneDocument, type SignedAxis, type Track, type Vec3 } from './document.ts';
import { identity } from './matrix.ts';
import { measureBoundsIn } from './measure.ts';
import { shiftKeys, shiftTransform } from './shift.ts';

/** How a turntable turns. */
export interface TurnOptions {
  /** Of one turn. */
  seconds: number;
  /** Slow at both ends, as an entrance is; else the same all the way, as a turntable is. */
  ease?: boolean;
}

/** Keys of one turn, so many that no reader may take the short way round. */
const KEYS = 24;

/**
 * The document on a turntable: one node around everything that stands where the middle of its bottom is, with
 * a clip that turns it once about what is up. What moved by itself moves on within it.
 */
export function onTurntable(document: SceneDocument, { seconds, ease = false }: TurnOptions): SceneDocument {
  const place = middleOfBottom(document);
  const node = createNode('turn', 'group', -1);
  node.transform.translation = place;
  const nodes = document.nodes.map((other) => ({
    ...other,
    parent: other.parent + 1,
    transform: other.parent < 0 ? shiftTransform(other.transform, place) : other.transform,
  }));
  const { axis, sign } = document.axes.up;
  const shares = Array.from({ length: KEYS + 1 }, (_, i) => i / KEYS);
  const track: Track = {
    node: 0,
    path: 'rotation',
    times: Float64Array.from(shares, (share) => share * seconds),
    values: Float64Array.from(
      shares.flatMap((share) =>
        [0, 1, 2].map((k) => (k === axis ? sign * 360 * (ease ? eased(share) : share) : 0)),
      ),
    ),
    interpolation: 'linear',
  };
  const clips = document.clips.map((clip) => ({
    ...clip,
    tracks: clip.tracks.map((other) => {
      const atRoot = document.nodes[other.node].parent < 0 && other.path === 'translation';
      return { ...(atRoot ? shiftKeys(other, place) : other), node: other.node + 1 };
    }),
  }));
  return {
    ...document,
    nodes: [node, ...nodes],
    skins: document.skins.map((skin) => ({ ...skin, joints: skin.joints.map((joint) => joint + 1) })),
    clips: [{ name: 'turn', start: 0, end: seconds, tracks: [track] }, ...clips],
  };
}

/** In document units and axes; the origin without geometry. */
function middleOfBottom(document: SceneDocument): Vec3 {
  const bounds = measureBoundsIn(document, identity());
  if (!bounds) return [0, 0, 0];
  const place = bounds.min.map((value, k) => (value + bounds.max[k]) / 2) as Vec3;
  place[document.axes.up.axis] = lowest(bounds, document.axes.up);
  return place;
}

function lowest({ min, max }: { min: Vec3; max: Vec3 }, { axis, sign }: SignedAxis): number {
  return sign > 0 ? min[axis] : max[axis];
}

/** Smooth from 0 to 1, still at both ends. */
function eased(share: number): number {
  return share * share * (3 - 2 * share);
}
