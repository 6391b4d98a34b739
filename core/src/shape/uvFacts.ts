import { type Layer, layerEntry, type PolygonMesh } from '../scene/document.ts';

/** UVs of the faces of one material slot, in the mesh's first set. */
export interface SlotUvs {
  slot: number;
  faces: number;
  /** Faces without UVs: the mesh has no set, or none of their corners names a value. */
  lacking: number;
  /** Faces with an area, but none in the image. */
  collapsed: number;
  /** How many different points collapsed faces take, counted up to {@link MOST_POINTS}. */
  points: number;
  /** How far the others reach; null where there are none. */
  range: { min: [number, number]; max: [number, number] } | null;
}

/** Different points of collapsed faces are told apart up to here. */
export const MOST_POINTS = 16;
/** A hundred-millionth of the image: less than a texel of the largest. */
const NOTHING = 1e-9;

/**
 * Measures the first UV set for each material slot that has faces; `areas` are those of the faces in space.
 */
export function measureUvs(mesh: PolygonMesh, areas: Float64Array): SlotUvs[] {
  const { faceCounts, faceCorners, faceMaterial } = mesh;
  const layer = mesh.uvSets.at(0) ?? null;
  const slots = new Map<number, SlotUvs & { taken: Set<string> }>();
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const count = faceCounts[face];
    const slot = faceMaterial ? faceMaterial[face] : 0;
    let facts = slots.get(slot);
    if (!facts) {
      facts = { slot, faces: 0, lacking: 0, collapsed: 0, points: 0, range: null, taken: new Set() };
      slots.set(slot, facts);
    }
    facts.faces += 1;
    if (!layer || isLacking(layer, faceCorners, first, count)) facts.lacking += 1;
    else measureFace(facts, layer, { face, first, count, faceCorners, area: areas[face] });
    first += count;
  }
  return [...slots.values()]
    .sort((a, b) => a.slot - b.slot)
    .map(({ taken, ...facts }) => ({ ...facts, points: taken.size }));
}

interface Face {
  face: number;
  first: number;
  count: number;
  faceCorners: Uint32Array;
  area: number;
}

function measureFace(facts: SlotUvs & { taken: Set<string> }, layer: Layer, face: Face): void {
  const { twice, left, right, low, high, u, v } = reachOf(layer, face);
  if (isCollapsed(face.area, twice)) {
    facts.collapsed += 1;
    if (facts.taken.size < MOST_POINTS) facts.taken.add(`${u.toFixed(4)} ${v.toFixed(4)}`);
  }
  const { range } = facts;
  if (!range) facts.range = { min: [left, low], max: [right, high] };
  else {
    if (left < range.min[0]) range.min[0] = left;
    if (low < range.min[1]) range.min[1] = low;
    if (right > range.max[0]) range.max[0] = right;
    if (high > range.max[1]) range.max[1] = high;
  }
}

/** A face in UVs: twice its area, how far it reaches, and its first corner. */
function reachOf(layer: Layer, { face, first, count, faceCorners }: Face) {
  const { values } = layer;
  let [twice, u, v, left, right, low, high] = [0, 0, 0, Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i <= count; i += 1) {
    const corner = i === count ? first : first + i;
    const entry = layerEntry(layer, corner, faceCorners[corner], face) * 2;
    const [nextU, nextV] = [values[entry], values[entry + 1]];
    if (i > 0) twice += u * nextV - nextU * v;
    u = nextU;
    v = nextV;
    if (u < left) left = u;
    if (u > right) right = u;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  return { twice, left, right, low, high, u, v };
}

function isCollapsed(area: number, twice: number): boolean {
  return area > 0 && Math.abs(twice) / 2 < NOTHING;
}

/** Coordinates may reach this far beyond the image by rounding. */
export const UV_SLACK = 1e-3;

/** 1 for each face that has no UVs, no area in them, or reaches beyond the image. */
export function markUvs(
  mesh: PolygonMesh,
  areas: Float64Array,
  fault: 'noUv' | 'uvCollapsed' | 'uvOutside',
): Uint8Array {
  const { faceCounts, faceCorners } = mesh;
  const layer = mesh.uvSets.at(0) ?? null;
  const marks = new Uint8Array(faceCounts.length);
  let first = 0;
  for (let face = 0; face < faceCounts.length; face += 1) {
    const count = faceCounts[face];
    if (!layer || isLacking(layer, faceCorners, first, count)) marks[face] = Number(fault === 'noUv');
    else if (fault !== 'noUv') {
      const { twice, left, right, low, high } = reachOf(layer, {
        face,
        first,
        count,
        faceCorners,
        area: areas[face],
      });
      const outside = Math.min(left, low) < -UV_SLACK || Math.max(right, high) > 1 + UV_SLACK;
      marks[face] = Number(fault === 'uvCollapsed' ? isCollapsed(areas[face], twice) : outside);
    }
    first += count;
  }
  return marks;
}

/** Whether every corner of a face reads the entry that stands for no value. */
function isLacking(
  { none, index, domain }: Layer,
  faceCorners: Uint32Array,
  first: number,
  count: number,
): boolean {
  if (none === undefined) return false;
  for (let corner = first; corner < first + count; corner += 1) {
    const element = domain === 'point' ? faceCorners[corner] : corner;
    if ((index ? index[element] : element) !== none) return false;
  }
  return true;
}
