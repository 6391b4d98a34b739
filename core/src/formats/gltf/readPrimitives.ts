import type { Accessor, Mesh, Primitive } from '@gltf-transform/core';
import { asLight } from '../../scene/colours.ts';
import {
  addRemark,
  addUncarried,
  createMesh,
  type Influences,
  type Layer,
  type MorphShape,
  type PolygonMesh,
  type Remark,
} from '../../scene/document.ts';

const TRIANGLES = 4;
const STRIP = 5;
const FAN = 6;
const MODES: Record<number, string> = { 0: 'points', 1: 'lines', 2: 'line loops', 3: 'line strips' };

interface Part {
  primitive: Primitive;
  slot: number;
  /** First point of this part in the mesh. */
  base: number;
  count: number;
  /** Corners of triangles, as vertices of the part. */
  corners: Uint32Array;
}

/**
 * All primitives of a mesh as one mesh of triangles, with a material slot per primitive. Texture v is turned
 * upwards.
 */
export function readPrimitives(
  mesh: Mesh,
  name: string,
  slotOf: (primitive: Primitive) => number,
  remarks: Remark[],
): PolygonMesh {
  const parts = gatherParts(mesh, name, slotOf, remarks);
  const total = parts.reduce((sum, part) => sum + part.count, 0);
  const corners = new Uint32Array(parts.reduce((sum, part) => sum + part.corners.length, 0));
  const faceMaterial = new Int32Array(corners.length / 3);
  const points = new Float64Array(total * 3);
  let offset = 0;
  for (const part of parts) {
    for (let i = 0; i < part.corners.length; i += 1) corners[offset + i] = part.corners[i] + part.base;
    faceMaterial.fill(part.slot, offset / 3, (offset + part.corners.length) / 3);
    offset += part.corners.length;
    copy(part.primitive.getAttribute('POSITION'), points, part.base, 3);
  }
  const layer = (
    attributeOf: (primitive: Primitive) => Accessor | null,
    size: 2 | 3 | 4,
    layerName: string,
    fill: number,
  ): Layer | null => {
    if (!parts.some(({ primitive }) => attributeOf(primitive))) return null;
    const values = new Float64Array(total * size).fill(fill);
    for (const { primitive, base } of parts) copy(attributeOf(primitive), values, base, size);
    return { name: layerName, size, domain: 'point', values, index: null };
  };
  const named = (semantic: string, size: 2 | 3 | 4, fill: number) =>
    layer((primitive) => primitive.getAttribute(semantic), size, semantic, fill);
  const uvSets: Layer[] = [];
  for (let set = 0; parts.some(({ primitive }) => primitive.getAttribute(`TEXCOORD_${set}`)); set += 1) {
    const uv = named(`TEXCOORD_${set}`, 2, 0) as Layer;
    for (let i = 1; i < uv.values.length; i += 2) uv.values[i] = 1 - uv.values[i];
    uvSets.push(uv);
  }
  const wide = parts.some(({ primitive }) => coloursOf(primitive)?.getElementSize() === 4);
  const colour = layer(coloursOf, wide ? 4 : 3, 'COLOR_0', 1);
  for (const { primitive, base, count } of colour ? parts : [])
    if (!primitive.getAttribute('COLOR_0')) {
      const { values, size } = colour as Layer;
      const own = values.subarray(base * size, (base + count) * size);
      own.set(asLight({ size, values: own }).values);
    }
  if (parts.some(({ primitive }) => primitive.getAttribute('COLOR_1')))
    addUncarried(remarks, 'further vertex colours', name);
  return createMesh(name, {
    points,
    faceCounts: new Uint32Array(faceMaterial.length).fill(3),
    faceCorners: corners,
    faceMaterial: faceMaterial.some((slot) => slot !== 0) ? faceMaterial : null,
    normals: named('NORMAL', 3, 0),
    tangents: named('TANGENT', 4, 1),
    uvSets,
    colours: colour ? [colour] : [],
    influences: readInfluences(parts, total),
    shapes: readShapes(mesh, parts),
  });
}

/**
 * Where colours of points stand that no material shows: in an attribute that viewers pass over. They are mostly masks,
 * and keep the numbers that programs show for them.
 */
export const PASSED_COLOURS = '_COLOR_0';

function coloursOf(primitive: Primitive): Accessor | null {
  return primitive.getAttribute('COLOR_0') ?? primitive.getAttribute(PASSED_COLOURS);
}

function gatherParts(
  mesh: Mesh,
  name: string,
  slotOf: (primitive: Primitive) => number,
  remarks: Remark[],
): Part[] {
  const parts: Part[] = [];
  const bases = new Map<Accessor, number>();
  let base = 0;
  for (const primitive of mesh.listPrimitives()) {
    const position = primitive.getAttribute('POSITION');
    const mode = primitive.getMode();
    if (!position || MODES[mode]) {
      addUncarried(remarks, MODES[mode] ?? 'primitives without positions', name);
      continue;
    }
    const count = position.getCount();
    // Primitives often share one list of vertices; it is taken once as long as they also share everything
    // else.
    const shared = bases.get(position);
    const positions = shared ?? base;
    const before = parts.find((part) => part.base === positions);
    const reuse = shared !== undefined && before && sameAttributes(before.primitive, primitive);
    const start = reuse ? positions : base;
    const corners = soundCorners(cornersOf(primitive, count, mode), count, name, remarks);
    parts.push({ primitive, slot: slotOf(primitive), base: start, count: reuse ? 0 : count, corners });
    if (!reuse) {
      bases.set(position, base);
      base += count;
    }
  }
  return parts;
}

