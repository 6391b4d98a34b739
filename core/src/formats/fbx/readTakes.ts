import { addUncarried, type Clip, type SceneDocument, type TrackPath } from '../../scene/document.ts';
import { CUBIC, type Curve, createCurve, joinCurves, LINEAR, STEP, TICKS_PER_SECOND } from './curves.ts';
import { childOf, childrenOf, type FbxNode, type FbxTree, NAME_SEPARATOR, numberAt, textAt } from './tree.ts';

const PATHS: Record<string, TrackPath> = { T: 'translation', R: 'rotation', S: 'scale' };
const AXES = ['X', 'Y', 'Z'];

/**
 * Reads the takes of 6.x files, where curves stand under the models' names. 7.x files keep only names there.
 */
export function readTakes(document: SceneDocument, tree: FbxTree, nodes: Map<string, number>): void {
  if (document.clips.length > 0) return;
  const section = tree.nodes.find((node) => node.name === 'Takes');
  for (const take of childrenOf(section, 'Take')) {
    const clip: Clip = { name: textAt(take, 0) || 'take', start: 0, end: 0, tracks: [] };
    for (const model of childrenOf(take, 'Model')) {
      const id = textAt(model, 0);
      const node = nodes.get(id) ?? nodes.get(`${id.split(NAME_SEPARATOR)[0]}${NAME_SEPARATOR}Model`);
      if (node === undefined) continue;
      for (const channel of childrenOf(model, 'Channel')) {
        if (textAt(channel, 0) === 'Transform') readTransformChannels(document, clip, node, channel);
        else if (childOf(channel, 'Key'))
          addUncarried(document.remarks, `animated ${textAt(channel, 0)}`, document.nodes[node].name);
      }
    }
    if (clip.tracks.length === 0) continue;
    clip.start = Math.min(...clip.tracks.map((track) => track.times[0]));
    clip.end = Math.max(...clip.tracks.map((track) => track.times[track.times.length - 1]));
    document.clips.push(clip);
  }
}

function readTransformChannels(document: SceneDocument, clip: Clip, node: number, transform: FbxNode): void {
  for (const part of childrenOf(transform, 'Channel')) {
    const path = PATHS[textAt(part, 0)];
    if (!path) continue;
    const curves = AXES.map((axis) => {
      const channel = childrenOf(part, 'Channel').find((fbxNode) => textAt(fbxNode, 0) === axis);
      return channel ? readKeys(childOf(channel, 'Key')) : null;
    });
    // A single key says no more than the node's own value.
    if (!curves.some((curve) => curve && curve.times.length > 1)) continue;
    const rest = document.nodes[node].transform[path as 'translation'];
    clip.tracks.push({ node, path, ...joinCurves(curves, rest) });
  }
}

/**
 * Keys as a flat list: time, value, letter (C constant, L linear, U or others curved), and what belongs to
 * the letter.
 */
export function readKeys(record: FbxNode | undefined): Curve | null {
  const list =
    record?.properties.map((property) =>
      typeof property.value === 'bigint' ? Number(property.value) : property.value,
    ) ?? [];
  if (list.length === 1 && ArrayBuffer.isView(list[0])) return null;
  const keys: { time: number; value: number; kind: number; out: number; into: number }[] = [];
  let offset = 0;
  while (offset + 2 < list.length) {
    const [time, value, letter] = [list[offset], list[offset + 1], letterOf(list[offset + 2])];
    if (typeof time !== 'number' || typeof value !== 'number' || letter === null) break;
    offset += 3;
    const key = {
      time: time / TICKS_PER_SECOND,
      value,
      kind: kindOf(letter),
      out: 0,
      into: 0,
    };
    keys.push(key);
    if (letter === 'L') continue;
    offset += 1;
    if (letter === 'C') continue;
    key.out = Number(list[offset] ?? 0);
    key.into = Number(list[offset + 1] ?? 0);
    offset += 2;
    // A weight letter, then its numbers if it has any, until the next time, value, letter.
    offset += 1;
    while (
      offset < list.length &&
      !(
        typeof list[offset] === 'number' &&
        typeof list[offset + 1] === 'number' &&
        letterOf(list[offset + 2]) !== null
      )
    )
      offset += 1;
  }
  if (keys.length === 0) return null;
  const curve = createCurve(
    Float64Array.from(keys, (key) => key.time),
    Float64Array.from(keys, (key) => key.value),
  );
  keys.forEach(({ kind, out, into }, i) => {
    curve.kinds[i] = kind;
    curve.out[i] = out;
    curve.into[i] = into;
  });
  return numberAt(record, 0) === undefined ? null : curve;
}

function kindOf(letter: string) {
  if (letter === 'C') return STEP;
  return letter === 'L' ? LINEAR : CUBIC;
}

/** The letter of a key, written as a word or as a character code; null when it is neither. */
function letterOf(value: unknown): string | null {
  const text = letterText(value);
  return /^[A-Za-z]$/.test(text) ? text : null;
}

function letterText(value: unknown) {
  if (typeof value === 'string') return value;
  return typeof value === 'number' && Number.isInteger(value) && value >= 65 && value <= 122
    ? String.fromCharCode(value)
    : '';
}
