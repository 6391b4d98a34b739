import type { Clip, SceneNode, Skin, Track, TransformParts, Vec3 } from './document.ts';
import {
  eulerOf,
  geometricMatrix,
  invertAffine,
  localMatrix,
  type Matrix4,
  multiply,
  partsOfMatrix,
  quaternionOf,
  rotation,
  rotationOfQuaternion,
} from './matrix.ts';
import { isMotion, rebaseTracks } from './rebase.ts';
import { sampleTrack } from './tracks.ts';

const SAMPLES_PER_SECOND = 30;

interface Moving {
  nodes: SceneNode[];
  clips: Clip[];
  skins: Skin[];
}

/**
 * Nodes, clips and skins where what has a camera or a light is turned about itself (local' = local * turn).
 * What hangs on it, its own mesh, and the points that it moves as a joint stay where they are.
 */
export function turnViews({ nodes, clips, skins }: Moving, turnOf: (node: SceneNode) => Matrix4): Moving {
  const turns = nodes.map((node) => (node.camera >= 0 || node.light >= 0 ? turnOf(node) : null));
  if (turns.every((turn) => turn === null)) return { nodes, clips, skins };
  const transforms = turnedTransforms(nodes, turns);
  return {
    nodes: nodes.map((node, i) =>
      transforms[i] === node.transform ? node : { ...node, transform: transforms[i] },
    ),
    clips: clips.map((clip) => ({ ...clip, tracks: turnedTracks(clip.tracks, nodes, turns) })),
    skins: skins.map((skin) => turnedBind(skin, turns)),
  };
}

/** world * turn * (turn^-1 * inverseBind) = world * inverseBind */
function turnedBind(skin: Skin, turns: readonly (Matrix4 | null)[]): Skin {
  if (skin.joints.every((joint) => turns[joint] === null)) return skin;
  const inverseBind = skin.inverseBind.slice();
  skin.joints.forEach((joint, j) => {
    const turn = turns[joint];
    if (turn) inverseBind.set(multiply(invertAffine(turn), inverseBind.slice(j * 16, j * 16 + 16)), j * 16);
  });
  return { ...skin, inverseBind };
}

function turnedTransforms(nodes: readonly SceneNode[], turns: readonly (Matrix4 | null)[]): TransformParts[] {
  const out = nodes.map((node) => node.transform);
  nodes.forEach((node, index) => {
    const turn = turns[index];
    if (!turn) return;
    const back = invertAffine(turn);
    out[index] = turned(out[index], turn);
    if (node.mesh >= 0) {
      const {
        translation,
        rotation: angles,
        scale,
      } = partsOfMatrix(multiply(back, geometricMatrix(out[index])));
      Object.assign(out[index], {
        geometricTranslation: translation,
        geometricRotation: angles,
        geometricScale: scale,
      });
    }
    nodes.forEach((child, i) => {
      if (child.parent !== index) return;
      const { geometricTranslation, geometricRotation, geometricScale, inherit } = out[i];
      out[i] = {
        ...partsOfMatrix(multiply(back, localMatrix(out[i]))),
        geometricTranslation,
        geometricRotation,
        geometricScale,
        inherit,
      };
    });
  });
  return out;
}

/**
 * Angles turn with what stands after them; whole turns are turned themselves. What hangs on a view keeps its
 * motion.
 */
function turnedTracks(
  tracks: readonly Track[],
  nodes: readonly SceneNode[],
  turns: readonly (Matrix4 | null)[],
): Track[] {
  const rebased = new Set<number>();
  return tracks.flatMap((track) => {
    const above = turns[nodes[track.node].parent];
    if (above && isMotion(track)) {
      if (rebased.has(track.node)) return [];
      rebased.add(track.node);
      const ownTracks = tracks.filter((eachTrack) => eachTrack.node === track.node && isMotion(eachTrack));
      const moved = rebaseTracks(ownTracks, nodes[track.node].transform, invertAffine(above)) ?? ownTracks;
      return moved.map((eachTrack) => turnedTrack(eachTrack, turns[track.node]));
    }
    return [turnedTrack(track, turns[track.node])];
  });
}

function turnedTrack(track: Track, turn: Matrix4 | null): Track {
  if (!turn || track.path !== 'quaternion') return track;
  const keys = track.interpolation === 'cubic' ? sampleTrack(track, 4, SAMPLES_PER_SECOND) : track;
  const values = new Float64Array(keys.values.length);
  for (let i = 0; i < values.length; i += 4) {
    const q = quaternionOf(multiply(rotationOfQuaternion([...keys.values.subarray(i, i + 4)]), turn));
    const isFar = i > 0 && q.reduce((sum, component, k) => sum + component * values[i - 4 + k], 0) < 0;
    values.set(isFar ? q.map((component) => -component) : q, i);
  }
  return { ...keys, values };
}

/**
 * The turn goes into the post-rotation, so that animated rotations stay what they are; where an uneven scale
 * stands after it, all parts are worked out anew.
 */
function turned(t: TransformParts, turn: Matrix4): TransformParts {
  const [x, y, z] = t.scale;
  const uniform = Math.max(Math.abs(x - y), Math.abs(y - z)) <= 1e-6 * Math.abs(x);
  if (t.matrix || !uniform || t.scalingPivot.some((component) => component !== 0)) {
    const { geometricTranslation, geometricRotation, geometricScale, inherit } = t;
    return {
      ...partsOfMatrix(multiply(localMatrix(t), turn)),
      geometricTranslation,
      geometricRotation,
      geometricScale,
      inherit,
    };
  }
  // R * post^-1 * turn = R * (turn^-1 * post)^-1
  const post = multiply(invertAffine(turn), rotation(t.postRotation));
  return { ...t, postRotation: eulerOf(post).map((angle) => (Math.abs(angle) < 1e-9 ? 0 : angle)) as Vec3 };
}
