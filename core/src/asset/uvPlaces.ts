import type { SceneDocument } from '../scene/document.ts';

/**
 * Where each UV set stands among those of its meshes, from 0: where images ask for it by name, else on the first
 * mesh that has it. Null where that is the order in which the names are listed.
 */
export function uvPlaces(
  { nodes, meshes, materials }: SceneDocument,
  listed: readonly string[],
): Record<string, number> | null {
  const named = materials.map(({ channels }) =>
    Object.values(channels).flatMap((channel) => (channel?.map?.uvSet ? [channel.map.uvSet] : [])),
  );
  const places = new Map<string, number>();
  for (const { mesh, materials: slots } of nodes)
    for (const name of slots.flatMap((slot) => named[slot] ?? [])) {
      const place = meshes[mesh]?.uvSets.findIndex((set) => set.name === name) ?? -1;
      if (place >= 0 && !places.has(name)) places.set(name, place);
    }
  for (const { uvSets } of meshes)
    uvSets.forEach(({ name }, place) => {
      if (!places.has(name)) places.set(name, place);
    });
  return listed.every((name, i) => places.get(name) === i) ? null : Object.fromEntries(places);
}
