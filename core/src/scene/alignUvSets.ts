import type { PolygonMesh, SceneDocument } from './document.ts';
import type { Material } from './material.ts';

/** More names than this that depend on each other are left as they are. */
const MOST = 7;

/** Name of a UV set as an image has it; null for the first one. */
type SetName = string | null;

/** Of each material the sets that its images name. */
type Named = readonly (readonly SetName[])[];

/** A mesh, and which of its sets images on it mean by a name. */
interface Asked {
  mesh: number;
  sets: Map<SetName, number>;
}

/**
 * The document with the UV sets of each mesh in such an order that a name that images ask for stands at one place on
 * all meshes: glTF says a place once for a material, and the view once for a name. Where no order does, a set stands
 * twice. Meshes that agree already stay as they are. `channelsOf` tells what a material shows, where that is not
 * what the document says.
 */
export function alignUvSets(
  document: SceneDocument,
  channelsOf = ({ channels }: Material): Material['channels'] => channels,
): SceneDocument {
  const named = document.materials.map((material) => [
    ...new Set(
      Object.values(channelsOf(material)).flatMap((channel) => (channel?.map ? [channel.map.uvSet] : [])),
    ),
  ]);
  const unlike = dependents(askedSets(document, named)).filter(differ);
  if (unlike.length === 0) return document;
  const meshes = [...document.meshes];
  for (const asked of unlike) {
    const names = [...new Set(asked.flatMap(({ sets }) => [...sets.keys()]))];
    const places = names.length > MOST ? null : agreedPlaces(names, kindsOf(asked, document.meshes));
    for (const { mesh, sets } of asked)
      if (places && [...sets].some(([name, set]) => places.get(name) !== set))
        meshes[mesh] = { ...meshes[mesh], uvSets: ordered(meshes[mesh], sets, places) };
  }
  return { ...document, meshes };
}

/** Meshes whose names depend on each other, since some stand on one mesh; the first set has its place anyway. */
function dependents(asked: readonly Asked[]): Asked[][] {
  const above = new Map<string, string>();
  const first = (name: string): string => {
    let at = name;
    for (let next = above.get(at); next !== undefined; next = above.get(at)) at = next;
    return at;
  };
  const namesOf = ({ sets }: Asked) => [...sets.keys()].filter((name) => name !== null);
  for (const own of asked) {
    const [one, ...others] = namesOf(own).map(first);
    for (const other of others) if (first(other) !== first(one)) above.set(first(other), first(one));
  }
  const groups = new Map<string, Asked[]>();
  for (const own of asked) {
    const [name] = namesOf(own);
    if (name === undefined) continue;
    const group = groups.get(first(name)) ?? [];
    groups.set(first(name), group);
    group.push(own);
  }
  return [...groups.values()];
}

/** The set that a name means on a mesh, or -1: programs fall back on the first one, save in USD. */
function meant({ format, meshes }: SceneDocument, mesh: number, name: SetName): number {
  const { uvSets } = meshes[mesh];
  const own = name === null ? 0 : uvSets.findIndex((set) => set.name === name);
  return own < 0 && format !== 'usd' && uvSets.length > 0 ? 0 : own;
}

/** Whether a name is found at different places. */
function differ(asked: readonly Asked[]): boolean {
  const found = new Map<SetName, number>();
  return asked.some(({ sets }) =>
    [...sets].some(([name, place]) => {
      const other = found.get(name) ?? place;
      found.set(name, place);
      return other !== place;
    }),
  );
}

function askedSets(document: SceneDocument, named: Named): Asked[] {
  const out = new Map<number, Asked>();
  for (const { mesh, materials: slots } of document.nodes) {
    if (mesh < 0 || document.meshes[mesh].uvSets.length === 0) continue;
    const own = out.get(mesh) ?? { mesh, sets: new Map<SetName, number>() };
    out.set(mesh, own);
    for (const name of slots.flatMap((slot) => named[slot] ?? [])) {
      const set = meant(document, mesh, name);
      if (set >= 0) own.sets.set(name, set);
    }
  }
  return [...out.values()];
}

/** What is asked of a mesh, and how many sets it has; many meshes are of one kind. */
interface Kind {
  sets: ReadonlyMap<SetName, number>;
  count: number;
}

function kindsOf(asked: readonly Asked[], meshes: readonly PolygonMesh[]): Kind[] {
  const kinds = asked.map(({ mesh, sets }): [string, Kind] => {
    const count = meshes[mesh].uvSets.length;
    return [JSON.stringify([count, ...sets]), { sets, count }];
  });
  return [...new Map(kinds).values()];
}

/** A place for each name, within every mesh's own number of sets where that can be. */
function agreedPlaces(names: readonly SetName[], kinds: readonly Kind[]): Map<SetName, number> {
  const search = (limit: (name: SetName) => number) => {
    const places = new Map<SetName, number>();
    const isFree = (name: SetName, place: number) =>
      kinds.every(({ sets }) => {
        const own = sets.get(name);
        if (own === undefined) return true;
        return [...sets].every(([other, set]) => {
          // At the first place a name that the mesh lacks is found as well as its own.
          return places.get(other) !== place || (place === 0 && set === own);
        });
      });
    const place = (k: number): boolean => {
      if (k === names.length) return true;
      // The first set is the first one wherever it is asked for.
      const end = names[k] === null ? 1 : limit(names[k]);
      for (let index = 0; index < end; index += 1) {
        if (!isFree(names[k], index)) continue;
        places.set(names[k], index);
        if (place(k + 1)) return true;
        places.delete(names[k]);
      }
      return false;
    };
    return place(0) ? places : null;
  };
  const fits = (name: SetName) =>
    Math.min(...kinds.filter(({ sets }) => sets.has(name)).map(({ count }) => count));
  return search(fits) ?? search(() => names.length) ?? new Map();
}

/**
 * What is not the first and stands in for a set that the mesh lacks is called like it, so that it is found again; a
 * set that is asked for by its own name is called so there alone.
 */
function ordered(
  { uvSets }: PolygonMesh,
  sets: ReadonlyMap<SetName, number>,
  places: ReadonlyMap<SetName, number>,
): PolygonMesh['uvSets'] {
  const out: PolygonMesh['uvSets'] = [];
  const copy = (set: PolygonMesh['uvSets'][number], index: number) => ({
    ...set,
    name: `${set.name}_${index}`,
  });
  for (const [name, index] of sets) {
    const [place, set] = [places.get(name), uvSets[index]];
    if (place === undefined) continue;
    const isElsewhere = sets.has(set.name) && places.get(set.name) !== place;
    if (name !== null && name !== set.name && place > 0) out[place] = { ...set, name };
    else out[place] = isElsewhere ? copy(set, place) : set;
  }
  const others = uvSets.filter((set, index) => !out.includes(set) && ![...sets.values()].includes(index));
  for (let at = 0; at < out.length; at += 1) out[at] ??= others.shift() ?? copy(out[out.length - 1], at);
  return [...out, ...others];
}
