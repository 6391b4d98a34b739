import type { PolygonMesh, SceneDocument } from './document.ts';

/** More sets than this in question are left as they are. */
const MOST = 7;

/** Of each material the sets that its images name; null for the first. */
type Named = readonly (readonly (string | null)[])[];

/** A mesh and the sets that images on it ask for by name. */
interface Asked {
  mesh: PolygonMesh;
  names: Set<string>;
}

/**
 * Puts the UV sets of each mesh in such an order that a material finds the set that it names at one place on all
 * meshes that it is on: glTF and USD say a place once for the material. Where no order does, a set takes the place
 * of one that its mesh does not have as well. Meshes that agree already stay as they are.
 */
export function alignUvSets(document: SceneDocument): void {
  const named = document.materials.map(({ channels }) => [
    ...new Set(Object.values(channels).flatMap((channel) => (channel?.map ? [channel.map.uvSet] : []))),
  ]);
  const asked = askedSets(document, named);
  const names = inQuestion(document, named, asked);
  if (names.length === 0 || names.length > MOST) return;
  const places = agreedPlaces(names, asked);
  for (const { mesh, names: own } of asked)
    mesh.uvSets = ordered(
      mesh,
      [...own].filter((name) => places.has(name)),
      places,
    );
}

/** What the images of each mesh's materials ask for; a material that wants the first set asks for it by name. */
function askedSets({ nodes, meshes }: SceneDocument, named: Named): Asked[] {
  const out = new Map<number, Asked>();
  for (const { mesh: index, materials: slots } of nodes) {
    const mesh = meshes[index];
    if (!mesh || mesh.uvSets.length === 0) continue;
    const own = out.get(index) ?? { mesh, names: new Set<string>() };
    out.set(index, own);
    const sets = slots.flatMap((slot) => named[slot] ?? []).map((name) => name ?? mesh.uvSets[0].name);
    for (const name of sets) if (placeOf(mesh, name) >= 0) own.names.add(name);
  }
  return [...out.values()];
}

function placeOf({ uvSets }: PolygonMesh, name: string): number {
  return uvSets.findIndex((set) => set.name === name);
}

/** The names to be placed: all that are asked for, once a material finds one of them at different places. */
function inQuestion({ nodes, meshes }: SceneDocument, named: Named, asked: readonly Asked[]): string[] {
  const found = new Map<string, number>();
  const differs = nodes.some(({ mesh, materials: slots }) =>
    slots.some((slot) =>
      named[slot]?.some((name) => {
        const place = name !== null && meshes[mesh] ? placeOf(meshes[mesh], name) : -1;
        if (place < 0) return false;
        const key = `${slot} ${name}`;
        const other = found.get(key);
        found.set(key, place);
        return other !== undefined && other !== place;
      }),
    ),
  );
  return differs ? [...new Set(asked.flatMap(({ names }) => [...names]))] : [];
}

/** A place for each name, different ones on each mesh; within every mesh's own number of sets where that can be. */
function agreedPlaces(names: readonly string[], asked: readonly Asked[]): Map<string, number> {
  const most = Math.max(...asked.map(({ mesh }) => mesh.uvSets.length));
  const search = (limit: (name: string) => number) => {
    const places = new Map<string, number>();
    const isFree = (name: string, place: number) =>
      asked.every(
        ({ names: own }) => !own.has(name) || [...own].every((other) => places.get(other) !== place),
      );
    const place = (k: number): boolean => {
      if (k === names.length) return true;
      for (let at = 0; at < limit(names[k]); at += 1) {
        if (!isFree(names[k], at)) continue;
        places.set(names[k], at);
        if (place(k + 1)) return true;
        places.delete(names[k]);
      }
      return false;
    };
    return place(0) ? places : null;
  };
  const fits = (name: string) =>
    Math.min(...asked.filter(({ names: own }) => own.has(name)).map(({ mesh }) => mesh.uvSets.length));
  return search(fits) ?? search(() => Math.max(most, names.length)) ?? new Map();
}

function ordered(
  mesh: PolygonMesh,
  names: readonly string[],
  places: ReadonlyMap<string, number>,
): PolygonMesh['uvSets'] {
  const out: PolygonMesh['uvSets'] = [];
  for (const name of names) out[places.get(name) as number] = mesh.uvSets[placeOf(mesh, name)];
  const others = mesh.uvSets.filter((set) => !out.includes(set));
  for (let at = 0; at < out.length; at += 1) out[at] ??= others.shift() ?? out[out.length - 1];
  return [...out, ...others];
}
