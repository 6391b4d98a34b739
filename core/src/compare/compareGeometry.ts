import { concatenated } from '../scene/concatenated.ts';
import { Cloud } from './cloud.ts';
import { type Difference, difference } from './difference.ts';
import { boundsOf, GEOMETRY_TOLERANCE, sizeOf, toleranceOf } from './extent.ts';
import { resolveUnit, shareThere, standingsOf } from './standing.ts';
import type { WorldPart } from './worldParts.ts';

/**
 * Compares two models part by part, by what is to be seen: places of corners, faces, which way they look,
 * normals, UV sets, colours and the material of each face. How they are held (order, triangles or polygons,
 * split vertices, nodes) does not count. Parts are matched by name, else by their place; what cannot be
 * matched is compared as a whole, so that merged and cut parts are the same. Linear in corners.
 */
export function compareGeometry(a: readonly WorldPart[], b: readonly WorldPart[]): Difference[] {
  const size = sizeOf(a) || sizeOf(b);
  if (size === 0) return [];
  if (isSameThroughout(a, b, size)) return [];
  const differences: Difference[] = [];
  const [unit, scaled] = resolveUnit(a, b, size);
  if (unit) differences.push(unit);
  return [...differences, ...compareStanding(a, scaled, size)];
}

/** Untouched models are told by one pass, without looking for what lies where. */
function isSameThroughout(a: readonly WorldPart[], b: readonly WorldPart[], size: number): boolean {
  const byName = new Map(b.map((part) => [part.name, part]));
  return (
    a.length === b.length &&
    a.every((part) => {
      const other = byName.get(part.name);
      return (
        other?.shown === part.shown && isSameCornerByCorner(part, other, toleranceOf([part, other], size))
      );
    })
  );
}

/** The same faces in the same order, each corner with the same place and the same values. */
function isSameCornerByCorner(a: WorldPart, b: WorldPart, tolerance: number): boolean {
  const { normal, uv, colour } = GEOMETRY_TOLERANCE;
  // Half of it along each axis is less than the whole of it across.
  return (
    isNear(a.faces, b.faces, 0) &&
    isNear(a.points, b.points, tolerance / 2) &&
    (a.normals === null || isNear(a.normals, b.normals, normal)) &&
    a.uvSets.every((values, i) => isNear(values, b.uvSets[i], uv)) &&
    a.colours.every((values, i) => isNear(values, b.colours[i], colour)) &&
    a.materials.every((name, face) => name === b.materials[face])
  );
}

function isNear(a: ArrayLike<number>, b: ArrayLike<number> | null | undefined, allowed: number): boolean {
  if (!b || a.length !== b.length) return false;
  for (let i = 0; i < a.length; i += 1) if (!(Math.abs(a[i] - b[i]) <= allowed)) return false;
  return true;
}

/**
 * What looks the same from several sides is turned until nothing else differs; else it counts as it stands,
 * or as it is first found to.
 */
function compareStanding(a: readonly WorldPart[], b: readonly WorldPart[], size: number): Difference[] {
  let first: Difference[] | null = null;
  for (const { axes, parts } of standingsOf(a, b, size)) {
    const differences = compareMatched(a, parts, size);
    const all = axes ? [axes, ...differences] : differences;
    if (differences.length === 0) return all;
    first ??= all;
  }
  return first ?? [];
}

function compareMatched(a: readonly WorldPart[], b: readonly WorldPart[], size: number): Difference[] {
  const { pairs, onlyA, onlyB } = matchParts(a, b, size);
  return [
    ...pairs.flatMap(([first, second]) => [
      ...compareShown(first, second),
      ...compareParts(first, second, size),
    ]),
    ...compareRest(onlyA, onlyB, size),
  ];
}

/** A part that is there and that the file hides is as good as missing. */
function compareShown(a: WorldPart, b: WorldPart): Difference[] {
  if (a.shown === b.shown) return [];
  const words = (shown: boolean) => (shown ? 'shown' : 'hidden');
  const where = { part: a.title, measured: words(b.shown), allowed: words(a.shown) };
  return a.shown
    ? [difference('part.missing', `${a.title} is there, and hidden`, where)]
    : [difference('part.added', `${a.title} is shown, and was hidden`, where)];
}

interface Matched {
  pairs: [WorldPart, WorldPart][];
  onlyA: WorldPart[];
  onlyB: WorldPart[];
}

