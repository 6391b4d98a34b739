import type { SceneDocument } from '../scene/document.ts';
import { multiply, toYUpMetres, worldMatrices } from '../scene/matrix.ts';
import { type Difference, difference } from './difference.ts';
import { GEOMETRY_TOLERANCE } from './extent.ts';
import { loneNodes } from './loneNodes.ts';

/**
 * Compares where bare nodes stand: points to hang something on, with nothing to be seen on or under them. Those
 * of a name that both know once; OBJ has none, and joints are compared by what they bend.
 */
export function comparePlaces(a: SceneDocument, b: SceneDocument, size: number): Difference[] {
  if ([a, b].some(({ format }) => format === 'obj')) return [];
  const [first, second] = [barePlaces(a), barePlaces(b)];
  const reach = Math.max(size, ...[...first.values()].flatMap(({ place }) => place.map(Math.abs)));
  const allowed = GEOMETRY_TOLERANCE.place * Math.max(reach, 1e-9);
  return [...first].flatMap(([name, { title, place }]) => {
    const other = second.get(name);
    if (!other) return [];
    const apart = Math.hypot(...place.map((value, k) => value - other.place[k]));
    if (apart <= allowed) return [];
    const message = `${title} stands ${apart.toPrecision(3)} m elsewhere`;
    return [difference('part.moved', message, { part: title, measured: apart, allowed })];
  });
}

function barePlaces(document: SceneDocument): Map<string, { title: string; place: number[] }> {
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
      return [[name, { title: nodes[i].name, place: [...multiply(into, worlds[i]).subarray(12, 15)] }]];
    }),
  );
}
