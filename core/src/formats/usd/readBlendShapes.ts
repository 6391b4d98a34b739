import type { MorphShape, PolygonMesh, Remark, SceneDocument, Track } from '../../scene/document.ts';
import { addUncarried } from '../../scene/document.ts';
import { bendsOf, passingTimes, sharesAt } from '../../scene/inBetweens.ts';
import type { ComposedPrim } from './compose.ts';
import type { Stage } from './stage.ts';
import { get, numberOf, numbersOf, textsOf } from './values.ts';

/** What one weight moves: a blend shape and those between nothing and it, each of them a shape of the mesh. */
export interface ShapeGroup {
  name: string;
  /** The weights at which its shapes stand as they are written, in their order. */
  stops: number[];
}

/** A node whose mesh has blend shapes. */
export interface ShapedNode {
  node: number;
  /** In the order in which their shapes stand in the mesh. */
  groups: readonly ShapeGroup[];
}

const IN_BETWEEN = /^inbetweens:([^:]+)$/;

/** Reads the blend shapes that a mesh names, in their order, with those between. */
export function readBlendShapes(
  prim: ComposedPrim,
  mesh: PolygonMesh,
  stage: Stage,
  remarks: Remark[],
): ShapeGroup[] {
  const names = textsOf(get(prim, 'skel:blendShapes')) ?? [];
  const targets = prim.properties.get('skel:blendShapeTargets')?.targets ?? [];
  return names.flatMap((name, i) => {
    const target = stage.byPath.get(targets[i] ?? '');
    if (!target) return [];
    const between = inBetweensOf(target, remarks);
    if (between.length > 0)
      addUncarried(remarks, 'in-between shapes', target.path, {
        why: 'each is a shape of its own, which moves as their weight says',
      });
    const points = mesh.points.length / 3;
    for (const { attribute, own } of between)
      mesh.shapes.push({ name: `${name}_${own}`, weight: 0, ...readShape(target, points, attribute) });
    mesh.shapes.push({ name, weight: 0, ...readShape(target, points) });
    return { name, stops: [...between.map(({ stop }) => stop), 1] };
  });
}

/** Shapes between that stand somewhere: at 0 and at 1 are nothing and the shape itself. */
function inBetweensOf(target: ComposedPrim, remarks: Remark[]) {
  const taken = new Set([0, 1]);
  return [...target.properties.values()].flatMap(({ name, metadata }) => {
    const own = IN_BETWEEN.exec(name)?.[1];
    if (own === undefined) return [];
    const stop = numberOf(metadata.weight);
    if (stop === undefined || !Number.isFinite(stop) || taken.has(stop)) {
      addUncarried(remarks, 'in-between shapes without a weight of their own', `${target.path}.${name}`, {
        why: 'not carried',
        severity: 'warning',
      });
      return [];
    }
    taken.add(stop);
    return { own, stop, attribute: name };
  });
}

function readShape(
  prim: ComposedPrim,
  points: number,
  inBetween?: string,
): Pick<MorphShape, 'points' | 'offsets' | 'normalOffsets'> {
  const offsets = numbersOf(get(prim, inBetween ?? 'offsets')) ?? new Float64Array(0);
  const normals = numbersOf(get(prim, inBetween ? `${inBetween}:normalOffsets` : 'normalOffsets'));
  const indices = numbersOf(get(prim, 'pointIndices'));
  const count = Math.floor(offsets.length / 3);
  const keptPoints = Array.from({ length: count }, (_, i) => i).filter(
    (i) => (indices ? indices[i] : i) < points,
  );
  const pick = (values: Float64Array) =>
    Float64Array.from(
      { length: keptPoints.length * 3 },
      (_, i) => values[keptPoints[Math.floor(i / 3)] * 3 + (i % 3)],
    );
  return {
    points: Uint32Array.from(keptPoints, (i) => (indices ? indices[i] : i)),
    offsets: pick(offsets),
    normalOffsets: normals && normals.length >= count * 3 ? pick(normals) : null,
  };
}

/** Gives the shapes the weights that an animation says at all times, by name. */
export function poseShapes(
  names: readonly string[],
  weights: ArrayLike<number>,
  shaped: readonly ShapedNode[],
  { nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>,
): void {
  for (const { node, groups } of shaped) {
    const { shapes } = meshes[nodes[node].mesh];
    let first = 0;
    for (const { name, stops } of groups) {
      if (names.includes(name))
        sharesAt(stops, weights[names.indexOf(name)] ?? 0).forEach((share, i) => {
          shapes[first + i].weight = share;
        });
      first += stops.length;
    }
  }
}

/** How the weights of shapes move. */
export function readWeightTracks(
  animation: ComposedPrim,
  timeCodesPerSecond: number,
  shaped: readonly ShapedNode[],
): Track[] {
  const samples = animation.properties.get('blendShapeWeights')?.timeSamples;
  const names = textsOf(get(animation, 'blendShapes')) ?? [];
  if (!samples || samples.size === 0 || names.length === 0) return [];
  const codes = [...samples.keys()].sort((a, b) => a - b);
  const rows = codes.map((code) => numbersOf(samples.get(code)));
  return shaped
    .filter(({ groups }) => groups.some(({ name }) => names.includes(name)))
    .map(({ node, groups }) => {
      const weights = groups.map(({ name }) => rows.map((row) => row?.[names.indexOf(name)] ?? 0));
      const times = timesThrough(codes, groups, weights);
      const values = times.flatMap((time) =>
        groups.flatMap(({ stops }, group) => sharesAt(stops, between(codes, weights[group], time))),
      );
      return {
        node,
        path: 'weights' as const,
        times: Float64Array.from(times, (time) => time / timeCodesPerSecond),
        values: Float64Array.from(values),
        interpolation: 'linear' as const,
      };
    });
}

/** The times of the samples, and those between at which one shape begins to go over into another. */
function timesThrough(
  codes: readonly number[],
  groups: readonly ShapeGroup[],
  weights: number[][],
): number[] {
  const all = new Set(codes);
  groups.forEach(({ stops }, group) => {
    const bends = bendsOf(stops);
    for (let i = 0; i + 1 < codes.length; i += 1)
      for (const time of passingTimes(
        [codes[i], codes[i + 1]],
        [weights[group][i], weights[group][i + 1]],
        bends,
      ))
        all.add(time);
  });
  return [...all].sort((a, b) => a - b);
}

function between(codes: readonly number[], values: readonly number[], time: number): number {
  const after = Math.max(
    1,
    codes.findIndex((code) => code >= time),
  );
  if (after >= codes.length || time <= codes[0]) return values[0];
  const share = (time - codes[after - 1]) / (codes[after] - codes[after - 1]);
  return values[after - 1] + (values[after] - values[after - 1]) * share;
}
