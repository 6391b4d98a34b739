import type { SceneDocument } from '../scene/document.ts';
import { type Matrix4, multiply, toYUpMetres, worldMatrices } from '../scene/matrix.ts';
import { type Difference, difference } from './difference.ts';
import { GEOMETRY_TOLERANCE } from './extent.ts';
import { loneNodes } from './loneNodes.ts';
import { plainName, withoutNumber } from './worldParts.ts';

/** How far the ends of unit axes may lie apart: some formats keep turns in single floats of degrees. */
const TURN = 1e-3;

interface BarePlace {
  title: string;
  place: number[];
  /** The node's axes in the world, each of length 1; null where one of them is flat. */
  axes: number[][] | null;
}

/**
 * Compares where bare nodes stand and how they are turned: points to hang something on, with nothing to be seen
 * on or under them. Those of a name that both know once; OBJ has none, and joints are compared by what they
 * bend. Where `names` count, one that the second does not know is missing.
 */
export function comparePlaces(
  a: SceneDocument,
  b: SceneDocument,
  { size, names }: { size: number; names: boolean },
): Difference[] {
  if ([a, b].some(({ format }) => format === 'obj')) return [];
  const [first, second] = [barePlaces(a), barePlaces(b)];
  // Where names must be single, one may have got a number.
  const known = new Set(b.nodes.flatMap(({ name }) => [plainName(name), withoutNumber(plainName(name))]));
  const numbered = new Map([...second].map(([name, bare]) => [withoutNumber(name), bare]));
  const reach = Math.max(size, ...[...first.values()].flatMap(({ place }) => place.map(Math.abs)));
  const allowed = GEOMETRY_TOLERANCE.place * Math.max(reach, 1e-9);
  // What is written with other axes has nodes that are turned by quarters.
  const quarters = JSON.stringify(a.axes) !== JSON.stringify(b.axes);
  return [...first].flatMap(([name, bare]) => {
    const other = second.get(name) ?? numbered.get(name);
    if (other) return compareBare(bare, other, { allowed, quarters });
    if (!names || known.has(name)) return [];
    const message = `${bare.title}, which holds nothing, is not there`;
    return [difference('part.missing', message, { part: bare.title })];
  });
}

function compareBare(
  a: BarePlace,
  b: BarePlace,
  { allowed, quarters }: { allowed: number; quarters: boolean },
): Difference[] {
  const apart = distance(a.place, b.place);
  if (apart > allowed) {
    const message = `${a.title} stands ${apart.toPrecision(3)} m elsewhere`;
    return [difference('part.moved', message, { part: a.title, measured: apart, allowed })];
  }
  const turned = a.axes && b.axes ? turnBetween(a.axes, b.axes, quarters) : 0;
  if (turned <= TURN) return [];
  const degrees = (Math.asin(Math.min(1, turned / 2)) * 360) / Math.PI;
  const message = `${a.title} is turned by ${degrees.toPrecision(3)} degrees`;
  return [difference('part.moved', message, { part: a.title, measured: turned, allowed: TURN })];
}

/** The most that an axis lies apart; from whichever axis of the other, either way, where quarters do not count. */
function turnBetween(a: number[][], b: number[][], quarters: boolean): number {
  const apart = a.map((axis, k) =>
    quarters
      ? Math.min(
          ...b.flatMap((other) => [other, other.map((value) => -value)].map((to) => distance(axis, to))),
        )
      : distance(axis, b[k]),
  );
  return Math.max(...apart);
}

function distance(a: readonly number[], b: readonly number[]): number {
  return Math.hypot(...a.map((value, k) => value - b[k]));
}

function barePlaces(document: SceneDocument): Map<string, BarePlace> {
  const { nodes, skins, axes, metresPerUnit } = document;
  const full = new Set(skins.flatMap(({ joints }) => joints));
  nodes.forEach(({ mesh, camera, light }, index) => {
    const shows = mesh >= 0 || camera >= 0 || light >= 0 || full.has(index);
    for (let node = shows ? index : -1; node >= 0; node = nodes[node].parent) full.add(node);
  });
  const worlds = worldMatrices(nodes);
  const into = toYUpMetres(axes, metresPerUnit);
  return new Map(
    [...loneNodes(document)].flatMap(([name, i]) => {
      if (full.has(i)) return [];
      const world = multiply(into, worlds[i]);
      return [[name, { title: nodes[i].name, place: [...world.subarray(12, 15)], axes: axesOf(world) }]];
    }),
  );
}

function axesOf(world: Matrix4): number[][] | null {
  const columns = [0, 4, 8].map((from) => [...world.subarray(from, from + 3)]);
  const lengths = columns.map((column) => Math.hypot(...column));
  return lengths.some((length) => !(length > 1e-12))
    ? null
    : columns.map((column, k) => column.map((value) => value / lengths[k]));
}
