import { own } from '../../own.ts';
import { addUncarried, type Clip, type SceneDocument, type TrackPath } from '../../scene/document.ts';
import {
  CUBIC,
  type Curve,
  createCurve,
  curvesOfShapes,
  joinCurves,
  LINEAR,
  STEP,
  TICKS_PER_SECOND,
} from './curves.ts';
import type { FbxObject, ObjectTable } from './objects.ts';
import { shapesOf, stopsOf } from './readDeformers.ts';
import { childOf, integersOf, numbersOf } from './tree.ts';

const PATHS: Record<string, TrackPath> = {
  'Lcl Translation': 'translation',
  'Lcl Rotation': 'rotation',
  'Lcl Scaling': 'scale',
  Visibility: 'visible',
};
const COMPONENTS = ['d|X', 'd|Y', 'd|Z'];
const CONSTANT_FLAG = 0x2;
const LINEAR_FLAG = 0x4;

/**
 * Reads animation stacks of 7.x files into clips. Of several layers the first that moves a quantity is taken.
 */
export function readClips(document: SceneDocument, table: ObjectTable, nodes: Map<string, number>): void {
  const shapeTargets = findShapeTargets(document, table, nodes);
  for (const stack of table.objects.values()) {
    if (stack.kind !== 'AnimationStack') continue;
    const clip: Clip = { name: stack.name || 'clip', ...spanOf(stack), tracks: [] };
    const layers = table.childrenOf(stack.id).filter((link) => link.object.kind === 'AnimationLayer');
    if (layers.length > 1)
      addUncarried(document.remarks, 'further animation layers', stack.name, {
        why: 'only the first layer that moves a quantity is carried',
        severity: 'warning',
      });
    const reading: ClipReading = {
      document,
      table,
      nodes,
      shapeTargets,
      clip,
      taken: new Set(),
      weights: new Map(),
    };
    for (const { object: layer } of layers) {
      for (const { object: curveNode } of table.childrenOf(layer.id)) {
        if (curveNode.kind === 'AnimationCurveNode') readCurveNode(curveNode, reading);
      }
    }
    if (clip.end <= clip.start) {
      clip.start = Math.min(0, ...clip.tracks.map((track) => track.times[0]));
      clip.end = Math.max(0, ...clip.tracks.map((track) => track.times[track.times.length - 1]));
    }
    document.clips.push(clip);
  }
}

function spanOf(stack: FbxObject): { start: number; end: number } {
  const seconds = (...names: string[]) =>
    (names.map((name) => stack.properties.number(name)).find((value) => value !== undefined) ?? 0) /
    TICKS_PER_SECOND;
  return { start: seconds('LocalStart', 'ReferenceStart'), end: seconds('LocalStop', 'ReferenceStop') };
}

/** A clip that is being read, and what its curves may move. */
interface ClipReading {
  document: SceneDocument;
  table: ObjectTable;
  nodes: Map<string, number>;
  shapeTargets: Map<string, ShapeTarget>;
  clip: Clip;
  /** Quantities that an earlier layer moves. */
  taken: Set<string>;
  weights: WeightColumns;
}

function readCurveNode(curveNode: FbxObject, reading: ClipReading): void {
  const { document, table, nodes, shapeTargets, clip, taken } = reading;
  const curves = table.childrenOf(curveNode.id).filter((link) => link.object.kind === 'AnimationCurve');
  if (curves.length === 0) return;
  for (const { object: target, property } of table.targetsOf(curveNode.id)) {
    const place = `${target.id}/${property}`;
    if (taken.has(place) || target.kind === 'AnimationLayer') continue;
    const node = nodes.get(target.id);
    const path = own(PATHS, property);
    const shape = shapeTargets.get(target.id);
    if (node !== undefined && path) {
      const width = path === 'visible' ? 1 : 3;
      const parts = document.nodes[node].transform;
      const fallback =
        path === 'visible'
          ? [1]
          : [0, 1, 2].map(
              (i) => curveNode.properties.number(COMPONENTS[i]) ?? parts[path as 'translation'][i],
            );
      const byComponent = Array.from({ length: width }, (_, i) => {
        const curve = curves.find(
          (link) => link.property === COMPONENTS[i] || (width === 1 && link.property !== ''),
        );
        return curve ? readCurve(curve.object) : null;
      });
      if (byComponent.every((curve) => curve === null)) continue;
      clip.tracks.push({ node, path, ...joinCurves(byComponent, fallback) });
    } else if (shape) addWeights(shape, readCurve(curves[0].object), reading);
    else {
      addUncarried(document.remarks, `animated ${property || 'properties'}`, target.name);
      continue;
    }
    taken.add(place);
  }
}

