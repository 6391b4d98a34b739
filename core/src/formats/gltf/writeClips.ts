import type { AnimationSampler, Document, Node as GltfNode } from '@gltf-transform/core';
import type { SceneDocument, Track } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import { isPlain } from '../../scene/matrix.ts';
import { wholeMotion } from '../../scene/rebase.ts';
import { toQuaternions } from '../../scene/tracks.ts';

const SAMPLES_PER_SECOND = 30;
type Path = 'translation' | 'rotation' | 'scale' | 'weights';
const INTERPOLATION = { step: 'STEP', linear: 'LINEAR', cubic: 'CUBICSPLINE' } as const;

/** Adds the clips. Motion of nodes with pivots is sampled as a whole; visibility has no track in glTF. */
export function writeClips(gltf: Document, document: SceneDocument, nodes: GltfNode[], losses: Loss[]): void {
  const buffer = gltf.getRoot().listBuffers()[0];
  for (const clip of document.clips) {
    if (clip.tracks.length === 0) continue;
    const animation = gltf.createAnimation(clip.name);
    const early = Math.min(0, ...clip.tracks.map(({ times }) => times[0] ?? 0));
    if (early < 0) losses.push({ code: 'gltf.early', part: clip.name });
    const add = (node: number, path: Path, given: Track) => {
      const track = inSinglePrecision(early < 0 ? later(given, -early) : given);
      if (track.times.length === 0) return;
      const sampler: AnimationSampler = gltf
        .createAnimationSampler()
        .setInput(
          gltf.createAccessor().setType('SCALAR').setArray(Float32Array.from(track.times)).setBuffer(buffer),
        )
        .setOutput(
          gltf
            .createAccessor()
            .setType(accessorType(path))
            .setArray(Float32Array.from(track.values))
            .setBuffer(buffer),
        )
        .setInterpolation(INTERPOLATION[track.interpolation]);
      const channel = gltf
        .createAnimationChannel()
        .setTargetNode(nodes[node])
        .setTargetPath(path)
        .setSampler(sampler);
      animation.addSampler(sampler).addChannel(channel);
    };
    for (const [node, tracks] of group(clip.tracks)) {
      const source = document.nodes[node];
      const moving = tracks.filter((track) => track.path !== 'weights' && track.path !== 'visible');
      if (tracks.some((track) => track.path === 'visible')) losses.push({ code: 'gltf.visibility' });
      for (const track of tracks)
        if (track.path === 'weights' && nodes[node].getMesh()) add(node, 'weights', track);
      if (isPlain(source.transform)) {
        for (const track of moving) {
          if (track.path === 'rotation')
            add(node, 'rotation', toQuaternions(track, source, SAMPLES_PER_SECOND));
          else add(node, track.path === 'quaternion' ? 'rotation' : (track.path as Path), track);
        }
      } else if (moving.length > 0)
        for (const track of wholeMotion(source.transform, moving))
          add(node, track.path === 'quaternion' ? 'rotation' : (track.path as Path), track);
    }
    if (animation.listChannels().length === 0) animation.dispose();
  }
}

function later(track: Track, by: number): Track {
  return { ...track, times: track.times.map((time) => time + by) };
}

/**
 * A track whose times still go forward when they are rounded to single floats. One key alone has no curve:
 * glTF wants two for that.
 */
function inSinglePrecision(track: Track): Track {
  const { times, values, interpolation } = track;
  const width = values.length / (times.length || 1);
  const kept: number[] = [];
  for (let i = 0; i < times.length; i += 1)
    if (kept.length === 0 || Math.fround(times[i]) > Math.fround(times[kept[kept.length - 1]])) kept.push(i);
  if (interpolation === 'cubic' && kept.length === 1)
    return {
      ...track,
      times: times.slice(0, 1),
      values: values.slice(width / 3, (width / 3) * 2),
      interpolation: 'step',
    };
  if (kept.length === times.length) return track;
  const rows = kept.flatMap((i) => [...values.subarray(i * width, (i + 1) * width)]);
  return { ...track, times: Float64Array.from(kept, (i) => times[i]), values: Float64Array.from(rows) };
}

function accessorType(path: string) {
  if (path === 'weights') return 'SCALAR';
  return path === 'rotation' ? 'VEC4' : 'VEC3';
}

function group(tracks: Track[]): Map<number, Track[]> {
  const out = new Map<number, Track[]>();
  for (const track of tracks) out.set(track.node, [...(out.get(track.node) ?? []), track]);
  return out;
}