function sameAttributes(a: Primitive, b: Primitive): boolean {
  const [first, second] = [a.listAttributes(), b.listAttributes()];
  return (
    first.length === second.length &&
    first.every((accessor, i) => accessor === second[i]) &&
    a.listTargets().length === b.listTargets().length
  );
}

function cornersOf(primitive: Primitive, count: number, mode: number): Uint32Array {
  const indices = primitive.getIndices()?.getArray();
  const list = indices ? Uint32Array.from(indices) : Uint32Array.from({ length: count }, (_, i) => i);
  if (mode === TRIANGLES) return list.subarray(0, list.length - (list.length % 3));
  const out: number[] = [];
  for (let i = 0; i + 2 < list.length; i += 1) {
    const [a, b, c] = triangleOf(mode, list, i);
    if (mode !== STRIP || (a !== b && b !== c && a !== c)) out.push(a, b, c);
  }
  return Uint32Array.from(out);
}

function triangleOf(mode: number, list: Uint32Array, i: number): [number, number, number] {
  if (mode === FAN) return [list[0], list[i + 1], list[i + 2]];
  return i % 2 === 0 ? [list[i], list[i + 1], list[i + 2]] : [list[i + 1], list[i], list[i + 2]];
}

function soundCorners(corners: Uint32Array, count: number, name: string, remarks: Remark[]): Uint32Array {
  let lost = 0;
  for (let i = 0; i < corners.length; i += 3)
    if (corners[i] >= count || corners[i + 1] >= count || corners[i + 2] >= count) lost += 1;
  if (lost === 0) return corners;
  addRemark(
    remarks,
    {
      code: 'read.indexRange',
      severity: 'error',
      subject: name,
      message: 'triangles that name missing points are left out',
    },
    lost,
  );
  const keptFaces: number[] = [];
  for (let i = 0; i < corners.length; i += 3)
    if (corners[i] < count && corners[i + 1] < count && corners[i + 2] < count)
      keptFaces.push(corners[i], corners[i + 1], corners[i + 2]);
  return Uint32Array.from(keptFaces);
}

/** Copies an accessor's elements. */
function copy(accessor: Accessor | null, into: Float64Array, base: number, size: number): void {
  if (!accessor) return;
  const element: number[] = [];
  const width = Math.min(size, accessor.getElementSize());
  const count = Math.min(accessor.getCount(), into.length / size - base);
  for (let i = 0; i < count; i += 1) {
    accessor.getElement(i, element);
    for (let k = 0; k < width; k += 1) into[(base + i) * size + k] = element[k];
  }
}

function readInfluences(parts: Part[], total: number): Influences | null {
  if (!parts.some(({ primitive }) => primitive.getAttribute('JOINTS_0'))) return null;
  const lists: [number, number][][] = Array.from({ length: total }, () => []);
  for (const { primitive, base, count } of parts) {
    for (let set = 0; ; set += 1) {
      const joints = primitive.getAttribute(`JOINTS_${set}`);
      const weights = primitive.getAttribute(`WEIGHTS_${set}`);
      if (!joints || !weights) break;
      const [j, w]: [number[], number[]] = [[], []];
      for (let i = 0; i < count; i += 1) {
        joints.getElement(i, j);
        weights.getElement(i, w);
        for (let k = 0; k < 4; k += 1) if (w[k] > 0) lists[base + i].push([j[k], w[k]]);
      }
    }
  }
  const starts = new Uint32Array(total + 1);
  lists.forEach((list, i) => {
    starts[i + 1] = starts[i] + list.length;
  });
  const flat = lists.flat();
  return {
    starts,
    joints: Uint32Array.from(flat, ([joint]) => joint),
    weights: Float32Array.from(flat, ([, weight]) => weight),
  };
}

function readShapes(mesh: Mesh, parts: Part[]): MorphShape[] {
  const count = Math.max(0, ...parts.map(({ primitive }) => primitive.listTargets().length));
  const names = mesh.getExtras().targetNames;
  return Array.from({ length: count }, (_, t): MorphShape => {
    const points: number[] = [];
    const offsets: number[] = [];
    const normals: number[] = [];
    let hasNormals = false;
    for (const { primitive, base, count: vertices } of parts) {
      const target = primitive.listTargets()[t];
      const position = target?.getAttribute('POSITION');
      const normal = target?.getAttribute('NORMAL');
      if (!position) continue;
      hasNormals ||= normal !== null && normal !== undefined;
      const [p, n]: [number[], number[]] = [[], [0, 0, 0]];
      for (let i = 0; i < Math.min(vertices, position.getCount()); i += 1) {
        position.getElement(i, p);
        if (normal) normal.getElement(i, n);
        if (p.every((component) => component === 0) && n.every((component) => component === 0)) continue;
        points.push(base + i);
        offsets.push(...p.slice(0, 3));
        normals.push(...n.slice(0, 3));
      }
    }
    return {
      name: (Array.isArray(names) && typeof names[t] === 'string' && names[t]) || `shape_${t + 1}`,
      points: Uint32Array.from(points),
      offsets: Float64Array.from(offsets),
      normalOffsets: hasNormals ? Float64Array.from(normals) : null,
      weight: mesh.getWeights()[t] ?? 0,
    };
  });
}