/** By name; then by equal boxes, for parts that were renamed. */
function matchParts(a: readonly WorldPart[], b: readonly WorldPart[], size: number): Matched {
  const byName = new Map(b.map((part) => [part.name, part]));
  const pairs: [WorldPart, WorldPart][] = [];
  const onlyA: WorldPart[] = [];
  const left = new Set(b);
  for (const part of a) {
    const same = byName.get(part.name);
    if (same && left.has(same)) {
      pairs.push([part, same]);
      left.delete(same);
    } else onlyA.push(part);
  }
  const tolerance = toleranceOf(a, size) * 4;
  const rest = onlyA.filter((part) => {
    const values = boundsOf([part]);
    const twin = [...left].find((other) => {
      const box = boundsOf([other]);
      return [...values.min, ...values.max].every(
        (value, k) => Math.abs(value - [...box.min, ...box.max][k]) <= tolerance,
      );
    });
    if (!twin) return true;
    pairs.push([part, twin]);
    left.delete(twin);
    return false;
  });
  return { pairs, onlyA: rest, onlyB: [...left] };
}

/** What has no counterpart: missing and added, unless both are the same as a whole. */
function compareRest(a: readonly WorldPart[], b: readonly WorldPart[], size: number): Difference[] {
  if (a.length > 0 && b.length > 0) {
    const [first, second] = [joined(a), joined(b)];
    if (shareThere([first], [second], size) > 0.999 && shareThere([second], [first], size) > 0.999)
      return compareParts(first, second, size);
  }
  return [
    ...a.map(({ title }) => difference('part.missing', `the part ${title} is not there`, { part: title })),
    ...b.map(({ title }) => difference('part.added', `the part ${title} is there besides`, { part: title })),
  ];
}

/** Several parts as one, for those that were merged or cut. */
function joined(parts: readonly WorldPart[]): WorldPart {
  const all = (of: (part: WorldPart) => Float64Array) => concatenated(parts.map(of));
  const sets = Math.min(...parts.map(({ uvSets }) => uvSets.length));
  const colours = Math.min(...parts.map((part) => part.colours.length));
  return {
    name: '',
    title: parts.map(({ title }) => title).join(', '),
    shown: parts.some(({ shown }) => shown),
    faces: Uint32Array.from(parts.flatMap(({ faces }) => [...faces])),
    points: all(({ points }) => points),
    normals: parts.every(({ normals }) => normals)
      ? all(({ normals }) => normals ?? new Float64Array(0))
      : null,
    uvSets: Array.from({ length: sets }, (_, i) => all(({ uvSets }) => uvSets[i])),
    colours: Array.from({ length: colours }, (_, i) => all((part) => part.colours[i])),
    materials: parts.flatMap(({ materials }) => materials),
    materialTitles: new Map(parts.flatMap(({ materialTitles }) => [...materialTitles])),
  };
}

function compareParts(a: WorldPart, b: WorldPart, size: number): Difference[] {
  const tolerance = toleranceOf([a, b], size);
  if (isSameCornerByCorner(a, b, tolerance)) return [];
  const [first, second] = [look(a, tolerance), look(b, tolerance)];
  const [there, back] = [matchPlaces(first.cloud, second.cloud), matchPlaces(second.cloud, first.cloud)];
  const [lost, gained] = [there, back].map((matches) =>
    matches.reduce((sum, index) => sum + Number(index < 0), 0),
  );
  const place = { part: a.title };
  if (lost + gained > 0) {
    if (isSameShape(first, second, tolerance))
      return [
        difference('part.moved', `${a.title} stands elsewhere, or is turned`, {
          ...place,
          measured: apart(first.cloud, second.cloud),
          allowed: tolerance,
        }),
      ];
    return [
      difference(
        'shape.points',
        `${a.title}: ${lost} of ${first.cloud.size} places are not there, ${gained} are there besides`,
        {
          ...place,
          measured: lost + gained,
          allowed: 0,
        },
      ),
    ];
  }
  const out: Difference[] = [];
  const faces = compareFaces(first, second);
  if (faces)
    out.push(
      difference('shape.faces', `${a.title}: ${faces}`, {
        ...place,
        measured: second.triangles,
        allowed: first.triangles,
      }),
    );
  const turned = countTurned(first, second, there);
  if (turned > 0)
    out.push(
      difference(
        'shape.winding',
        `${a.title}: faces at ${turned} of ${first.cloud.size} places look the other way`,
        { ...place, measured: turned, allowed: 0 },
      ),
    );
  out.push(...compareAttributes([first, second], [there, back]));
  const materials = compareMaterialsOfFaces(first, second, there);
  if (materials)
    out.push(
      difference('shape.materials', `${a.title}: ${materials}`, {
        ...place,
        measured: materials,
        allowed: null,
      }),
    );
  return out;
}