/**
 * Reads one AnimationCurve record. Attributes are run-length coded: flags and four numbers serve a run of
 * keys.
 */
export function readCurve({ node }: FbxObject): Curve | null {
  const ticks = numbersOf(childOf(node, 'KeyTime'));
  const values = numbersOf(childOf(node, 'KeyValueFloat'));
  if (!ticks || !values || ticks.length === 0 || values.length < ticks.length) return null;
  const curve = createCurve(
    ticks.map((tick) => tick / TICKS_PER_SECOND),
    values.slice(0, ticks.length),
  );
  const flags = integersOf(childOf(node, 'KeyAttrFlags'));
  const data = numbersOf(childOf(node, 'KeyAttrDataFloat'));
  const runs = integersOf(childOf(node, 'KeyAttrRefCount'));
  if (!flags || !runs) return curve;
  const slopes = data ?? new Float64Array(flags.length * 4);
  let key = 0;
  for (let run = 0; run < runs.length && run < flags.length; run += 1) {
    for (let i = 0; i < runs[run] && key < ticks.length; i += 1, key += 1) {
      curve.kinds[key] = kindOf(flags, run);
      curve.out[key] = slopes[run * 4] ?? 0;
      curve.into[key] = slopes[run * 4 + 1] ?? 0;
    }
  }
  return curve;
}

interface ShapeTarget {
  node: number;
  shape: number;
  shapes: number;
  /** What its curve says where its shapes, from that one on, stand as they are written. */
  stops: number[];
}

function kindOf(flags: Int32Array, run: number): number {
  if (flags[run] & CONSTANT_FLAG) return STEP;
  return flags[run] & LINEAR_FLAG ? LINEAR : CUBIC;
}

/** Blend shape channels by object id: the node that shows the mesh, and the number of the shape on it. */
function findShapeTargets(
  document: SceneDocument,
  table: ObjectTable,
  nodes: Map<string, number>,
): Map<string, ShapeTarget> {
  const shapeTargets = new Map<string, ShapeTarget>();
  for (const [modelId, node] of nodes) {
    for (const { object: geometry } of table.childrenOf(modelId)) {
      if (geometry.kind !== 'Geometry') continue;
      const channels = table
        .childrenOf(geometry.id)
        .filter((link) => link.object.subclass === 'BlendShape')
        .flatMap((link) => table.childrenOf(link.object.id).map((inner) => inner.object))
        .filter((channel) => channel.subclass === 'BlendShapeChannel' && shapesOf(channel, table).length > 0);
      const shapes = document.meshes[document.nodes[node].mesh]?.shapes.length ?? 0;
      let shape = 0;
      for (const channel of channels) {
        const stops = stopsOf(channel, shapesOf(channel, table).length);
        if (shape + stops.length <= shapes) shapeTargets.set(channel.id, { node, shape, shapes, stops });
        shape += stops.length;
      }
    }
  }
  return shapeTargets;
}

/** Shape curves met so far, per node one for each shape. */
type WeightColumns = Map<number, (Curve | null)[]>;

/** Weights of all shapes of a node are one track; each channel fills its own column. */
function addWeights(
  { node, shape, shapes, stops }: ShapeTarget,
  curve: Curve | null,
  { document, clip, weights: columns }: ClipReading,
): void {
  if (!curve) return;
  const rest = document.meshes[document.nodes[node].mesh].shapes.map((shape) => shape.weight);
  const ownColumn = columns.get(node) ?? new Array<Curve | null>(shapes).fill(null);
  columns.set(node, ownColumn);
  const ofShapes = stops.length === 1 ? [shareOf(curve, stops[0])] : curvesOfShapes(curve, stops);
  ofShapes.forEach((ofShape, i) => {
    ownColumn[shape + i] = ofShape;
  });
  const track = { node, path: 'weights' as const, ...joinCurves(ownColumn, rest) };
  const index = clip.tracks.findIndex((other) => other.node === node && other.path === 'weights');
  if (index < 0) clip.tracks.push(track);
  else clip.tracks[index] = track;
}

function shareOf(curve: Curve, whole: number): Curve {
  const share = (values: Float64Array) => values.map((value) => value / whole);
  return { ...curve, values: share(curve.values), out: share(curve.out), into: share(curve.into) };
}
