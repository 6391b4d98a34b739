import { type Difference, difference } from './difference.ts';
import { GEOMETRY_TOLERANCE } from './extent.ts';
import type { Look } from './look.ts';
import { isOtherArea } from './look.ts';
import { countOtherSums, type Spread, type Wedges } from './wedges.ts';

interface Attribute extends Spread {
  code: 'shape.normals' | 'shape.tangents' | 'shape.uv' | 'shape.colours';
  title: string;
}

/**
 * Normals, UVs and colours of two parts, corner by corner: `there` and `back` say which place of the other
 * part each place lies at. Which corner at a place has which value is told where faces are the same: within
 * `tolerance`, null where they are not.
 */
export function compareAttributes(
  wedges: readonly [Wedges, Wedges],
  [there, back]: readonly Int32Array[],
  tolerance: number | null,
): Difference[] {
  const [one, two] = [wedges[0].look, wedges[1].look];
  const [a, b] = [one.part, two.part];
  const [cornersA, cornersB] = [cornersByPlace(one), cornersByPlace(two)];
  const { normal, uv, colour } = GEOMETRY_TOLERANCE;
  const attributes: Attribute[] = [
    { code: 'shape.normals', title: 'normals', size: 3, allowed: normal, a: a.normals, b: b.normals },
    { code: 'shape.tangents', title: 'tangents', size: 4, allowed: normal, a: a.tangents, b: b.tangents },
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
        size: 4,
        allowed: colour,
        a: values,
        b: b.colours[i] ?? null,
      }),
    ),
  ];
  return attributes.flatMap((attribute) => {
    const { code, title, size, allowed, a: values, b: other } = attribute;
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
      countOff(first, second, there, { size, allowed }) + countOff(second, first, back, { size, allowed }) ||
      (tolerance === null ? 0 : countOtherSums(wedges, there, attribute, tolerance));
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
  const isAt = (place: number, corner: number) => {
    const index = corner * size;
    let near = false;
    for (let i = lists.starts[place]; i < lists.starts[place + 1] && !near; i += 1) {
      const to = lists.corners[i] * size;
      near = true;
      for (let k = 0; k < size && near; k += 1)
        near = Math.abs(values[index + k] - others[to + k]) <= allowed;
    }
    return near;
  };
  const { points } = a.look.part;
  for (let corner = 0; corner < placeOf.length; corner += 1) {
    if (isAt(matches[placeOf[corner]], corner)) continue;
    // Which of several places so near to each other a corner is counted to is a matter of order.
    const [x, y, z] = [points[corner * 3], points[corner * 3 + 1], points[corner * 3 + 2]];
    if (!b.look.cloud.near(x, y, z).some((place) => isAt(place, corner))) off += 1;
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
export function compareMaterialsOfFaces(a: Look, b: Look, matches: Int32Array): string | null {
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