/** A part by its places: what meets there. */
interface Look {
  part: WorldPart;
  cloud: Cloud;
  /** Number of the place per corner. */
  placeOf: Int32Array;
  /**
   * x, y, z per place: unit face normals weighted by the angles at their corners, which no cut into triangles
   * changes.
   */
  facing: Float64Array;
  triangles: number;
  /** Square metres; least and most where polygons are not plane and can be cut in several ways. */
  area: Range;
  /** Triangles without area, which some writers leave out. */
  thin: number;
  areas: Map<string, Range>;
}

type Range = [number, number];

function look(part: WorldPart, tolerance: number): Look {
  const { points, faces, materials } = part;
  const cloud = new Cloud(tolerance);
  const placeOf = new Int32Array(points.length / 3);
  for (let corner = 0; corner < placeOf.length; corner += 1)
    placeOf[corner] = cloud.add(points[corner * 3], points[corner * 3 + 1], points[corner * 3 + 2]);
  const facing = new Float64Array(cloud.size * 3);
  const areas = new Map<string, Range>();
  const area: Range = [0, 0];
  let [start, triangles, thin] = [0, 0, 0];
  faces.forEach((count, face) => {
    triangles += Math.max(0, count - 2);
    const normal = faceVector(points, start, count);
    const length = length3(normal[0], normal[1], normal[2]);
    const values: Range = [
      length / 2,
      count < 4 ? length / 2 : Math.max(length / 2, largestCut(points, start, count)),
    ];
    grow(area, values);
    const existing = areas.get(materials[face]);
    if (existing) grow(existing, values);
    else areas.set(materials[face], values);
    for (let k = 0; k < count; k += 1) {
      const angle = cornerAngle(points, start, count, k);
      if (angle < 1e-4 || angle > Math.PI - 1e-4) thin += 1;
      if (length === 0) continue;
      for (let axis = 0; axis < 3; axis += 1)
        facing[placeOf[start + k] * 3 + axis] += (angle * normal[axis]) / length;
    }
    start += count;
  });
  return { part, cloud, placeOf, facing, triangles, area, thin, areas };
}

function grow(range: Range, [least, most]: Range): void {
  range[0] += least;
  range[1] += most;
}

/** Fans that are tried of large polygons. */
const FANS = 12;

/** The largest area of a face over its fans of triangles; of plane convex faces all are the same. */
function largestCut(points: Float64Array, start: number, count: number): number {
  let most = 0;
  // The other two corners of a quad cut it as the first two do.
  for (let first = 0; first < (count === 4 ? 2 : Math.min(count, FANS)); first += 1) {
    let sum = 0;
    for (let k = 1; k + 1 < count; k += 1)
      sum += triangleArea(
        points,
        start + first,
        start + ((first + k) % count),
        start + ((first + k + 1) % count),
      );
    most = Math.max(most, sum);
  }
  return most;
}

