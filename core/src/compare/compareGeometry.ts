import { concatenated } from '../scene/concatenated.ts';
import type { Cloud } from './cloud.ts';
import { compareAttributes, compareMaterialsOfFaces } from './compareAttributes.ts';
import { type Difference, difference } from './difference.ts';
import { boundsOf, GEOMETRY_TOLERANCE, sizeOf, toleranceOf } from './extent.ts';
import { isOtherArea, type Look, look } from './look.ts';
import { resolveUnit, shareThere, standingsOf } from './standing.ts';
import { countReshaped, type Wedges, wedgesOf } from './wedges.ts';
import { type PartSides, type WorldPart, withoutNumber } from './worldParts.ts';

/**
 * Compares two models part by part, by what is to be seen: places of corners, faces, which way they look,
 * normals, UV sets, colours and the material of each face. How they are held (order, triangles or polygons,
 * split vertices, nodes) does not count. Parts are matched by name, else by their place; what cannot be
 * matched is compared as a whole, so that merged and cut parts are the same. Linear in corners. Where `names`
 * count, parts that are named otherwise differ.
 */
export function compareGeometry(
  a: readonly WorldPart[],
  b: readonly WorldPart[],
  { names = false }: { names?: boolean } = {},
): Difference[] {
  const size = sizeOf(a) || sizeOf(b);
  if (size === 0) return [];
  if (isSameThroughout(a, b, size)) return [];
  const differences: Difference[] = [];
  const [unit, scaled] = resolveUnit(a, b, size);
  if (unit) differences.push(unit);
  const standing = compareStanding(a, scaled, size);
  return [...differences, ...(names ? compareNames(a, scaled, size) : []), ...standing];
}