function triangleArea(points: Float64Array, a: number, b: number, c: number): number {
  const [x, y, z] = [points[a * 3], points[a * 3 + 1], points[a * 3 + 2]];
  const [ux, uy, uz] = [points[b * 3] - x, points[b * 3 + 1] - y, points[b * 3 + 2] - z];
  const [vx, vy, vz] = [points[c * 3] - x, points[c * 3 + 1] - y, points[c * 3 + 2] - z];
  return length3(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
}

/** Several times as fast as Math.hypot, which minds numbers too large to be squared. */
function length3(x: number, y: number, z: number): number {
  return Math.sqrt(x * x + y * y + z * z);
}

/** Whether two areas cannot be the same, however their polygons are cut. */
function isOtherArea(a: Range, b: Range, whole: number): boolean {
  const slack = GEOMETRY_TOLERANCE.area * whole;
  return a[0] > b[1] + slack || b[0] > a[1] + slack;
}

/** Twice the vector area of a face, by Newell. */
function faceVector(points: Float64Array, start: number, count: number): [number, number, number] {
  const out: [number, number, number] = [0, 0, 0];
  const [ox, oy, oz] = [points[start * 3], points[start * 3 + 1], points[start * 3 + 2]];
  for (let k = 1; k + 1 < count; k += 1) {
    const [p, q] = [(start + k) * 3, (start + k + 1) * 3];
    const [ux, uy, uz] = [points[p] - ox, points[p + 1] - oy, points[p + 2] - oz];
    const [vx, vy, vz] = [points[q] - ox, points[q + 1] - oy, points[q + 2] - oz];
    out[0] += uy * vz - uz * vy;
    out[1] += uz * vx - ux * vz;
    out[2] += ux * vy - uy * vx;
  }
  return out;
}

function cornerAngle(points: Float64Array, start: number, count: number, k: number): number {
  const here = (start + k) * 3;
  const before = (start + (k === 0 ? count - 1 : k - 1)) * 3;
  const after = (start + (k === count - 1 ? 0 : k + 1)) * 3;
  const [ux, uy, uz] = [
    points[before] - points[here],
    points[before + 1] - points[here + 1],
    points[before + 2] - points[here + 2],
  ];
  const [vx, vy, vz] = [
    points[after] - points[here],
    points[after + 1] - points[here + 1],
    points[after + 2] - points[here + 2],
  ];
  return Math.atan2(
    length3(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx),
    ux * vx + uy * vy + uz * vz,
  );
}

/** For each place of one cloud the one of the other, or -1. */
function matchPlaces(from: Cloud, to: Cloud): Int32Array {
  const { places } = from;
  return Int32Array.from({ length: from.size }, (_, i) =>
    to.find(places[i * 3], places[i * 3 + 1], places[i * 3 + 2]),
  );
}

function centreOf({ places, size }: Cloud): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < places.length; i += 1) sum[i % 3] += places[i];
  return sum.map((value) => value / size) as [number, number, number];
}

function apart(a: Cloud, b: Cloud): number {
  const [first, second] = [centreOf(a), centreOf(b)];
  return Math.hypot(...first.map((value, k) => value - second[k]));
}

/** The same distances from the middle, in order: a moved or turned part keeps them. */
function isSameShape(a: Look, b: Look, tolerance: number): boolean {
  if (a.cloud.size !== b.cloud.size) return false;
  const distances = ({ cloud }: Look) => {
    const [x, y, z] = centreOf(cloud);
    return Float64Array.from({ length: cloud.size }, (_, i) =>
      Math.hypot(cloud.places[i * 3] - x, cloud.places[i * 3 + 1] - y, cloud.places[i * 3 + 2] - z),
    ).sort();
  };
  const [first, second] = [distances(a), distances(b)];
  return first.every((value, i) => Math.abs(value - second[i]) <= tolerance * 4);
}

function compareFaces(a: Look, b: Look): string | null {
  if (isOtherArea(a.area, b.area, Math.max(a.area[1], b.area[1])))
    return `its area is ${b.area[0].toPrecision(5)} square metres, not ${a.area[0].toPrecision(5)}`;
  const few = a.triangles - a.thin;
  if (b.triangles <= a.triangles + b.thin && b.triangles >= few) return null;
  return `${b.triangles} triangles, not ${a.triangles}`;
}

function countTurned(a: Look, b: Look, matches: Int32Array): number {
  let turned = 0;
  matches.forEach((other, i) => {
    const [index, to] = [i * 3, other * 3];
    const dot =
      a.facing[index] * b.facing[to] +
      a.facing[index + 1] * b.facing[to + 1] +
      a.facing[index + 2] * b.facing[to + 2];
    const [first, second] = [
      Math.hypot(a.facing[index], a.facing[index + 1], a.facing[index + 2]),
      Math.hypot(b.facing[to], b.facing[to + 1], b.facing[to + 2]),
    ];
    // Where faces cancel out each other nothing can be told.
    if (first > 0.05 && (second < 0.5 * first || dot < 0.5 * first * second)) turned += 1;
  });
  return turned;
}

interface Attribute {
  code: 'shape.normals' | 'shape.uv' | 'shape.colours';
  title: string;
  size: number;
  allowed: number;
  a: Float64Array | null;
  b: Float64Array | null;
}