/** Untouched models are told by one pass, without looking for what lies where. */
function isSameThroughout(a: readonly WorldPart[], b: readonly WorldPart[], size: number): boolean {
  const byName = new Map(b.map((part) => [part.name, part]));
  return (
    a.length === b.length &&
    a.every((part) => {
      const other = byName.get(part.name);
      return (
        other !== undefined &&
        compareShown(part, other).length === 0 &&
        isSameCornerByCorner(part, other, toleranceOf([part, other], size))
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
    (a.tangents === null || isNear(a.tangents, b.tangents, normal)) &&
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

/** Programs find parts by name; where names must be single, one may have got a number. */
function compareNames(a: readonly WorldPart[], b: readonly WorldPart[], size: number): Difference[] {
  return matchParts(a, b, size).pairs.flatMap(([first, second]) => {
    if (withoutNumber(first.bare) === withoutNumber(second.bare)) return [];
    const where = { part: first.title, measured: second.title, allowed: first.title };
    return [difference('part.missing', `the part ${first.title} is named ${second.title}`, where)];
  });
}

/** How parts are shown, whatever their faces. */
function compareShown(a: WorldPart, b: WorldPart): Difference[] {
  return [...compareHidden(a, b), ...compareSaid(a, b)];
}

const SIDES: Record<PartSides, string> = {
  both: 'both sides',
  one: 'one side',
  forced: 'one side',
};

/** What USD says of parts: their sides, and whether their faces are those of a smooth surface's cage. */
function compareSaid(a: WorldPart, b: WorldPart): Difference[] {
  if (!a.usd || !b.usd) return [];
  const out: Difference[] = [];
  const [found, wanted] = [b.usd.sides, a.usd.sides];
  const [measured, allowed] = [b.usd.subdivision, a.usd.subdivision];
  // What materials themselves say is told of them.
  if ([found, wanted].includes('forced') && [found, wanted].includes('both'))
    out.push(
      difference('sides', `${a.title} shows ${SIDES[found]}, not ${SIDES[wanted]}`, {
        part: a.title,
        measured: SIDES[found],
        allowed: SIDES[wanted],
      }),
    );
  if (measured !== allowed) {
    const message = `${a.title}: its faces are subdivided as ${measured}, not as ${allowed}`;
    out.push(difference('shape.faces', message, { part: a.title, measured, allowed }));
  }
  return out;
}

/** A part that is there and that the file hides is as good as missing. */
function compareHidden(a: WorldPart, b: WorldPart): Difference[] {
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

/** By name and box, for names that several parts have; by name; then by box, for parts that were renamed. */
function matchParts(a: readonly WorldPart[], b: readonly WorldPart[], size: number): Matched {
  const tolerance = toleranceOf(a, size) * 4;
  const boxes = new Map<WorldPart, number[]>();
  const boxOf = (part: WorldPart) => {
    const measured = boxes.get(part);
    if (measured) return measured;
    const { min, max } = boundsOf([part]);
    const box = [...min, ...max];
    boxes.set(part, box);
    return box;
  };
  const sameBox = (one: WorldPart, other: WorldPart) => {
    const box = boxOf(other);
    return boxOf(one).every((value, k) => Math.abs(value - box[k]) <= tolerance);
  };
  const pairs: [WorldPart, WorldPart][] = [];
  const left = new Set(b);
  const pair = (parts: readonly WorldPart[], twinOf: (part: WorldPart) => WorldPart | undefined) =>
    parts.filter((part) => {
      const twin = twinOf(part);
      if (!twin) return true;
      pairs.push([part, twin]);
      left.delete(twin);
      return false;
    });
  // Occurrences may be counted in another order.
  const repeated = new Map<string, WorldPart[]>();
  for (const part of b) {
    const others = repeated.get(part.bare);
    if (others) others.push(part);
    else repeated.set(part.bare, [part]);
  }
  const unclear = pair(a, (part) => {
    const others = repeated.get(part.bare) ?? [];
    return others.length > 1 ? others.find((other) => left.has(other) && sameBox(part, other)) : undefined;
  });
  const byName = new Map([...left].map((part) => [part.name, part]));
  const onlyA = pair(unclear, ({ name }) => {
    const twin = byName.get(name);
    return twin && left.has(twin) ? twin : undefined;
  });
  const rest = pair(onlyA, (part) => [...left].find((other) => sameBox(part, other)));
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
  const ofAll = (of: (part: WorldPart) => Float64Array | null) =>
    parts.every(of) ? all((part) => of(part) ?? new Float64Array(0)) : null;
  const sets = Math.min(...parts.map(({ uvSets }) => uvSets.length));
  const colours = Math.min(...parts.map((part) => part.colours.length));
  return {
    name: '',
    bare: '',
    title: parts.map(({ title }) => title).join(', '),
    shown: parts.some(({ shown }) => shown),
    usd: null,
    faces: Uint32Array.from(parts.flatMap(({ faces }) => [...faces])),
    points: all(({ points }) => points),
    normals: ofAll(({ normals }) => normals),
    tangents: ofAll(({ tangents }) => tangents),
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
  const wedges: [Wedges, Wedges] = [wedgesOf(first), wedgesOf(second)];
  const faces = compareFaces(first, second) ?? reshaped(wedges, there, tolerance);
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
  out.push(...compareAttributes(wedges, [there, back], out.length > 0 ? null : tolerance));
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

function reshaped([a, b]: readonly [Wedges, Wedges], matches: Int32Array, tolerance: number): string | null {
  const count = countReshaped(a, b, matches, tolerance);
  return count === 0 ? null : `faces at ${count} of ${a.look.cloud.size} places have other corners`;
}

/** Faces that are so far from plane look anywhere, by how they are cut. */
const CRUMPLED = 0.15;
/** Bent faces that meet say something where they look one way at least by this share. */
const ALIKE = 0.25;
/** And faces count as plane that differ by less. */
const PLANE = 1e-4;

/**
 * Places whose faces look the other way. Where all of them are plane no cut into triangles moves what they say;
 * where some are not it does, but not to the other side.
 */
function countTurned(a: Look, b: Look, matches: Int32Array): number {
  let [turned, bent] = [0, 0];
  matches.forEach((other, i) => {
    const warp = Math.max(a.warp[i], b.warp[other]);
    if (warp > CRUMPLED) return;
    const [index, to] = [i * 3, other * 3];
    const dot =
      a.facing[index] * b.facing[to] +
      a.facing[index + 1] * b.facing[to + 1] +
      a.facing[index + 2] * b.facing[to + 2];
    const [first, second] = [
      Math.hypot(a.facing[index], a.facing[index + 1], a.facing[index + 2]),
      Math.hypot(b.facing[to], b.facing[to + 1], b.facing[to + 2]),
    ];
    // Where faces cancel out each other nothing can be told, and little of bent ones where they nearly do.
    if (first <= 0.05) return;
    const isTold = first > ALIKE * a.spread[i] && second > ALIKE * b.spread[other];
    const isOther = warp > PLANE ? isTold && dot < 0 : second < 0.5 * first || dot < 0.5 * first * second;
    if (isOther && warp > PLANE) bent += 1;
    else if (isOther) turned += 1;
  });
  // A face that is turned has three corners at least.
  return turned > 0 || bent >= 3 ? turned + bent : 0;
}