function compareAttributes(
  [one, two]: readonly [Look, Look],
  [there, back]: readonly Int32Array[],
): Difference[] {
  const [a, b] = [one.part, two.part];
  const [cornersA, cornersB] = [cornersByPlace(one), cornersByPlace(two)];
  const { normal, uv, colour } = GEOMETRY_TOLERANCE;
  const attributes: Attribute[] = [
    { code: 'shape.normals', title: 'normals', size: 3, allowed: normal, a: a.normals, b: b.normals },
    ...a.uvSets.map(
      (values, i): Attribute => ({
        code: 'shape.uv',
        title: `UV set ${i + 1}`,
        size: 2,
        allowed: uv,
        a: values,
        b: b.uvSets[i] ?? null,
      }),
    ),
    ...a.colours.map(
      (values, i): Attribute => ({
        code: 'shape.colours',
        title: `colours ${i + 1}`,
        size: 3,
        allowed: colour,
        a: values,
        b: b.colours[i] ?? null,
      }),
    ),
  ];
  return attributes.flatMap(({ code, title, size, allowed, a: values, b: other }) => {
    if (!values) return [];
    if (!other)
      return [
        difference(code, `${a.title}: the ${title} are not there`, {
          part: a.title,
          measured: 'none',
          allowed,
        }),
      ];
    const [first, second] = [
      { look: one, values: values, byPlace: cornersA },
      { look: two, values: other, byPlace: cornersB },
    ];
    const off =
      countOff(first, second, there, { size, allowed }) + countOff(second, first, back, { size, allowed });
    return off === 0
      ? []
      : [
          difference(code, `${a.title}: the ${title} differ at ${off} corners`, {
            part: a.title,
            measured: off,
            allowed,
          }),
        ];
  });
}

/** One attribute of a part's corners. */
interface Corners {
  look: Look;
  values: Float64Array;
  byPlace: CornersByPlace;
}

/** Corners whose value no corner at the same place of the other has. */
function countOff(
  a: Corners,
  b: Corners,
  matches: Int32Array,
  { size, allowed }: Pick<Attribute, 'size' | 'allowed'>,
): number {
  const lists = b.byPlace;
  const { placeOf } = a.look;
  const [values, others] = [a.values, b.values];
  let off = 0;
  for (let corner = 0; corner < placeOf.length; corner += 1) {
    const place = matches[placeOf[corner]];
    const index = corner * size;
    let near = false;
    for (let i = lists.starts[place]; i < lists.starts[place + 1] && !near; i += 1) {
      const to = lists.corners[i] * size;
      near = true;
      for (let k = 0; k < size && near; k += 1)
        near = Math.abs(values[index + k] - others[to + k]) <= allowed;
    }
    if (!near) off += 1;
  }
  return off;
}

/** Corners sorted by their place, and where those of each begin. */
interface CornersByPlace {
  starts: Uint32Array;
  corners: Uint32Array;
}

function cornersByPlace({ placeOf, cloud }: Look): CornersByPlace {
  const starts = new Uint32Array(cloud.size + 1);
  for (const place of placeOf) starts[place + 1] += 1;
  for (let i = 0; i < cloud.size; i += 1) starts[i + 1] += starts[i];
  const next = starts.slice();
  const corners = new Uint32Array(placeOf.length);
  placeOf.forEach((place, corner) => {
    corners[next[place]] = corner;
    next[place] += 1;
  });
  return { starts, corners };
}

/** What is wrong with the materials of faces, in words; null where nothing is. */
function compareMaterialsOfFaces(a: Look, b: Look, matches: Int32Array): string | null {
  for (const [name, area] of a.areas) {
    const other = b.areas.get(name) ?? [0, 0];
    const title = a.part.materialTitles.get(name) || 'no material';
    if (isOtherArea(area, other, a.area[1]))
      return `${title} covers ${other[0].toPrecision(4)} square metres, not ${area[0].toPrecision(4)}`;
  }
  const [first, second] = [materialsByPlace(a), materialsByPlace(b)];
  let off = 0;
  matches.forEach((other, i) => {
    if (first[i] !== second[other]) off += 1;
  });
  return off === 0 ? null : `faces at ${off} places have other materials`;
}

/** Names of the materials that meet at each place, in order. */
function materialsByPlace({ part, placeOf, cloud }: Look): string[] {
  const sets = Array.from({ length: cloud.size }, () => new Set<string>());
  let corner = 0;
  part.faces.forEach((count, face) => {
    for (let k = 0; k < count; k += 1, corner += 1) sets[placeOf[corner]].add(part.materials[face]);
  });
  return sets.map((names) => [...names].sort().join('\n'));
}
